"""A fair draw of who is answered where not everybody can be: it can be repeated from its seed, and nobody waits for ever."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass

from proklisis.core.errors import InputError

#: Each draw that somebody was in and was not drawn doubles their chance, up to so many times.
MOST_DOUBLED = 20


@dataclass(frozen=True)
class Entry:
    """Who is in a draw.

    Attributes
    ----------
    who : number of the rider
    missed : draws they were in since they were drawn last
    last : whether they were drawn the last time there was a draw
    """

    who: int
    missed: int = 0
    last: bool = False


def fair_draw(entries: Sequence[Entry], places: int, seed: str) -> list[int]:
    """Return who is drawn, in the order of the draw.

    Everybody's number comes from ``seed`` and from who they are alone, so that the draw comes out the same whatever the
    order of ``entries``, and anybody can work it out again: u = SHA-256("seed:who") as a fraction of 1, and the smallest
    −ln(u) / 2^missed are drawn. That is drawing without replacement with a chance in proportion to 2^missed (exponential
    keys: Efraimidis and Spirakis 2006, Information Processing Letters 97, 181-185). Who was drawn the last time comes in
    only where places are left.

    Raises
    ------
    InputError : nobody is in it, somebody is in it twice, or there is no place
    """
    if not entries:
        raise InputError("nobody is in the draw", "entries", "choose who waits")
    if places < 1:
        raise InputError("a draw needs a place", "places", "give 1 or more")
    if len({e.who for e in entries}) < len(entries):
        raise InputError("somebody is in the draw twice", "entries", "give each rider one place")
    ranked = sorted(entries, key=lambda e: (e.last, key(e, seed), e.who))
    return [e.who for e in ranked[:places]]


def key(entry: Entry, seed: str) -> float:
    """The number by which somebody is drawn: the smallest come first."""
    digest = hashlib.sha256(f"{seed}:{entry.who}".encode()).digest()
    u = (int.from_bytes(digest[:8], "big") + 0.5) / 2**64
    return float(-math.log(u) / 2 ** min(max(entry.missed, 0), MOST_DOUBLED))
