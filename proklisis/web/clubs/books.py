"""The playbook as a club has it."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.playbook.club_book import parse_club_book, with_club_book
from proklisis.core.playbook.schema import Playbook
from proklisis.core.review import playbook
from proklisis.core.shapes.club_book import ClubBook
from proklisis.web.clubs.models import Club, OwnBook

#: Kept beside the changes to the playbook: question → option that the club judges by.
SCHOOLS = "schools"


def changes_in(kept: dict[str, Any]) -> ClubBook:
    """The changes of a kept row, without the schools beside them."""
    return parse_club_book({k: v for k, v in kept.items() if k != SCHOOLS})


def changes_of(club: Club, discipline: str) -> ClubBook | None:
    """What a club changes in a discipline; None where nothing, or where the playbook has moved on and it does not fit any more."""
    row = OwnBook.objects.filter(club=club, discipline=discipline).only("on").first()
    if row is None or not row.on:
        return None
    try:
        own = changes_in(row.on)
        _changed(discipline, own.model_dump_json())
    except InputError:
        return None
    return own if own else None


def chosen_for_club(club: Club, discipline: str) -> None:
    """Follow in what is being prepared what was chosen for the club elsewhere."""
    for row in OwnBook.objects.select_for_update().filter(club=club, discipline=discipline):
        row.draft = {**row.draft, SCHOOLS: club.schools.get(discipline, {})}
        row.version += 1
        row.save(update_fields=["draft", "version"])


def club_playbook(club: Club, discipline: str) -> Playbook:
    """A discipline's playbook with what the club changes in it."""
    own = changes_of(club, discipline)
    return playbook(discipline) if own is None else _changed(discipline, own.model_dump_json())


@lru_cache(maxsize=64)
def _changed(discipline: str, changes: str) -> Playbook:
    return with_club_book(playbook(discipline), ClubBook.model_validate_json(changes))
