"""What measures and calculators have in common: a number that is explained where it is declared."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Declaration:
    """A number of the trade, in words and symbols.

    Attributes
    ----------
    id, title, doc : its name in files, on screen, and what it is
    formula : how it is worked out
    source : where the formula is from; "" where it is the definition itself
    """

    id: str
    title: str
    doc: str
    formula: str
    source: str = ""
