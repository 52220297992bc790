"""What a club changes in the playbook of one discipline: its bands, cues, drills and words."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Finite = Annotated[float, Field(allow_inf_nan=False)]
Words = Annotated[str, Field(min_length=1, max_length=300)]
Short = Annotated[str, Field(min_length=1, max_length=120)]
#: A fault, or one that is worded by the side of the band that is missed: ``fault:below``, ``fault:above``.
Wording = Annotated[str, Field(max_length=80)]
MOST = 12


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class OwnBand(Strict):
    """A band that a fault is judged by; an end that is None is open. Without a level it holds for all that are judged.

    ``place`` counts the fault's bands from 0, as the playbook has them; ``measure`` says again what is judged there.
    """

    fault: str
    place: Annotated[int, Field(ge=0)]
    measure: str
    level: Literal["novice", "intermediate", "advanced", "elite"] | None = None
    band: tuple[Finite | None, Finite | None]


class OwnStep(Strict):
    stage: Literal["still", "slow", "speed", "full"]
    text: Words
    dose: Words


class OwnDrill(Strict):
    """A ladder of the club's own, from standing still to the real thing."""

    title: Short
    steps: Annotated[tuple[OwnStep, ...], Field(min_length=3, max_length=MOST)]
    sign: Words
    caution: Annotated[str, Field(max_length=300)] | None = None


class ClubBook(Strict):
    """A club's changes to a discipline. What is left out stays as the playbook has it."""

    #: Wording → what the club calls the fault.
    titles: dict[Wording, Short] = {}
    #: Wording → cues in place of the playbook's, the first one first.
    cues: dict[Wording, Annotated[tuple[Words, ...], Field(min_length=1, max_length=MOST)]] = {}
    #: Fault → drills that are offered before the playbook's.
    drills: dict[str, Annotated[tuple[OwnDrill, ...], Field(min_length=1, max_length=MOST)]] = {}
    bands: Annotated[tuple[OwnBand, ...], Field(max_length=400)] = ()

    def __bool__(self) -> bool:
        return bool(self.titles or self.cues or self.drills or self.bands)
