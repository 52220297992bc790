"""The calculators: listed, asked, filled from a run, kept."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import mixins, serializers, viewsets
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.reckoner.reckon import ask, calculator, reckoning
from proklisis.core.reckoner.solve import TooLittle
from proklisis.core.shapes.reckoning import Reckoning
from proklisis.web.analysis.compared import run_of
from proklisis.web.clubs.access import coach_of, in_feet_for, of_club
from proklisis.web.errors import ProblemSerializer
from proklisis.web.reckoner.from_run import offered
from proklisis.web.reckoner.models import KeptReckoning
from proklisis.web.reckoner.shown import LONGEST_TEXT, answered, listed, understood
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.shape import Shape


class CalculatorFieldSerializer(serializers.Serializer[Any]):
    key = serializers.CharField()
    title = serializers.CharField()
    unit = serializers.CharField(allow_blank=True)
    takes = serializers.ChoiceField(["number", "numbers", "choice"])
    choices = serializers.ListField(child=serializers.CharField())
    answer = serializers.BooleanField(help_text="one of what it is usually asked for")
    default = serializers.CharField(allow_null=True, help_text="taken where nothing is said")  # type: ignore[assignment]


class CalculatorSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    doc = serializers.CharField()
    formula = serializers.CharField()
    source = serializers.CharField()  # type: ignore[assignment]
    example = serializers.DictField(child=serializers.CharField())
    story = serializers.CharField(help_text="what the worked example is about")
    disciplines = serializers.ListField(
        child=serializers.CharField(), help_text="those whose runs it is opened for first"
    )
    fields = CalculatorFieldSerializer(many=True)  # type: ignore[assignment]


class QuestionSerializer(serializers.Serializer[Any]):
    """What is typed into a calculator's fields."""

    said = serializers.DictField(
        child=serializers.CharField(allow_blank=True, max_length=LONGEST_TEXT)
    )
    unknown = serializers.CharField(
        required=False, allow_blank=True, max_length=40, help_text="the quantity that is asked for"
    )


class ReckonedRowSerializer(serializers.Serializer[Any]):
    key = serializers.CharField()
    words = serializers.CharField()
    pm = serializers.CharField(allow_blank=True, help_text="U = 2u; empty where nothing has a doubt")  # fmt: skip
    unit = serializers.CharField(allow_blank=True)
    given = serializers.BooleanField()
    assumed = serializers.BooleanField(help_text="taken because nothing was said")


class PlotAxisSerializer(serializers.Serializer[Any]):
    key = serializers.CharField()
    title = serializers.CharField()
    unit = serializers.CharField(allow_blank=True)


class ReckonedPlotSerializer(serializers.Serializer[Any]):
    x = PlotAxisSerializer()
    y = PlotAxisSerializer()
    points = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()), help_text="x, y and the U of y"
    )
    at = serializers.ListField(child=serializers.FloatField(), help_text="where the answer stands")
    low = serializers.FloatField(help_text="from where x may be dragged")
    high = serializers.FloatField()
    moves = serializers.BooleanField(help_text="whether x was given and may be dragged")


class AnswerSerializer(serializers.Serializer[Any]):
    rows = ReckonedRowSerializer(many=True)
    says = serializers.ListField(child=serializers.CharField())
    cautions = serializers.ListField(child=serializers.CharField())
    plot = ReckonedPlotSerializer(allow_null=True)
    lacking = serializers.CharField(allow_blank=True, help_text="what else would have to be given, where nothing follows yet")  # fmt: skip


class FromRunRowSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(help_text="to be filled in")
    says = serializers.CharField()
    sure = serializers.BooleanField(
        help_text="false: it hangs on a clock that may be a slow motion's"
    )


class FromRunSerializer(serializers.Serializer[Any]):
    rider = serializers.CharField()
    title = serializers.CharField(allow_blank=True)
    discipline = serializers.CharField()
    offered = serializers.DictField(child=FromRunRowSerializer(many=True))


