"""Shapes of what the Bench shows of a run: units, readings, findings, corrections, answers."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from proklisis.core.shapes.prescription import Prescription, VerdictChange
from proklisis.core.shapes.shown import Shown
from proklisis.web.runs.models import Edit
from proklisis.web.runs.serializers import RunSerializer
from proklisis.web.shape import Shape, shapes_of


class AnswerSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(["view", "front_foot", "rate"])
    value = serializers.CharField(max_length=40, allow_null=True)


class NoteSerializer(serializers.Serializer[Any]):
    """What the coach saw, or wrote beside a moment."""

    id = serializers.IntegerField()
    fault = serializers.CharField(
        allow_blank=True, help_text="a fault, an observation or a strength; empty for words alone"
    )
    title = serializers.CharField(allow_blank=True)
    scope = serializers.ChoiceField(["unit", "phase", "side", "run"])
    unit = serializers.IntegerField(allow_null=True, help_text="the unit it is of as things stand")
    side = serializers.CharField(allow_null=True)
    phase = serializers.CharField(allow_null=True)
    t = serializers.FloatField(allow_null=True)
    sure = serializers.BooleanField()
    seen = serializers.BooleanField()
    words = serializers.CharField(allow_blank=True)
    by = serializers.CharField()


class SchoolInForceSerializer(serializers.Serializer[Any]):
    option = serializers.CharField()
    whose = serializers.ChoiceField(["run", "rider", "club"])


class WordSerializer(serializers.Serializer[Any]):
    """The coach's word on this run."""

    main = serializers.CharField(allow_blank=True, help_text="the fault they made the main thing")
    also = serializers.ListField(child=serializers.CharField())
    cues = serializers.DictField(child=serializers.CharField())
    drills = serializers.DictField(
        help_text="fault → a drill's id, or title and steps of their own"
    )
    dropped = serializers.DictField(child=serializers.CharField())
    lost = serializers.ListField(
        child=serializers.CharField(),
        help_text="what they chose and is not found any more, in words",
    )


class CorrectionSerializer(serializers.Serializer[Any]):
    """Who put what right, and when."""

    words = serializers.CharField()
    by = serializers.CharField()
    made = serializers.DateTimeField()


class _Measured(serializers.Serializer[Any]):
    """The part of the Bench that ``core`` measured."""


_Measured._declared_fields |= shapes_of(Shown)


class RunClipSerializer(serializers.Serializer[Any]):
    """One of the clips of a run."""

    run = serializers.IntegerField(help_text="the run that this clip is followed and measured in")
    view = serializers.CharField(allow_blank=True, help_text="as said, else as it shows itself")
    pass_no = serializers.IntegerField()
    offset_s = serializers.FloatField(
        allow_null=True, help_text="to add to its times to get the first clip's"
    )
    offset_pm_s = serializers.FloatField(allow_null=True, help_text="±, expanded (k = 2)")
    offset_by = serializers.CharField(allow_blank=True)
    state = serializers.CharField()
    problem = serializers.CharField(allow_blank=True)
    measured = serializers.BooleanField()
    here = serializers.BooleanField(help_text="it is the one that is shown")


class FoundGearSerializer(serializers.Serializer[Any]):
    words = serializers.CharField()
    points = serializers.ListField(
        child=serializers.CharField(), help_text="its front and back end"
    )
    share = serializers.FloatField(help_text="of the frames, in which it is told")
    said = serializers.BooleanField(
        allow_null=True, help_text="whether it was found rightly; nothing where nobody said so"
    )


class BenchSerializer(_Measured):
    """One run, measured. Times are seconds from the clip's first frame."""

    run = RunSerializer()
    prescription = Shape(Prescription)
    clips = RunClipSerializer(many=True, help_text="all clips of the run, the first one first")
    unused_clips = serializers.ListField(
        child=serializers.CharField(), help_text="which of them are not used, and why"
    )
    nothing_words = serializers.CharField(help_text="what to say where nothing is the main thing")
    points = serializers.ListField(
        child=serializers.CharField(), help_text="landmarks of the points file, in its order"
    )
    point_words = serializers.DictField(
        child=serializers.CharField(allow_blank=True),
        help_text="points that may be marked → what they are",
    )
    found_gear = FoundGearSerializer(
        many=True, help_text="gear that was found on the clip by itself"
    )
    markable = serializers.ListField(
        child=serializers.CharField(), help_text="points off the body that a hand may mark here"
    )
    carrying = serializers.ListField(
        child=serializers.CharField(), help_text="points whose marks are being carried"
    )
    carry_problems = serializers.ListField(
        child=serializers.CharField(), help_text="why a point could not be carried"
    )
    corrections = CorrectionSerializer(many=True, help_text="in force, the newest first")
    seen = NoteSerializer(many=True, help_text="the coach's notes, in the order of the run")
    word = WordSerializer()
    schools_in_force = serializers.DictField(
        child=SchoolInForceSerializer(), help_text="question → what was chosen, and for whom"
    )
    by_eye = serializers.BooleanField(
        help_text="nobody is followed: units and findings are the coach's own"
    )
    verdict_change = Shape(VerdictChange | None)
    version = serializers.CharField(help_text="changes with every correction")
    measuring = serializers.BooleanField(
        help_text="what is shown is from before the last change; the run is being worked out again"
    )
    trouble = serializers.CharField(
        help_text="why the run could not be worked out again as it stands; what is shown is from before. May be empty"
    )
    can_undo = serializers.BooleanField()
    can_redo = serializers.BooleanField()


