"""Looking at a clip as soon as it is here, and what becomes of it then."""

from __future__ import annotations

import logging
from datetime import timedelta
from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.footage.limited import limited
from proklisis.footage.probe import Clip as Footage
from proklisis.footage.probe import probe
from proklisis.web.clips import sharing
from proklisis.web.clips.removing import erase
from proklisis.web.errors import Conflict
from proklisis.web.intake.models import Sender, Sent
from proklisis.web.intake.words import NOT_KNOWN, advice
from proklisis.web.riders.agreeing import note
from proklisis.web.riders.models import Agreed, Rider
from proklisis.web.runs.models import Run
from proklisis.web.runs.writing import changed
from proklisis.web.stored import on_disk

if TYPE_CHECKING:
    from proklisis.footage.people import Someone

#: Processor time for looking, seconds, and for each picture that is looked at.
LOOK_CPU_S, FRAME_CPU_S = 300.0, 0.2
#: A clip that did not come whole, and a sender whom nobody let in after the link's end, are kept so long.
KEPT_BROKEN, KEPT_UNKNOWN = timedelta(days=3), timedelta(days=30)
log = logging.getLogger(__name__)
GIVEN_UP = "It could not be opened here: whatever opened it was stopped each time. Send the original from the camera."


def look(sent_id: int) -> None:
    """Open a sent clip, see who is in it, and tell its sender; a known sender's goes on to be judged."""
    sent = Sent.objects.select_related("film", "sender__intake").filter(pk=sent_id, state=Sent.State.LOOKING).first()  # fmt: skip
    if sent is None or sent.film is None:
        return
    try:
        footage, people = _looked(sent)
    except InputError as e:
        unreadable(sent, str(e))
        return
    except Exception:
        # Ours to mend, not the sender's: a coach sees the clip all the same.
        log.exception("sent clip %s could not be looked at", sent.pk)
        held(sent, [])
        return
    if not people:
        unreadable(sent, NOT_KNOWN)
        return
    said = advice(footage.filmed_fps or footage.fps, float(footage.t[-1]), people[0].heights, len(people))  # fmt: skip
    held(sent, said)


def held(sent: Sent, said: list[str]) -> None:
    """Keep a clip for the coach; a known sender's goes on at once."""
    rows = Sent.objects.filter(pk=sent.pk, state=Sent.State.LOOKING)
    if rows.update(state=Sent.State.HELD, advice=said) and sent.sender.rider_id is not None:
        make_run(sent.pk)


def _looked(sent: Sent) -> tuple[Footage, list[Someone]]:
    # The tracker loads for seconds, and only a worker needs it.
    from proklisis.footage.people import find_people

    assert sent.film is not None
    with on_disk(sent.film.file, sent.name) as path:
        footage: Footage = limited(probe, path, name=sent.name, seconds=LOOK_CPU_S)
        seconds = LOOK_CPU_S + FRAME_CPU_S * len(footage.t)
        return footage, limited(find_people, footage, name=sent.name, seconds=seconds)


def unreadable(sent: Sent, problem: str) -> None:
    """Tell the sender that a clip cannot be judged; its file is let go."""
    rows = Sent.objects.filter(pk=sent.pk, state=Sent.State.LOOKING)
    if rows.update(state=Sent.State.UNREADABLE, problem=problem[:500]):
        let_go(sent)


def give_up(sent_id: int) -> None:
    """The looking was lost again and again: the clip may be what kills the worker."""
    if (sent := Sent.objects.filter(pk=sent_id).first()) is not None:
        unreadable(sent, GIVEN_UP)


def let_go(sent: Sent) -> None:
    """Delete the file of a clip that became no run."""
    film = sent.film
    Sent.objects.filter(pk=sent.pk).update(film=None)
    if film is not None and sent.run_id is None:
        film.delete()


