"""The map of a run, by its family."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import replace

from proklisis.core.comparing.pair import Run
from proklisis.core.errors import InputError
from proklisis.core.maps.air import flights
from proklisis.core.maps.ice import loops
from proklisis.core.maps.poling import cycles
from proklisis.core.maps.sketch import Measured, Sketch, lacking, softened
from proklisis.core.maps.snow import arcs, gates
from proklisis.core.maps.water import crossings, drops, gybes, rides
from proklisis.core.playbook.bands import bands_in
from proklisis.core.playbook.under import Under, apply_schools, chosen_schools
from proklisis.core.review import book_of, figures_of, playbook
from proklisis.core.rider.figure import Figure
from proklisis.core.shapes.run_map import RunMap

#: Which map a discipline has, by what splits it.
DRAWN: dict[str, Callable[[Measured], Sketch]] = {
    "carve": arcs, "board_turns": arcs, "crossings": crossings, "loops": loops, "drops": drops, "waves": rides,
    "gybes": gybes, "poling": cycles, "jumps": flights, "rolls": flights,
}  # fmt: skip
#: So often a map is drawn again for its soft edges; a deviation is then known to about a fifth.
DRAWS = 16


def has_map(discipline: str) -> bool:
    """Whether runs of a discipline have a map."""
    return playbook(discipline).split in DRAWN


def run_map(run: Run, draws: int = DRAWS) -> RunMap:
    """The map of a measured run; where it cannot be drawn, ``lacking`` says why.

    It is drawn ``draws`` times more, with landmarks and facts moved as their ± allows: twice the deviation of a place is
    its U (JCGM 101:2008).

    Raises InputError for a discipline that has none.
    """
    done = run.review
    assert done is not None
    whole = book_of(run.sheet)
    if not has_map(run.sheet.discipline):
        raise InputError(f"{whole.title.lower()} has no map", "discipline", "look at its sheet")
    if not done.units:
        return lacking(
            "Map", f"No {whole.units} were found on this run, so there is nothing to draw."
        )
    schools = chosen_schools(run.sheet, whole)
    book, _ = apply_schools(whole, schools)
    under = Under(book, run.sheet, schools)
    figure, others = figures_of(done, run.sheet.discipline, draws)
    measured = Measured(
        figure, done.units, done.readings, run.sheet, {k: s.value for k, s in done.traces.items()},
        {u.n: bands_in(book, under, run.sheet.level, u.n, u.finest_side) for u in done.units},
    )  # fmt: skip
    at_gates = whole.split == "carve" and any(p.startswith("gate_") for p in figure.points)
    draw = gates if at_gates else DRAWN[whole.split or ""]
    try:
        drawn = draw(measured)
        softened(drawn, list(_again(draw, measured, others)))
        shown = drawn.done()
    except InputError as e:
        return lacking("Map", e.what)
    except KeyError as e:
        return lacking(
            "Map", f"{str(e.args[0]).replace('_', ' ').capitalize()} is not followed on this clip."
        )
    if not done.rate_sure:
        shown["says"].append(
            "Nothing but the file says how fast it plays: where it was slowed, times and what is made of them are wrong."
        )
    return shown


def _again(
    draw: Callable[[Measured], Sketch], measured: Measured, others: list[Figure]
) -> Iterator[Sketch]:
    """The map drawn on other figures; one on which it cannot be drawn says nothing against the map itself."""
    for figure in others:
        with suppress(InputError, KeyError):
            yield draw(replace(measured, figure=figure))
