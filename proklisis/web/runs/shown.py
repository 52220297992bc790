"""Shapes of what the Bench shows of a run: units, readings, findings, corrections, answers."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from proklisis.web.runs.models import Edit
from proklisis.web.runs.serializers import RunSerializer


class TurnSerializer(serializers.Serializer[Any]):
    n = serializers.IntegerField()
    side = serializers.CharField(
        allow_null=True, help_text="left or right, where the discipline has sides"
    )
    finest_side = serializers.CharField(
        allow_null=True, help_text="toe or heel, onside or offside, the hands"
    )
    outside = serializers.CharField(allow_null=True, help_text="the outside foot of a turn on skis")
    start = serializers.FloatField()
    start_u = serializers.FloatField()
    end = serializers.FloatField()
    confidence = serializers.FloatField()
    by = serializers.CharField(help_text="auto or coach")
    phases = serializers.DictField(child=serializers.ListField(child=serializers.FloatField()))


class BoundarySerializer(serializers.Serializer[Any]):
    t = serializers.FloatField()
    u = serializers.FloatField()
    confidence = serializers.FloatField()
    by = serializers.CharField()


class RibbonSerializer(serializers.Serializer[Any]):
    signal = serializers.CharField(help_text="what swings the band")
    unit = serializers.CharField()
    tilt = serializers.ListField(child=serializers.FloatField(allow_null=True))
    tilt_u = serializers.ListField(child=serializers.FloatField(allow_null=True))
    edge = serializers.ListField(child=serializers.FloatField(allow_null=True), allow_null=True)
    graded = serializers.BooleanField(
        help_text="false where only the side of the tilt can be trusted"
    )
    look = serializers.ListField(
        child=serializers.IntegerField(), help_text="frames in which the rider was lost"
    )


class ReadingSerializer(serializers.Serializer[Any]):
    measure = serializers.CharField()
    value = serializers.FloatField()
    u = serializers.FloatField(help_text="standard uncertainty; ± on screen is twice this")
    turn = serializers.IntegerField(allow_null=True)
    phase = serializers.CharField(allow_null=True)
    limb = serializers.CharField(allow_null=True)
    t = serializers.FloatField(allow_null=True)
    words = serializers.CharField(help_text="the value with the digits its uncertainty bears")
    pm = serializers.CharField(help_text="U = 2u in the same digits")


class SideMeanSerializer(serializers.Serializer[Any]):
    """Mean over all units of one side."""

    measure = serializers.CharField()
    side = serializers.CharField()
    phase = serializers.CharField(allow_null=True)
    limb = serializers.CharField(allow_null=True)
    value = serializers.FloatField()
    words = serializers.CharField()
    pm = serializers.CharField()


class OneSideSerializer(serializers.Serializer[Any]):
    side = serializers.CharField()
    words = serializers.CharField()


class SideGapSerializer(serializers.Serializer[Any]):
    """How far the two sides of a measure lie apart, the first less the second; the surest gap comes first."""

    measure = serializers.CharField()
    phase = serializers.CharField(allow_null=True)
    limb = serializers.CharField(allow_null=True)
    sure = serializers.BooleanField(
        help_text="more than the camera and the tracking could make of nothing"
    )
    words = serializers.CharField()
    pm = serializers.CharField()
    first = OneSideSerializer()
    second = OneSideSerializer()


class RefusalSerializer(serializers.Serializer[Any]):
    measure = serializers.CharField()
    reason = serializers.CharField()
    words = serializers.CharField()


class BandSerializer(serializers.Serializer[Any]):
    measure = serializers.CharField()
    phase = serializers.CharField(allow_null=True)
    limb = serializers.CharField(allow_null=True)
    lo = serializers.FloatField(allow_null=True)
    hi = serializers.FloatField(allow_null=True)
    fault = serializers.CharField()


class MeasureWordsSerializer(serializers.Serializer[Any]):
    title = serializers.CharField()
    unit = serializers.CharField()
    doc = serializers.CharField()
    formula = serializers.CharField()
    views = serializers.CharField(required=False, help_text="from where it shows, in words")
    each_frame = serializers.BooleanField(help_text="whether it is read in every frame")
    points = serializers.ListField(child=serializers.CharField())
    phases = serializers.ListField(child=serializers.CharField())
    limbs = serializers.ListField(child=serializers.CharField())


class EvidenceSerializer(serializers.Serializer[Any]):
    measure = serializers.CharField()
    limb = serializers.CharField(allow_null=True)
    segment = serializers.IntegerField(allow_null=True)
    phase = serializers.CharField(allow_null=True)
    value = serializers.FloatField()
    u = serializers.FloatField()
    band = serializers.ListField(child=serializers.FloatField(allow_null=True))
    p = serializers.FloatField()


class EyeSerializer(serializers.Serializer[Any]):
    """What the coach's eye says where the measures say otherwise."""

    seen = serializers.BooleanField()
    segments = serializers.ListField(child=serializers.IntegerField(allow_null=True))


