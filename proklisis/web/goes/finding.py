"""The long work on a session film: finding its goes, and making the copy that browsers play."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from django.core.files import File
from django.db import transaction
from django.db.models import F

from proklisis.core.review import playbook
from proklisis.footage.limited import limited
from proklisis.footage.probe import Clip as Footage
from proklisis.footage.probe import probe
from proklisis.footage.working_copy import make_working_copy
from proklisis.web.goes.models import Go, SessionFilm
from proklisis.web.runs.jobs import put
from proklisis.web.runs.reporting import BUSY, Reporter, ending_readably
from proklisis.web.stored import on_disk

if TYPE_CHECKING:
    from proklisis.footage.goes import Go as Found

#: Processor time for the film, seconds; for each of its frames that are decoded; and for each second that is searched.
LOOK_CPU_S, FRAME_CPU_S, SEARCH_CPU_S = 300.0, 0.5, 20.0
#: Share of the work at which the goes are found.
FOUND = 0.75


def enqueue(session: SessionFilm) -> None:
    """Put a session film into the queue as a new attempt."""
    with transaction.atomic():
        SessionFilm.objects.filter(pk=session.pk).update(
            attempt=F("attempt") + 1, state=SessionFilm.State.QUEUED, step="", progress=0.0, problem="", cancel_asked=False,
        )  # fmt: skip
        session.refresh_from_db()
        put("find_goes", session_id=session.pk, of_attempt=session.attempt)


def film_is_here(film_id: int) -> None:
    """Begin the work on the session whose film has arrived."""
    session = SessionFilm.objects.filter(film=film_id, state=SessionFilm.State.WAITING).first()
    if session is not None:
        enqueue(session)


def cancel(session: SessionFilm) -> None:
    """Stop the work; what was found stays. A worker that has it stops at its next report."""
    SessionFilm.objects.filter(pk=session.pk, state__in=BUSY).update(
        cancel_asked=True, state=SessionFilm.State.CANCELLED, step="", problem=""
    )
    session.refresh_from_db()


def find_goes(session_id: int, attempt: int) -> None:
    """Look at the film, find its goes where nobody has yet, and make the copy."""
    session = (
        SessionFilm.objects.select_related("film")
        .filter(pk=session_id, attempt=attempt, state__in=BUSY)
        .first()
    )
    if session is None:
        return
    with ending_readably(session_id, attempt, SessionFilm):
        reporter = Reporter(session_id, attempt, SessionFilm)
        reporter.step("Looking at the film", 0.0)
        with on_disk(session.film.file, session.film.name) as path:
            name = session.film.name
            footage: Footage = limited(
                probe, path, name=name, seconds=LOOK_CPU_S, alive=reporter.alive
            )
            SessionFilm.objects.filter(pk=session_id).update(
                length_s=float(footage.t[-1]), fps=footage.fps, width=footage.width, height=footage.height
            )  # fmt: skip
            if not session.searched:
                _find(session, footage, reporter)
            if not session.working:
                _copy(session, footage, reporter)
        SessionFilm.objects.filter(pk=session_id, attempt=attempt, state__in=BUSY).update(
            state=SessionFilm.State.READY, step="", progress=1.0, problem=""
        )


def give_up(session_id: int, attempt: int) -> None:
    """The work was lost again and again: the film may be what kills the worker."""
    SessionFilm.objects.filter(pk=session_id, attempt=attempt, state__in=BUSY).update(
        state=SessionFilm.State.FAILED, step="",
        problem="The worker was lost again and again over this film; the film is kept. Cut it into shorter ones.",
    )  # fmt: skip


def _find(session: SessionFilm, footage: Footage, reporter: Reporter) -> None:
    # The tracker loads for seconds, and only a worker needs it.
    from proklisis.footage.goes import find_goes as search
    from proklisis.footage.goes import rides_from

    reporter.step("Looking for goes", 0.02)
    found: list[Found] = limited(
        search, footage, rides_from(playbook(session.discipline).speed_ms), name=session.film.name,
        seconds=LOOK_CPU_S + SEARCH_CPU_S * float(footage.t[-1]), progress=reporter.share(0.02, FOUND), alive=reporter.alive,
    )  # fmt: skip
    with transaction.atomic():
        session.goes.all().delete()
        Go.objects.bulk_create(
            Go(
                session=session, from_s=g.from_s, to_s=g.to_s, who=g.rider + 1,
                at_s=float(footage.t[g.frame]), box=[round(v, 1) for v in g.box],
            )
            for g in found
        )  # fmt: skip
        SessionFilm.objects.filter(pk=session.pk).update(searched=True, version=F("version") + 1)


def _copy(session: SessionFilm, footage: Footage, reporter: Reporter) -> None:
    reporter.step("Making the copy to play", FOUND)
    with tempfile.TemporaryDirectory(prefix="proklisis-") as folder:
        out = Path(folder) / "working.mp4"
        _, height = limited(
            make_working_copy, footage, out, name=session.film.name, seconds=LOOK_CPU_S + FRAME_CPU_S * len(footage.t),
            progress=lambda share: reporter.share(FOUND, 1.0)(int(1000 * share), 1000), alive=reporter.alive,
        )  # fmt: skip
        with out.open("rb") as f:
            session.working.save("working.mp4", File(f), save=False)
        mine = {"working": session.working.name, "play_height": height}
        if not SessionFilm.objects.filter(pk=session.pk, working="").update(**mine):
            session.working.delete(save=False)
