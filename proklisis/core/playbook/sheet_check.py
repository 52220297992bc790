"""Hold a run sheet against its discipline: every id, side, condition and unit that it names must be one that is known."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.measures.shared import SHARED
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.conditions import KINDS, check_condition, in_one_unit, in_other_units
from proklisis.core.playbook.front_foot import SIDE_WORDS, finest_side
from proklisis.core.playbook.schema import Playbook
from proklisis.core.shapes.run_sheet import RunSheet

#: What a difference may take away beside another measure.
LESS = ("best", "wanted")
#: Width of a stance in cm that a ruler could give (house choice).
STANCE_CM = (25.0, 90.0)


def check_sheet(sheet: RunSheet, book: Playbook, name: str = "sheet") -> None:
    """Raise InputError with the path of the first thing that the discipline does not know, and the mend."""
    _Check(sheet, book, name).all()


class _Check:
    def __init__(self, sheet: RunSheet, book: Playbook, name: str) -> None:
        self.sheet, self.book, self.name = sheet, book, name
        self.numbers = {s.n for s in sheet.segments}
        self.measures = {*book.measures, *SHARED}
        self.clips = {c.id for c in sheet.clips}

    def all(self) -> None:
        self._clips()
        self._conditions(self.sheet.conditions, "conditions")
        self._segments()
        self._rows()
        self._observations()
        for i, fault in enumerate(self.sheet.intention.faults):
            self._known(fault, self.book.faults, f"intention.faults.{i}")
        for question, option in self.sheet.schools.items():
            self._known(question, self.book.schools, f"schools.{question}")
            self._known(option, self.book.schools[question].options, f"schools.{question}")
        self._gear()
        self._chosen()
        self._previous()

    def _refuse(self, what: str, where: str, mend: str) -> InputError:
        return InputError(what, f"{self.name}: {where}", mend)

    def _known(self, word: str, ids: Iterable[str], where: str) -> None:
        if word not in ids:
            raise self._refuse(
                f"{word!r} is not known in {self.book.discipline}", where, nearest(word, ids)
            )

    def _clips(self) -> None:
        if self.sheet.clips and self.sheet.clip.model_fields_set:
            raise self._refuse(
                "clip and clips both stand",
                "clips",
                "write one clip under clip, several under clips",
            )
        if len(self.clips) != len(self.sheet.clips):
            raise self._refuse(
                "two clips have the same id", "clips", "give each clip an id of its own"
            )

    def _clip(self, clip: str | None, where: str) -> None:
        if clip is not None and clip not in self.clips:
            raise self._refuse(
                f"there is no clip {clip!r}", f"{where}.clip", "list it under clips with this id"
            )

    def _conditions(self, conditions: dict[str, Any], where: str) -> None:
        for key, value in conditions.items():
            self._known(key, in_other_units(self.book.conditions), f"{where}.{key}")
            if key in KINDS:
                check_condition(key, value, f"{self.name}: {where}.{key}")
        in_one_unit(conditions, f"{self.name}: {where}")

    def _segments(self) -> None:
        seen: dict[tuple[str | None, int], int] = {}
        foot = self.book.front_foot
        for i, s in enumerate(self.sheet.segments):
            where = f"segments.{i}"
            if s.kind != self.book.unit:
                raise self._refuse(
                    f"{s.kind!r} is not a unit of {self.book.discipline}",
                    f"{where}.kind",
                    f"its unit is {self.book.unit!r}",
                )
            self._clip(s.clip, where)
            if self.sheet.clips and s.clip is None and len({c.pass_ for c in self.sheet.clips}) > 1:
                raise self._refuse(
                    "the clip of this unit is not said", f"{where}.clip", "name one of the clips"
                )
            if (s.clip, s.n) in seen:
                raise self._refuse(
                    "two segments have the same number", where, "number the units of a clip from 1"
                )
            seen[s.clip, s.n] = i
            for key in ("edge_side", "hand_side", "face"):
                if getattr(s, key) is not None and (foot is None or foot.key != key):
                    raise self._refuse(
                        f"{self.book.discipline} has no {key}", f"{where}.{key}", "leave it out"
                    )
            if s.start_s is not None and s.end_s is not None and s.end_s <= s.start_s:
                raise self._refuse(
                    "the unit ends before it starts",
                    f"{where}.end_s",
                    "put the later time at the end",
                )
            if s.ball is not None and "ball" not in self.book.conditions:
                raise self._refuse(
                    f"{self.book.discipline} has no ball", f"{where}.ball", "leave it out"
                )
            if s.last_stroke is not None and "wanted_last_stroke" not in self.book.conditions:
                raise self._refuse(
                    f"{self.book.discipline} has no last stroke",
                    f"{where}.last_stroke",
                    "leave it out",
                )
            self._conditions(s.conditions, f"{where}.conditions")
            self._front_foot(i)

    def _front_foot(self, i: int) -> None:
        """Toe and heel follow from the front foot and the way of the turn: given all three, they must agree."""
        s, stance = self.sheet.segments[i], self.sheet.rider.stance
        follows = finest_side(self.book, stance, s.side)
        if s.edge_side is not None and follows is not None and s.edge_side != follows:
            raise self._refuse(
                f"{self.book.unit} {s.n} to the {SIDE_WORDS.get(s.side or '', s.side)} of a {stance} rider is on the {follows} edge, "
                f"not on the {s.edge_side} edge",
                f"segments.{i}.edge_side", "mend rider.stance, side or edge_side",
            )  # fmt: skip

    def _rows(self) -> None:
        # A sheet has thousands of values: they are gone through one by one only where one is wrong.
        rows, phases = self.sheet.measures, {None, *self.book.phases}
        ids, at, where, clips = (
            {m.id for m in rows},
            {m.phase for m in rows},
            {m.segment for m in rows},
            {m.clip for m in rows},
        )
        several = len({c.pass_ for c in self.sheet.clips}) > 1
        if (
            ids <= self.measures
            and at <= phases
            and where <= {None, *self.numbers}
            and clips <= {None, *self.clips}
            and not several
        ):
            return
        own = {(c, n) for c, n in self._units()}
        for i, m in enumerate(rows):
            self._known(m.id, self.measures, f"measures.{i}.id")
            if m.phase is not None:
                self._known(m.phase, self.book.phases, f"measures.{i}.phase")
            self._clip(m.clip, f"measures.{i}")
            if m.segment is None:
                continue
            self._number(m.segment, f"measures.{i}.segment")
            if several and m.clip is None:
                raise self._refuse(
                    "the clip of this value is not said",
                    f"measures.{i}.clip",
                    "name one of the clips",
                )
            if several and (m.clip, m.segment) not in own:
                raise self._refuse(f"there is no segment {m.segment} in clip {m.clip!r}", f"measures.{i}.segment",
                                   "list it under segments with this clip")  # fmt: skip

    def _units(self) -> list[tuple[str, int]]:
        """Clip and number of every unit: a unit stands for all clips of its pass."""
        passes = {c.id: c.pass_ for c in self.sheet.clips}
        first = min(passes.values(), default=1)
        of = [(passes.get(s.clip or "", first), s.n) for s in self.sheet.segments]
        return [(c, n) for c, its in passes.items() for p, n in of if p == its]

    def _number(self, n: int, where: str) -> None:
        if n not in self.numbers:
            raise self._refuse(
                f"there is no segment {n}", where, "list it under segments or leave the key out"
            )

    def _observations(self) -> None:
        sides = self._sides()
        for i, o in enumerate(self.sheet.observations):
            where = f"observations.{i}"
            self._known(o.id, self.book.noted, f"{where}.id")
            if o.segment is not None and o.segments is not None:
                raise self._refuse(
                    "segment and segments both stand", f"{where}.segments", "write one of them"
                )
            for k, n in enumerate(o.numbers or ()):
                self._number(
                    n, f"{where}.segment" if o.segment is not None else f"{where}.segments.{k}"
                )
            if o.side is not None and SIDE_WORDS.get(o.side, o.side) not in sides:
                raise self._refuse(f"{o.side!r} is no side of this run", f"{where}.side",
                                   f"its sides are {', '.join(sorted(sides))}" if sides else "this run's units have no sides")  # fmt: skip
            if o.phase is not None:
                self._known(o.phase, self.book.phases, f"{where}.phase")
            self._clip(o.clip, where)
            if o.numbers and o.clip is None and len({c.pass_ for c in self.sheet.clips}) > 1:
                raise self._refuse(
                    "the clip of this note is not said", f"{where}.clip", "name one of the clips"
                )

    def _sides(self) -> set[str]:
        """Every word for a side that a unit of this run has, or could have."""
        foot = self.book.front_foot
        own = {SIDE_WORDS.get(s.side, s.side) for s in self.sheet.segments if s.side}
        return (
            own
            | ({foot.right_turn, foot.left_turn} if foot else set())
            | ({"left", "right"} if not self.sheet.segments else set())
        )

    def _gear(self) -> None:
        width = self.sheet.gear.get("stance_cm")
        if width is not None:
            low, high = STANCE_CM
            if (
                isinstance(width, bool)
                or not isinstance(width, int | float)
                or not low <= width <= high
            ):
                raise self._refuse(
                    f"{width!r} is no width of a stance",
                    "gear.stance_cm",
                    f"write centimetres between {low:g} and {high:g}",
                )

    def _chosen(self) -> None:
        chosen = self.sheet.chosen
        if chosen.main is not None:
            self._known(chosen.main, self.book.faults, "chosen.main")
        for i, fault in enumerate(chosen.also):
            self._known(fault, self.book.faults, f"chosen.also.{i}")
        if chosen.drill is not None:
            self._known(chosen.drill, self.book.drills, "chosen.drill")

    def _previous(self) -> None:
        for i, aim in enumerate(self.sheet.previous):
            for part in aim.measure.replace("/", "-").split("-"):
                self._known(part, {*self.measures, *LESS}, f"previous.{i}.measure")
            if aim.phase is not None:
                self._known(aim.phase, self.book.phases, f"previous.{i}.phase")
            lo, hi = aim.target
            if (lo is None and hi is None) or (lo is not None and hi is not None and lo > hi):
                raise self._refuse(
                    "the target is no band",
                    f"previous.{i}.target",
                    "write [lowest, highest], null for an open end",
                )