class QuestionSerializer(serializers.Serializer[Any]):
    """A joint to put right, or to confirm, in one frame."""

    frame = serializers.IntegerField()
    t = serializers.FloatField()
    landmark = serializers.CharField()
    unit = serializers.IntegerField()
    phase = serializers.CharField(allow_null=True)
    measure = serializers.CharField()
    gain = serializers.FloatField(
        help_text="how much doubt it would take away, the most being about 1"
    )
    why = serializers.CharField()
    settles = serializers.CharField()


class PressSerializer(serializers.Serializer[Any]):
    frame = serializers.IntegerField()
    landmark = serializers.CharField()


class LeadingSerializer(serializers.Serializer[Any]):
    """The fewest marks that tell more."""

    steps = PressSerializer(many=True, help_text="what is left, in order")
    points = serializers.CharField(allow_blank=True, help_text="what is marked, in words")
    faults = serializers.ListField(
        child=serializers.CharField(),
        help_text="what they settle; with none, the run cannot be split before",
    )
    done = serializers.IntegerField(help_text="marks of them that are there already")


class StepSerializer(serializers.Serializer[Any]):
    stage = serializers.ChoiceField(["still", "slow", "speed", "full"])
    text = serializers.CharField(max_length=400)
    dose = serializers.CharField(max_length=120, required=False, allow_blank=True, default="")


class EditSerializer(serializers.Serializer[Any]):
    """One thing that a coach puts right or says.

    A mark (frame, landmark, x, y in pixels of the clip); gear that was found (landmark of its front end, on: right or left out); a boundary (t, old_t) or the side of a unit (t, side); how many units there are, where none were found (count; 0: not counted); a note of
    what was seen (fault, observation or strength, or words alone; scope, and t, a moment of the unit) or its taking back;
    the main thing, one given beside it, a cue or a drill for a fault (empty: the software's), findings that are dropped
    (an empty reason takes them back).
    """

    kind = serializers.ChoiceField(Edit.Kind.choices)
    count = serializers.IntegerField(min_value=0, max_value=200, required=False)
    frame = serializers.IntegerField(min_value=0, required=False)
    landmark = serializers.CharField(max_length=30, required=False)
    x = serializers.FloatField(required=False)
    y = serializers.FloatField(required=False)
    t = serializers.FloatField(required=False, allow_null=True)
    old_t = serializers.FloatField(required=False)
    unit = serializers.IntegerField(min_value=1, required=False, allow_null=True)
    side = serializers.CharField(max_length=12, required=False, allow_null=True)
    phase = serializers.CharField(max_length=30, required=False, allow_null=True)
    scope = serializers.ChoiceField(["unit", "phase", "side", "run"], required=False)
    sure = serializers.BooleanField(required=False)
    seen = serializers.BooleanField(required=False)
    words = serializers.CharField(max_length=500, required=False, allow_blank=True)
    note = serializers.IntegerField(required=False)
    fault = serializers.CharField(max_length=60, required=False, allow_blank=True)
    faults = serializers.ListField(
        child=serializers.CharField(max_length=60),
        required=False,
        allow_empty=False,
        max_length=100,
    )
    reason = serializers.CharField(max_length=300, required=False, allow_blank=True)
    on = serializers.BooleanField(required=False)
    cue = serializers.CharField(max_length=400, required=False, allow_blank=True)
    drill = serializers.CharField(max_length=60, required=False, allow_blank=True)
    title = serializers.CharField(max_length=120, required=False)
    steps = StepSerializer(many=True, required=False)

    NEEDS = {
        Edit.Kind.MARK: ("frame", "landmark", "x", "y"), Edit.Kind.ADD: ("t",), Edit.Kind.MOVE: ("t", "old_t"),
        Edit.Kind.DELETE: ("old_t",), Edit.Kind.SIDE: ("t", "side"), Edit.Kind.GEAR: ("landmark", "on"),
        Edit.Kind.COUNT: ("count",),
        Edit.Kind.NOTE: ("scope",), Edit.Kind.UNNOTE: ("note",),
        Edit.Kind.CHOOSE: ("fault",), Edit.Kind.ALSO: ("fault", "on"), Edit.Kind.CUE: ("fault", "cue"),
        Edit.Kind.DRILL: ("fault",), Edit.Kind.DROP: ("faults", "reason"),
    }  # fmt: skip
    #: What may be left out, with what it then is.
    ELSE: dict[str, dict[str, Any]] = {
        Edit.Kind.NOTE: {
            "fault": "", "words": "", "sure": True, "seen": True, "t": None, "unit": None, "side": None, "phase": None,
        },
        Edit.Kind.DRILL: {"drill": "", "title": "", "steps": []},
    }  # fmt: skip

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        kind = data["kind"]
        for key in self.NEEDS[kind]:
            if data.get(key) is None:
                raise serializers.ValidationError(
                    {key: "This is needed for this kind of correction."}
                )
        if kind == Edit.Kind.DRILL and data.get("steps") and not data.get("title", "").strip():
            raise serializers.ValidationError({"title": "Give your drill a name."})
        given = {k: data[k] for k in self.NEEDS[kind]}
        return {
            "kind": kind,
            "values": {**{k: data.get(k, v) for k, v in self.ELSE.get(kind, {}).items()}, **given},
        }
