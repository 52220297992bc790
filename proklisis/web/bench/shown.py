"""Shapes of what the Bench shows of a run: units, readings, findings, corrections, answers."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.shown import Shown
from proklisis.web.runs.models import Edit
from proklisis.web.runs.serializers import RunSerializer
from proklisis.web.shape import Shape, shapes_of


class AnswerSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(["view", "front_foot", "rate"])
    value = serializers.CharField(max_length=40, allow_null=True)


class CorrectionSerializer(serializers.Serializer[Any]):
    """Who put what right, and when."""

    words = serializers.CharField()
    by = serializers.CharField()
    made = serializers.DateTimeField()


class _Measured(serializers.Serializer[Any]):
    """The part of the Bench that ``core`` measured."""


_Measured._declared_fields |= shapes_of(Shown)


class BenchSerializer(_Measured):
    """One run, measured. Times are seconds from the clip's first frame."""

    run = RunSerializer()
    prescription = Shape(Prescription)
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