def let_in(sender: Sender, rider: Rider, by: Any, stance: str = "") -> list[Run]:
    """Say who a sender is: what they agreed to is noted with the rider, and what they sent becomes runs.

    Where the sender says another foot in front than the club has, ``stance`` says which it is; Conflict where it does not.
    """
    with transaction.atomic():
        Sender.objects.select_for_update().get(pk=sender.pk)
        if not stance and foot_differs(sender, rider):
            raise Conflict(
                f"{sender.name} says {sender.stance}, and the club has {rider.name} as {rider.stance}. Say which foot is in front."
            )
        sender.rider = rider
        # It is settled for the clips that come after these too.
        sender.stance = stance or sender.stance
        sender.save(update_fields=["rider", "stance"])
        note_consent(sender, rider, by)
        if sender.stance and rider.stance != sender.stance:
            known = bool(rider.stance)
            rider.stance = sender.stance
            rider.save(update_fields=["stance"])
            if known:
                # The numbers of their runs rest on it.
                changed(run__rider=rider)
    held = sender.sent.filter(state=Sent.State.HELD).values_list("pk", flat=True)
    return [run for pk in held if (run := make_run(pk)) is not None]


def foot_differs(sender: Sender, rider: Rider) -> bool:
    """Whether a sender says another foot in front than the club has of the rider."""
    return bool(sender.stance and rider.stance and sender.stance != rider.stance)


def why_held(sender: Sender) -> str:
    """Why what a known sender sent waits for a coach; empty for one who is not known."""
    rider = sender.rider
    if rider is None:
        return ""
    if not rider.may_be_judged:
        return f"That clips of {rider.name} are judged was withdrawn. Letting them in notes that it holds again."
    if foot_differs(sender, rider):
        return f"They say {sender.stance}, and the club has {rider.name} as {rider.stance}."
    return ""


def note_consent(sender: Sender, rider: Rider, by: Any) -> None:
    """Keep with a rider who agreed to what. A guardian's opens links only where ``by``, a coach, has said who it is."""
    note(rider, Agreed.ANALYSE, True, by, sender.agreed, sender.text)
    if by is not None and sender.guardian and not rider.guardian_consent:
        note(rider, Agreed.SHARE, True, by, sender.agreed, sender.text)


def make_run(sent_id: int) -> Run | None:
    """Make a sent clip a run of its sender's rider, and have it analysed; None where that is done already."""
    with transaction.atomic():
        sent = (
            Sent.objects.select_for_update(of=("self",))
            .select_related("film", "sender__intake__club", "sender__rider")
            .filter(pk=sent_id, state=Sent.State.HELD)
            .first()
        )
        if sent is None or sent.film is None or sent.sender.rider is None:
            return None
        # Somebody has said no, or another foot is in front than the club knows: a coach looks at it first.
        if why_held(sent.sender):
            return None
        asked = sent.sender.intake
        run = Run.objects.create(
            club=asked.club, rider=sent.sender.rider, discipline=asked.discipline, title=asked.title,
            level=sent.sender.level, intention_text=sent.intention_text, conditions=sent.conditions, due=asked.answer_by,
        )  # fmt: skip
        sent.run, sent.state = run, Sent.State.IN
        sent.save(update_fields=["run", "state"])
        return sharing.use(sent.film, run)


def take_back(sent: Sent) -> None:
    """Let a clip go that its sender does not want judged after all."""
    if sent.run is not None:
        erase(sent.run)
    else:
        let_go(sent)
    Sent.objects.filter(pk=sent.pk).delete()


def purge() -> None:
    """Let go of clips that never came whole, and of whoever nobody let in long after their link ended."""
    now = timezone.now()
    broken = Sent.objects.filter(
        state=Sent.State.ARRIVING, film__uploads=None, at__lt=now - KEPT_BROKEN
    )
    old = Sender.objects.filter(rider=None, intake__expires__lt=now - KEPT_UNKNOWN)
    for sent in (*broken, *Sent.objects.filter(sender__in=old)):
        let_go(sent)
    broken.delete()
    old.delete()
