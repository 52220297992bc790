"""Shapes of runs and of what the Bench shows."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.review import playbook, told
from proklisis.web.clubs.access import of_club
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Clip, Edit, Run
from proklisis.web.runs.reporting import seconds_left


class ClipSerializer(serializers.ModelSerializer[Clip]):
    missing_after = serializers.ListField(child=serializers.IntegerField(), help_text="frames after which some are missing")
    doubled = serializers.ListField(child=serializers.IntegerField(), help_text="frames that show the one before again")

    class Meta:
        model = Clip
        fields = ["name", "size", "codec", "width", "height", "play_width", "play_height", "fps", "frames", "missing_after", "doubled"]


class RiderBriefSerializer(serializers.ModelSerializer[Rider]):
    class Meta:
        model = Rider
        fields = ["id", "name", "number", "colours", "level"]


class ObservationSerializer(serializers.Serializer[Any]):
    id = serializers.CharField(max_length=60)
    segment = serializers.IntegerField(min_value=1, required=False, allow_null=True, default=None)
    sure = serializers.BooleanField(default=True)


class RunSerializer(serializers.ModelSerializer[Run]):
    rider_id = serializers.PrimaryKeyRelatedField(queryset=Rider.objects.none(), source="rider", write_only=True)
    rider = RiderBriefSerializer(read_only=True)
    clip = serializers.SerializerMethodField()
    observations = ObservationSerializer(many=True, required=False)
    intention_faults = serializers.ListField(child=serializers.CharField(max_length=60), required=False)
    conditions = serializers.DictField(required=False)
    gear = serializers.DictField(required=False)
    schools = serializers.DictField(child=serializers.CharField(), required=False)
    main_title = serializers.SerializerMethodField()
    approved = serializers.SerializerMethodField()
    seconds_left = serializers.SerializerMethodField()

    class Meta:
        model = Run
        fields = [
            "id", "rider_id", "rider", "discipline", "title", "level", "intention_text", "intention_faults", "conditions",
            "gear", "schools", "observations", "view", "view_offset_deg", "roll_deg", "filmed_fps", "filmed_on", "added",
            "state", "step", "progress", "seconds_left", "problem", "clip", "main_title", "approved",
        ]  # fmt: skip
        read_only_fields = ["added", "state", "step", "progress", "problem"]
        extra_kwargs = {
            "level": {"required": False},
            "view_offset_deg": {"min_value": -60, "max_value": 60},
            "roll_deg": {"min_value": -45, "max_value": 45},
            "filmed_fps": {"min_value": 10, "max_value": 2000},
        }

    def get_fields(self) -> dict[str, Any]:
        fields = super().get_fields()
        if "request" in self.context:
            fields["rider_id"].queryset = of_club(Rider.objects.all(), self.context["request"])
        return fields

    @extend_schema_field(ClipSerializer(allow_null=True))
    def get_clip(self, run: Run) -> Any:
        return ClipSerializer(run.clip).data if hasattr(run, "clip") else None

    @extend_schema_field(serializers.CharField(allow_null=True, help_text="the main thing found, in words; empty where all is well"))
    def get_main_title(self, run: Run) -> str | None:
        if not hasattr(run, "result"):
            return None
        main = run.result.prescription["main"]
        if main:
            return playbook(run.result.prescription["discipline"]).faults[main["fault"]].title
        return "" if told(run.result.prescription)[0] else "Nothing could be judged"

    @extend_schema_field(serializers.FloatField(allow_null=True, help_text="about how long the analysis will still take"))
    def get_seconds_left(self, run: Run) -> float | None:
        left = seconds_left(run)
        return None if left is None else round(left)

    @extend_schema_field(serializers.BooleanField())
    def get_approved(self, run: Run) -> bool:
        return hasattr(run, "script") and run.script.approved_at is not None

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        discipline = data.get("discipline", self.instance.discipline if self.instance else "alpine_carve")
        try:
            book = playbook(discipline)
        except InputError as e:
            raise serializers.ValidationError({"discipline": str(e)}) from e

        if not book.from_tracks:
            raise serializers.ValidationError({"discipline": f"Clips of {book.title.lower()} cannot be analysed yet."})

        def known(words: Any, ids: Any, field: str) -> None:
            for word in words:
                if word not in ids:
                    raise serializers.ValidationError({field: f"{word!r} is not known; {nearest(str(word), ids)}."})

        known(data.get("intention_faults", []), book.faults, "intention_faults")
        known(data.get("conditions", {}), book.conditions, "conditions")
        known([o["id"] for o in data.get("observations", [])], book.observations, "observations")
        for question, option in data.get("schools", {}).items():
            known([question], book.schools, "schools")
            known([option], book.schools[question].options, "schools")
        slope = data.get("conditions", {}).get("slope_deg")
        if slope is not None and not (isinstance(slope, int | float) and 0 <= slope <= 60):
            raise serializers.ValidationError({"conditions": "The slope is a number from 0 to 60 degrees."})
        if "level" not in data and not self.instance and "rider" in data:
            data["level"] = data["rider"].level
        return data


class TurnSerializer(serializers.Serializer[Any]):
    n = serializers.IntegerField()
    side = serializers.CharField(allow_null=True, help_text="left or right, where the discipline has sides")
    finest_side = serializers.CharField(allow_null=True, help_text="toe or heel, onside or offside, the hands")
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
    graded = serializers.BooleanField(help_text="false where only the side of the tilt can be trusted")
    look = serializers.ListField(child=serializers.IntegerField(), help_text="frames in which the rider was lost")


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
    sure = serializers.BooleanField(help_text="more than the camera and the tracking could make of nothing")
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


class MainSerializer(serializers.Serializer[Any]):
    fault = serializers.CharField()
    side = serializers.CharField()
    why = serializers.CharField()
    cue = serializers.CharField()


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


class GearSerializer(serializers.Serializer[Any]):
    text = serializers.CharField()
    because_of = serializers.CharField()


class PrescriptionSerializer(serializers.Serializer[Any]):
    """``prescription/1``."""

    format = serializers.CharField()
    discipline = serializers.CharField()
    level = serializers.CharField()
    strengths = StrengthSerializer(many=True)
    main = MainSerializer(allow_null=True)
    findings = FindingSerializer(many=True)
    cues = CueSerializer(many=True)
    drills = DrillSerializer(many=True)
    gear = GearSerializer(many=True)
    cautions = serializers.ListField(child=serializers.CharField())
    retest = TargetSerializer(many=True)
    cannot_tell = CannotTellSerializer(many=True)


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
    notes = serializers.ListField(child=serializers.CharField(), help_text="what to know of the clip, in sentences")
    plays_slower = serializers.IntegerField(allow_null=True, help_text="how many times slower than life it seems to play")
    fallen = serializers.ListField(child=serializers.FloatField(), allow_null=True, help_text="pixels a metre by the fall in the air, and its standard uncertainty")
    roll_deg = serializers.FloatField(help_text="degrees by which the picture is turned counter-clockwise to stand upright")
    refusals = RefusalSerializer(many=True)
    bands = BandSerializer(many=True)
    measures = serializers.DictField(child=MeasureWordsSerializer())
    prescription = PrescriptionSerializer()
    nothing_words = serializers.CharField(help_text="what to say where nothing is the main thing")
    points = serializers.ListField(child=serializers.CharField(), help_text="landmarks of the points file, in its order")
    markable = serializers.ListField(child=serializers.CharField(), help_text="points off the body that a hand may mark here")
    carrying = serializers.ListField(child=serializers.CharField(), help_text="points whose marks are being carried")
    carry_problems = serializers.ListField(child=serializers.CharField(), help_text="why a point could not be carried")
    corrections = CorrectionSerializer(many=True, help_text="in force, the newest first")
    version = serializers.CharField(help_text="changes with every correction")
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
    gain = serializers.FloatField(help_text="how much doubt it would take away, the most being about 1")
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
                raise serializers.ValidationError({key: "This is needed for this kind of correction."})
        return {"kind": data["kind"], "values": {k: data[k] for k in needed}}
