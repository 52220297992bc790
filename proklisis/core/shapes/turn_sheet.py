"""The turn sheet: one row for each unit, one cell for each phase, and columns of measures beside them."""

from __future__ import annotations

from typing import Annotated, Literal

from typing_extensions import TypedDict

from proklisis.core.shapes.prescription import closed
from proklisis.core.shapes.shown import said

#: Against what is wanted: inside with p ≥ 0.95, outside with p ≥ 0.95, or not to be told.
AgainstBand = Literal["inside", "outside", "unsure"]


@closed
class SheetValue(TypedDict):
    """One value with its ±, what it is against its band, and whether it stands out among its like."""

    value: float
    u: Annotated[float, said("standard uncertainty; ± on screen is twice this")]
    words: str
    pm: str
    says: Annotated[str, said("value ± U with its unit")]
    band: Annotated[AgainstBand | None, said("null where no band is known")]
    stands_out: bool


@closed
class SheetCell(TypedDict):
    phase: str
    frame: Annotated[int, said("of the clip")]
    t: Annotated[float, said("seconds from the clip's first frame")]
    read: SheetValue | None


@closed
class SheetRow(TypedDict):
    n: int
    side: str | None
    finest_side: str | None
    start: float
    end: float
    cells: list[SheetCell]


@closed
class SheetColumn(TypedDict):
    """A measure of every unit; ``values`` are in the order of the rows, null where it was not read."""

    key: Annotated[str, said("measure|phase|limb")]
    measure: str
    phase: str | None
    limb: str | None
    title: str
    unit: str
    values: list[SheetValue | None]


@closed
class ChoosableColumn(TypedDict):
    key: str
    title: str


@closed
class TurnSheet(TypedDict):
    unit: Annotated[str, said("the word for one unit")]
    unit_plural: str
    phases: list[str]
    key: Annotated[str | None, said("measure|limb that the cells show; null where none is read")]
    title: str
    symbol: Annotated[str, said("the unit of what the cells show")]
    rows: list[SheetRow]
    columns: list[SheetColumn]
    may_show: Annotated[list[ChoosableColumn], said("what the cells may show")]
    may_add: Annotated[list[ChoosableColumn], said("what a column may hold")]
