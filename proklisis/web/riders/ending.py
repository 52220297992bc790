"""What ends at once when a consent is withdrawn: links, references, films with others, the following of clips."""

from __future__ import annotations

from typing import Any

from proklisis.web.clubs.entries import put_down
from proklisis.web.references.models import Reference
from proklisis.web.riders.models import Agreed, Rider
from proklisis.web.runs.models import PairFilm, Run
from proklisis.web.runs.queueing import cancel
from proklisis.web.runs.reporting import BUSY
from proklisis.web.scripts.models import Share


def end(rider: Rider, by: Any, kind: Agreed) -> None:
    """End whatever rests on the consent of this kind; with judging, everything does."""
    for each in Agreed if kind == Agreed.ANALYSE else (kind,):
        ENDS[each](rider, by)


def _links(rider: Rider, by: Any) -> None:
    # What is out is taken back, and stays so when consent comes again.
    if Share.objects.filter(script__run__rider=rider, withdrawn=False).update(withdrawn=True):
        put_down(rider.club, by, "withdrew every link of", rider)


def _references(rider: Rider, by: Any) -> None:
    if Reference.objects.filter(run__rider=rider).delete()[0]:
        put_down(rider.club, by, "let every reference go of", rider)


def _films_with_others(rider: Rider, by: Any) -> None:
    # Told films are looked at when they are asked for.
    theirs = PairFilm.objects.filter(a__rider=rider) | PairFilm.objects.filter(b__rider=rider)
    for film in theirs.exclude(a__rider=rider, b__rider=rider):
        film.delete()


def _following(rider: Rider, by: Any) -> None:
    for run in Run.objects.filter(rider=rider, state__in=BUSY):
        cancel(run)


ENDS = {
    Agreed.ANALYSE: _following,
    Agreed.SHARE: _links,
    Agreed.GROUP: _films_with_others,
    Agreed.REFERENCE: _references,
}
