"""Who a clip is of, by what its file is called: a rider's name or number in it. What fits two riders fits nobody."""

from __future__ import annotations

import itertools
import re
import unicodedata
from collections.abc import Iterable
from pathlib import PurePath
from typing import NamedTuple

#: What cameras and phones put before a number of their own.
CAMERAS = frozenset(
    [
        "img",
        "dsc",
        "dscn",
        "dscf",
        "mvi",
        "gopr",
        "gx",
        "gh",
        "gp",
        "vid",
        "pxl",
        "mov",
        "clip",
        "video",
        "film",
        "capture",
        "record",
        "screen",
        "dji",
        "p",
        "c",
        "m",
    ]
)
#: What people put before a rider's number.
NUMBERS = frozenset(["no", "nr", "num", "number", "start", "bib", "rider"])
#: A part of a name that is shorter may be anything.
SHORTEST = 3


class Named(NamedTuple):
    """A rider's own facts, as far as a file may name them."""

    id: int
    name: str
    number: int | None


class Guess(NamedTuple):
    """Who it may be, and what it was told by."""

    rider: int
    by: str


def who(file: str, riders: Iterable[Named]) -> Guess | None:
    """The one rider that a file's name speaks of, by whole name, part of it, or number; None where nobody or several fit."""
    words = _words(PurePath(file).stem)
    text = " ".join(words)
    known = [(r, _words(r.name)) for r in riders]
    whole = [r for r, name in known if name and f" {' '.join(name)} " in f" {text} "]
    if len(whole) == 1:
        return Guess(whole[0].id, f"“{whole[0].name}” in the file’s name")
    if whole:
        return None
    part: dict[int, tuple[Named, str]] = {}
    for r, name in known:
        for word in name:
            if len(word) >= SHORTEST and not word.isdigit() and word in words:
                part[r.id] = (r, word)
    if len(part) == 1:
        [(rider, word)] = part.values()
        return Guess(rider.id, f"“{word}” in the file’s name")
    if part:
        return None
    numbers = _numbers(words, "#" in file)
    fit = [r for r, _ in known if r.number is not None and r.number in numbers]
    if len(fit) == 1:
        return Guess(fit[0].id, f"number {fit[0].number} in the file’s name")
    return None


def _words(text: str) -> list[str]:
    """Words and numbers of a text, in small letters without marks; a word of two is cut where a capital begins."""
    text = re.sub(r"(?<=[^\W\d_A-Z])(?=[A-Z])", " ", text)
    plain = unicodedata.normalize("NFKD", text)
    plain = "".join(c for c in plain if not unicodedata.combining(c)).lower()
    return re.findall(r"[^\W\d_]+|\d+", plain)


def _numbers(words: list[str], marked: bool) -> set[int]:
    """What may be a rider's number among the words: said to be one, or short, alone and of no camera."""
    said = {int(n) for before, n in itertools.pairwise(words) if n.isdigit() and before in NUMBERS and len(n) < 5}  # fmt: skip
    if said:
        return said
    short = [n for n in words if n.isdigit()]
    if len(short) != 1 or len(short[0]) > 3 or short[0].startswith("0"):
        return set()
    if any(w in CAMERAS for w in words) and not marked:
        return set()
    return {int(short[0])}