class MeasuredSerializer(serializers.Serializer[Any]):
    there = serializers.BooleanField()
    evidence = EvidenceSerializer(many=True)


class FindingSerializer(serializers.Serializer[Any]):
    fault = serializers.CharField()
    status = serializers.ChoiceField(["root", "symptom", "episode", "unclear"])
    verdict = serializers.CharField()
    side = serializers.CharField()
    share = serializers.FloatField()
    severity = serializers.FloatField()
    phase = serializers.CharField(allow_null=True)
    explains = serializers.ListField(child=serializers.CharField())
    because_of = serializers.ListField(child=serializers.CharField())
    evidence = EvidenceSerializer(many=True)
    title = serializers.CharField(required=False)
    eye = EyeSerializer(required=False)
    measured = MeasuredSerializer(required=False)


class MainSerializer(serializers.Serializer[Any]):
    fault = serializers.CharField()
    side = serializers.CharField()
    verdict = serializers.CharField(required=False)
    title = serializers.CharField(required=False)
    why = serializers.CharField()
    cue = serializers.CharField()
    by = serializers.CharField(required=False)


class IntentionSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(allow_blank=True)
    answer = serializers.ChoiceField(["done", "partly", "not_yet", "cannot_tell"])
    why = serializers.CharField()


class LimitSerializer(serializers.Serializer[Any]):
    observation = serializers.CharField()
    text = serializers.CharField()


class WeakerHalfSerializer(serializers.Serializer[Any]):
    half = serializers.CharField()
    stronger = serializers.CharField()
    why = serializers.CharField()


class UnlockSerializer(serializers.Serializer[Any]):
    presses = serializers.IntegerField()
    points = serializers.ListField(child=serializers.CharField())
    view = serializers.CharField(allow_null=True)
    also_unlocks = serializers.ListField(child=serializers.CharField())


class StrengthSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    text = serializers.CharField()


class DrillStepSerializer(serializers.Serializer[Any]):
    stage = serializers.CharField()
    text = serializers.CharField()
    dose = serializers.CharField()


class DrillSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    fault = serializers.CharField()
    title = serializers.CharField()
    steps = DrillStepSerializer(many=True)
    sign = serializers.CharField()
    worse_first = serializers.CharField(allow_null=True)
    reason = serializers.CharField(required=False)


class CueSerializer(serializers.Serializer[Any]):
    fault = serializers.CharField()
    cue = serializers.CharField()


class TargetSerializer(serializers.Serializer[Any]):
    measure = serializers.CharField()
    limb = serializers.CharField(allow_null=True)
    phase = serializers.CharField(allow_null=True)
    side = serializers.CharField()
    target = serializers.ListField(child=serializers.FloatField(allow_null=True))


class CannotTellSerializer(serializers.Serializer[Any]):
    fault = serializers.CharField()
    reason = serializers.CharField()
    film_next = serializers.CharField()
    unlock = UnlockSerializer(required=False)


class GearSerializer(serializers.Serializer[Any]):
    text = serializers.CharField()
    because_of = serializers.CharField()
    explains = serializers.ListField(child=serializers.CharField(), required=False)
    first = serializers.BooleanField(
        required=False, help_text="it explains the main thing and comes before it"
    )