class KeptReckoningSerializer(serializers.ModelSerializer[KeptReckoning]):
    title = serializers.SerializerMethodField()
    by = serializers.CharField(source="by.coach.name", read_only=True, default="")
    reckoning = Shape(Reckoning)
    said = serializers.DictField(
        child=serializers.CharField(allow_blank=True, max_length=LONGEST_TEXT)
    )

    class Meta:
        model = KeptReckoning
        fields = ["id", "run", "rider", "name", "title", "said", "unknown", "reckoning", "kept", "by"]  # fmt: skip
        read_only_fields = ["kept"]
        # That it is of a run or of a rider is said in words by ``validate``.
        validators: list[Any] = []

    def get_fields(self) -> dict[str, Any]:
        fields = super().get_fields()
        request = self.context["request"]
        for name, model in (("run", Run), ("rider", Rider)):
            fields[name] = serializers.PrimaryKeyRelatedField(
                queryset=of_club(model.objects.all(), request), required=False, allow_null=True
            )
        return fields

    def get_title(self, kept: KeptReckoning) -> str:
        return calculator(kept.name).title

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if bool(attrs.get("run")) == bool(attrs.get("rider")):
            raise serializers.ValidationError("Keep it with a run or with a rider.")
        return attrs


class CalculatorsView(APIView):
    @extend_schema(responses={200: CalculatorSerializer(many=True)})
    def get(self, request: Request) -> Response:
        """Every calculator with its fields, formula, source and a worked example."""
        return Response(listed(in_feet_for(request)))


class ReckonView(APIView):
    helpers_may = ("post",)

    @extend_schema(request=QuestionSerializer, responses={200: AnswerSerializer, 400: ProblemSerializer})  # fmt: skip
    def post(self, request: Request, name: str) -> Response:
        """Ask a calculator; nothing is kept."""
        question = QuestionSerializer(data=request.data)
        question.is_valid(raise_exception=True)
        feet = in_feet_for(request)
        said = understood(calculator(name), question.validated_data["said"], feet)
        try:
            found = ask(name, said, question.validated_data.get("unknown") or None)
        except TooLittle as e:
            return Response({"rows": [], "says": [], "cautions": [], "plot": None, "lacking": str(e)})  # fmt: skip
        return Response({**answered(found, feet), "lacking": ""})


class FromRunView(APIView):
    @extend_schema(responses={200: FromRunSerializer, 400: ProblemSerializer})
    def get(self, request: Request, name: str, run: int) -> Response:
        """What a run has for a calculator's fields, each with what it is."""
        row = run_of(request, run)
        found = offered(calculator(name), row)
        return Response(
            {
                "rider": row.rider.name,
                "title": row.title,
                "discipline": row.discipline,
                "offered": found,
            }
        )


@extend_schema_view(
    list=extend_schema(parameters=[OpenApiParameter("run", int), OpenApiParameter("rider", int)])
)
class KeptReckoningViewSet(
    mixins.ListModelMixin, mixins.CreateModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[KeptReckoning]
):  # fmt: skip
    """Answers that were kept with a run or a rider of the coach's club."""

    helpers_may = ("create",)
    serializer_class = KeptReckoningSerializer
    queryset = KeptReckoning.objects.select_related("by__coach").filter(
        run__removed_at=None, rider__removed_at=None
    )

    def get_queryset(self) -> Any:
        mine = of_club(super().get_queryset(), self.request)
        for name in ("run", "rider"):
            asked = self.request.query_params.get(name, "")
            if asked.isdecimal():
                mine = mine.filter(**{name: int(asked[:15])})
        return mine

    def perform_create(self, serializer: Any) -> None:
        given = serializer.validated_data
        feet = in_feet_for(self.request)
        # Kept with its units, so that it says the same to a coach who thinks in others.
        said = understood(calculator(given["name"]), given["said"], feet)
        done = reckoning(ask(given["name"], said, given.get("unknown") or None))
        coach = coach_of(self.request)
        serializer.save(club=coach.club, by=coach.user, said=said, reckoning=done)
