"""The table of a film's goes: put right by the coach as a whole, and made into runs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypedDict

from django.db import transaction
from django.db.models import F, Q

from proklisis.core.errors import InputError
from proklisis.web.clips import sharing
from proklisis.web.errors import Conflict
from proklisis.web.goes.models import Go, SessionFilm
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.runs.usual import usual
from proklisis.web.runs.writing import changed, one_writer

#: A go that is shorter shows nothing to judge, seconds (house choice).
SHORTEST_S = 0.5
#: So much is taken along before and after a go: the rider is followed better from a moment before (house choice), seconds.
AROUND_S = 0.3
#: More goes than that are in no film.
MOST = 500


class Row(TypedDict):
    """A go as the coach wants it; without ``id`` it is a new one."""

    id: int | None
    from_s: float
    to_s: float
    who: int
    rider: Rider | None
    left_out: bool
    #: Of a new one: when its rider is well seen, and where then.
    at_s: float | None
    box: list[float] | None


class Stale(Conflict):
    default_detail = "Somebody else has changed these goes meanwhile. They are shown as they are now; make your change again."


def put_right(session: SessionFilm, rows: Sequence[Row], version: int) -> SessionFilm:
    """Make the table what ``rows`` say; goes that are not among them are gone.

    A go that a run was made of keeps its times; its run gets the rider. Raises Stale where the table is not of this
    ``version`` any more, InputError for times outside the film, Conflict for what a run rests on.
    """
    with transaction.atomic():
        now = SessionFilm.objects.select_for_update().get(pk=session.pk)
        if now.version != version:
            raise Stale
        old = {g.pk: g for g in now.goes.select_related("run__rider", "rider")}
        _check(now, rows, old)
        for pk, go in old.items():
            if pk not in {r["id"] for r in rows}:
                go.delete()
        for row in rows:
            _write(now, row, old.get(row["id"] or 0))
        SessionFilm.objects.filter(pk=session.pk).update(version=F("version") + 1)
    session.refresh_from_db()
    return session


def made_of(go: Go) -> Run | None:
    """The run that a go was made into and that is still there."""
    return go.run if go.run is not None and go.run.removed_at is None else None


def judge(session: SessionFilm) -> list[Run]:
    """Make a run of every go that has a rider, none yet, and is not left out; its part of the film is followed and judged."""
    made = []
    with transaction.atomic():
        now = SessionFilm.objects.select_for_update().get(pk=session.pk)
        free = Q(run=None) | Q(run__removed_at__isnull=False)
        goes = now.goes.filter(free, left_out=False).exclude(rider=None).select_related("rider")
        for go in goes:
            assert go.rider is not None
            run = Run.objects.create(
                club=now.club, rider=go.rider, discipline=now.discipline, view=now.view, filmed_on=now.filmed_on,
                title=now.title, **_as_usual(go.rider, now.discipline),
            )  # fmt: skip
            aim = sharing.Aim(s=go.at_s, box=go.box) if go.at_s is not None and go.box else None
            first, last = max(0.0, go.from_s - AROUND_S), min(now.length_s, go.to_s + AROUND_S)
            sharing.use(now.film, run, first, last, aim)
            Go.objects.filter(pk=go.pk).update(run=run)
            made.append(run)
        SessionFilm.objects.filter(pk=session.pk).update(version=F("version") + 1)
    session.refresh_from_db()
    return made


def _as_usual(rider: Rider, discipline: str) -> dict[str, object]:
    """What is taken from the rider's last run, where it was of this discipline."""
    last = usual(rider)
    if last["as_on"] is None or last["discipline"] != discipline:
        return {"level": rider.level}
    return {
        k: last[k] for k in ("level", "conditions", "gear", "intention_text", "intention_faults")
    }


def _check(session: SessionFilm, rows: Sequence[Row], old: dict[int, Go]) -> None:
    if len(rows) > MOST:
        raise InputError(
            f"these are {len(rows)} goes", "goes", f"a film has {MOST} at the most; cut it"
        )
    ids = [r["id"] for r in rows if r["id"] is not None]
    if unknown := set(ids) - set(old):
        raise InputError(f"this film has no go {min(unknown)}", "goes", "load the page again")
    if len(ids) != len(set(ids)):
        raise InputError("a go stands twice in the table", "goes", "load the page again")
    for pk, go in old.items():
        if (run := made_of(go)) is not None and pk not in ids:
            raise Conflict(
                f"A run of {run.rider.name} was made of the go at {go.from_s:.1f} s. Remove that run first, on the Desk."
            )
    for r in rows:
        if not 0 <= r["from_s"] <= r["to_s"] <= session.length_s + 1e-3:
            raise InputError(
                f"a go from {r['from_s']:.1f} to {r['to_s']:.1f} s does not lie in the film",
                "goes",
                f"the film goes from 0 to {session.length_s:.1f} s",
            )
        if r["to_s"] - r["from_s"] < SHORTEST_S:
            raise InputError(
                f"the go at {r['from_s']:.1f} s would be {r['to_s'] - r['from_s']:.2f} s long",
                "goes",
                f"a go has {SHORTEST_S:g} s at the least",
            )
        kept = old.get(r["id"] or 0)
        if kept is not None and (run := made_of(kept)) is not None:
            if abs(kept.from_s - r["from_s"]) > 1e-6 or abs(kept.to_s - r["to_s"]) > 1e-6:
                raise Conflict(
                    f"A run of {run.rider.name} was made of the go at {kept.from_s:.1f} s, so it keeps its times. Remove that run first, on the Desk."
                )
            if r["rider"] is None:
                raise Conflict("A go with a run needs a rider.")


def _write(session: SessionFilm, row: Row, go: Go | None) -> None:
    go = go or Go(
        session=session, at_s=row["at_s"], box=row["box"] if row["at_s"] is not None else None
    )
    go.from_s, go.to_s = row["from_s"], row["to_s"]
    go.who, go.rider, go.left_out = row["who"], row["rider"], row["left_out"]
    if go.at_s is not None and not go.from_s <= go.at_s <= go.to_s:
        go.at_s = go.box = None  # the picture is of what was cut off
    go.save()
    run = made_of(go)
    if run is not None and row["rider"] is not None and run.rider_id != row["rider"].pk:
        with one_writer(run):
            run.rider, run.level = row["rider"], row["rider"].level
            run.save(update_fields=["rider", "level"])
            changed(run=run)
