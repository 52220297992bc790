"""Shapes of runs: what is said of them, and how far they are."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.conditions import (
    check_condition,
    in_one_unit,
    in_other_units,
    read_rope,
    replaced,
)
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.words import upper_first
from proklisis.core.review import playbook
from proklisis.web.clubs.access import of_club
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Clip, Run
from proklisis.web.runs.reporting import seconds_left


class ClipSerializer(serializers.ModelSerializer[Clip]):
    missing_after = serializers.ListField(
        child=serializers.IntegerField(), help_text="frames after which some are missing"
    )
    doubled = serializers.ListField(
        child=serializers.IntegerField(), help_text="frames that show the one before again"
    )
    playable = serializers.SerializerMethodField()

    class Meta:
        model = Clip
        fields = [
            "name",
            "size",
            "codec",
            "width",
            "height",
            "play_width",
            "play_height",
            "fps",
            "frames",
            "missing_after",
            "doubled",
            "playable",
            "film_gone_at",
        ]

    @extend_schema_field(
        serializers.BooleanField(help_text="the copy that is stepped frame by frame is made")
    )
    def get_playable(self, clip: Clip) -> bool:
        return bool(clip.working)


class RiderBriefSerializer(serializers.ModelSerializer[Rider]):
    class Meta:
        model = Rider
        fields = ["id", "name", "number", "colours", "level"]


def conditions_said(given: dict[str, Any], book: Playbook) -> dict[str, Any]:
    """Conditions in the units in which they were said; ``rope`` is a rope as a coach types it."""
    try:
        said = dict(given)
        if "rope" in said and "rope_m" in book.conditions:
            said = replaced(
                {k: v for k, v in said.items() if k != "rope"}, read_rope(str(said["rope"]))
            )
        for key, value in said.items():
            if key not in in_other_units(book.conditions):
                raise InputError(f"{key!r} is not known", "", nearest(key, book.conditions))
            check_condition(key, value, "")
        in_one_unit(said, "")
    except InputError as e:
        raise serializers.ValidationError({"conditions": upper_first(str(e))}) from e
    return said


class RunSerializer(serializers.ModelSerializer[Run]):
    rider_id = serializers.PrimaryKeyRelatedField(
        queryset=Rider.objects.none(), source="rider", write_only=True
    )
    rider = RiderBriefSerializer(read_only=True)
    clip = serializers.SerializerMethodField()
    intention_faults = serializers.ListField(
        child=serializers.CharField(max_length=60), required=False
    )
    conditions = serializers.DictField(required=False)
    gear = serializers.DictField(required=False)
    schools = serializers.DictField(child=serializers.CharField(), required=False)
    sure = serializers.ListField(
        child=serializers.ChoiceField(["view", "front_foot", "rate"]), required=False
    )
    was = serializers.DictField(
        required=False,
        write_only=True,
        help_text="values that this change started from; where they are others by now it is refused",
    )
    main_title = serializers.SerializerMethodField()
    presses = serializers.SerializerMethodField()
    approved = serializers.SerializerMethodField()
    seconds_left = serializers.SerializerMethodField()
    outline = serializers.SerializerMethodField()
    sent_in = serializers.SerializerMethodField()
    stands = serializers.CharField(
        read_only=True,
        default="",
        help_text="on lists: where it stands, from its clip's arrival to the next one",
    )

    class Meta:
        model = Run
        fields = [
            "id", "rider_id", "rider", "discipline", "title", "level", "intention_text", "intention_faults", "conditions",
            "gear", "schools", "view", "view_offset_deg", "roll_deg", "filmed_fps", "sure", "was", "filmed_on", "due", "added",
            "state", "step", "progress", "seconds_left", "problem", "clip", "main_title", "presses", "outline", "approved", "part_of", "sent_in", "stands",
        ]  # fmt: skip
        read_only_fields = ["added", "state", "step", "progress", "problem", "part_of"]
        extra_kwargs = {
            "level": {"required": False},
            "view_offset_deg": {"min_value": -60, "max_value": 60},
            "roll_deg": {"min_value": -45, "max_value": 45},
            "filmed_fps": {"min_value": 10, "max_value": 2000},
        }

    def get_fields(self) -> dict[str, Any]:
        fields = super().get_fields()
        if "request" in self.context:
            ids: Any = fields["rider_id"]
            ids.queryset = of_club(Rider.objects.all(), self.context["request"])
        return fields

    @extend_schema_field(ClipSerializer(allow_null=True))
    def get_clip(self, run: Run) -> Any:
        return ClipSerializer(run.clip).data if hasattr(run, "clip") else None

    @extend_schema_field(
        serializers.CharField(
            allow_null=True, help_text="the main thing found, in words; empty where all is well"
        )
    )
    def get_main_title(self, run: Run) -> str | None:
        return run.result.main_title if hasattr(run, "result") else None

    @extend_schema_field(
        serializers.IntegerField(
            allow_null=True,
            help_text="the fewest presses until something can be judged, 0 where no mark would help; null where it is judged",
        )
    )
    def get_presses(self, run: Run) -> int | None:
        return run.result.presses if hasattr(run, "result") else None

    @extend_schema_field(
        serializers.FloatField(
            allow_null=True, help_text="about how long the analysis will still take"
        )
    )
    def get_seconds_left(self, run: Run) -> float | None:
        left = seconds_left(run)
        return None if left is None else round(left)

    @extend_schema_field(
        serializers.ListField(
            child=serializers.IntegerField(),
            help_text="the Ribbon from −100 to 100; empty where nothing is measured",
        )
    )
    def get_outline(self, run: Run) -> list[int]:
        return run.result.outline if hasattr(run, "result") else []

    @extend_schema_field(serializers.BooleanField())
    def get_approved(self, run: Run) -> bool:
        return hasattr(run, "script") and run.script.approved_at is not None

    @extend_schema_field(
        serializers.BooleanField(
            help_text="its rider sent it by a link: the approved answer appears on their page"
        )
    )
    def get_sent_in(self, run: Run) -> bool:
        return hasattr(run, "sent_in")

    def create(self, data: dict[str, Any]) -> Run:
        data.pop("was", None)  # what is new was nothing
        return super().create(data)

    def update(self, run: Run, data: dict[str, Any]) -> Run:
        """Write what was changed and nothing else: a worker may be writing the run's state at the same time."""
        for key, value in data.items():
            setattr(run, key, value)
        run.save(update_fields=list(data))
        return run

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        discipline = data.get(
            "discipline", self.instance.discipline if self.instance else "alpine_carve"
        )
        try:
            book = playbook(discipline)
        except InputError as e:
            raise serializers.ValidationError({"discipline": str(e)}) from e

        if not book.from_tracks:
            raise serializers.ValidationError(
                {"discipline": f"Clips of {book.title.lower()} cannot be analysed yet."}
            )

        def known(words: Any, ids: Any, field: str) -> None:
            for word in words:
                if word not in ids:
                    raise serializers.ValidationError(
                        {field: f"{word!r} is not known; {nearest(str(word), ids)}."}
                    )

        known(data.get("intention_faults", []), book.faults, "intention_faults")
        if "conditions" in data:
            data["conditions"] = conditions_said(data["conditions"], book)
        for question, option in data.get("schools", {}).items():
            known([question], book.schools, "schools")
            known([option], book.schools[question].options, "schools")
        if "level" not in data and not self.instance and "rider" in data:
            data["level"] = data["rider"].level
        return data


class BusySerializer(serializers.ModelSerializer[Run]):
    """How far the analysis of a run is."""

    seconds_left = serializers.SerializerMethodField()

    class Meta:
        model = Run
        fields = ["id", "state", "step", "progress", "seconds_left"]

    @extend_schema_field(serializers.FloatField(allow_null=True))
    def get_seconds_left(self, run: Run) -> float | None:
        left = seconds_left(run)
        return None if left is None else round(left)