class PrescriptionSerializer(serializers.Serializer[Any]):
    """``prescription/1``."""

    format = serializers.CharField()
    discipline = serializers.CharField()
    level = serializers.CharField()
    strengths = StrengthSerializer(many=True)
    intention = IntentionSerializer(allow_null=True, required=False)
    main = MainSerializer(allow_null=True)
    findings = FindingSerializer(many=True)
    cues = CueSerializer(many=True)
    drills = DrillSerializer(many=True)
    gear = GearSerializer(many=True)
    cautions = serializers.ListField(child=serializers.CharField())
    retest = TargetSerializer(many=True)
    weaker_half = WeakerHalfSerializer(allow_null=True, required=False)
    limits = LimitSerializer(many=True, required=False)
    beside = serializers.ListField(child=serializers.CharField(), required=False)
    fairness = serializers.ListField(child=serializers.CharField(), required=False)
    cannot_tell = CannotTellSerializer(many=True)
    unlock = serializers.CharField(
        required=False, allow_blank=True, help_text="the cheapest way to tell more, in one sentence"
    )


class DoubtChoiceSerializer(serializers.Serializer[Any]):
    words = serializers.CharField()
    value = serializers.CharField(
        allow_null=True, help_text="what it would be set to; null where it is as said"
    )


class DoubtSerializer(serializers.Serializer[Any]):
    """What the picture says against what was said of it; nothing is judged until it is answered."""

    kind = serializers.ChoiceField(["view", "front_foot", "rate"])
    says = serializers.CharField()
    asks = serializers.CharField()
    choices = DoubtChoiceSerializer(many=True)


class AnswerSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(["view", "front_foot", "rate"])
    value = serializers.CharField(max_length=40, allow_null=True)


class CorrectionSerializer(serializers.Serializer[Any]):
    """Who put what right, and when."""

    words = serializers.CharField()
    by = serializers.CharField()
    made = serializers.DateTimeField()


class BenchSerializer(serializers.Serializer[Any]):
    """One run, measured. Times are seconds from the clip's first frame."""

    run = RunSerializer()
    t = serializers.ListField(child=serializers.FloatField())
    phases = serializers.ListField(child=serializers.CharField())
    unit = serializers.CharField()
    turns = TurnSerializer(many=True)
    boundaries = BoundarySerializer(many=True)
    ribbon = RibbonSerializer()
    readings = ReadingSerializer(many=True)
    sides = SideMeanSerializer(many=True)
    gaps = SideGapSerializer(many=True, required=False)
    notes = serializers.ListField(
        child=serializers.CharField(), help_text="what to know of the clip, in sentences"
    )
    doubt = DoubtSerializer(allow_null=True, required=False)
    rate_sure = serializers.BooleanField(
        required=False, help_text="whether the picture or the coach bears out the rate"
    )
    units = serializers.CharField(required=False, help_text="the word for several units")
    plays_slower = serializers.FloatField(
        allow_null=True, help_text="how many times slower than life it seems to play"
    )
    fallen = serializers.ListField(
        child=serializers.FloatField(),
        allow_null=True,
        help_text="pixels a metre by the fall in the air, and its standard uncertainty",
    )
    roll_deg = serializers.FloatField(
        help_text="degrees by which the picture is turned counter-clockwise to stand upright"
    )
    refusals = RefusalSerializer(many=True)
    bands = BandSerializer(many=True)
    measures = serializers.DictField(child=MeasureWordsSerializer())
    prescription = PrescriptionSerializer()
    nothing_words = serializers.CharField(help_text="what to say where nothing is the main thing")
    points = serializers.ListField(
        child=serializers.CharField(), help_text="landmarks of the points file, in its order"
    )
    point_words = serializers.DictField(
        child=serializers.CharField(allow_blank=True),
        help_text="points that may be marked → what they are",
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


class EditSerializer(serializers.Serializer[Any]):
    """One correction: a mark (frame, landmark, x, y in pixels of the clip) or a boundary (t, old_t)."""

    kind = serializers.ChoiceField(Edit.Kind.choices)
    frame = serializers.IntegerField(min_value=0, required=False)
    landmark = serializers.CharField(max_length=30, required=False)
    x = serializers.FloatField(required=False)
    y = serializers.FloatField(required=False)
    t = serializers.FloatField(required=False)
    old_t = serializers.FloatField(required=False)

    NEEDS = {
        Edit.Kind.MARK: ("frame", "landmark", "x", "y"), Edit.Kind.ADD: ("t",), Edit.Kind.MOVE: ("t", "old_t"),
        Edit.Kind.DELETE: ("old_t",),
    }  # fmt: skip

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        needed = self.NEEDS[data["kind"]]
        for key in needed:
            if key not in data:
                raise serializers.ValidationError(
                    {key: "This is needed for this kind of correction."}
                )
        return {"kind": data["kind"], "values": {k: data[k] for k in needed}}
