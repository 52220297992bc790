"""Shapes of ``core`` as parts of the API: the schema that clients see is made from the types that the code is checked by."""

from __future__ import annotations

from functools import cache
from typing import Any, get_type_hints

from drf_spectacular.extensions import OpenApiSerializerFieldExtension
from drf_spectacular.openapi import AutoSchema
from drf_spectacular.plumbing import ResolvedComponent
from pydantic import TypeAdapter
from rest_framework import serializers
from typing_extensions import is_typeddict

#: How a component of the API's schema is named in it.
REF = "#/components/schemas/{model}"


class Shape(serializers.Field[Any, Any, Any, Any]):
    """A value that ``core`` made in the shape ``of``; it is given out as it is."""

    def __init__(self, of: Any, **kwargs: Any) -> None:
        self.of = of
        super().__init__(read_only=True, **kwargs)

    def to_representation(self, value: Any) -> Any:
        return value


def shapes_of(of: Any) -> dict[str, Shape]:
    """A field for each key of a typed dictionary."""
    return {key: Shape(kind) for key, kind in get_type_hints(of, include_extras=True).items()}


@cache
def _schema(of: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    schema = TypeAdapter(of).json_schema(ref_template=REF, mode="serialization")
    parts = schema.pop("$defs", {})
    if is_typeddict(of):
        return {"$ref": REF.format(model=of.__name__)}, {**parts, of.__name__: schema}
    return schema, parts


class ShapeExtension(OpenApiSerializerFieldExtension):  # type: ignore[no-untyped-call]
    """Writes the JSON Schema of a shape, each typed dictionary in it as a component."""

    target_class = Shape

    def map_serializer_field(self, auto_schema: AutoSchema, direction: str) -> dict[str, Any]:
        schema, parts = _schema(self.target.of)
        for name, part in parts.items():
            found = ResolvedComponent(  # type: ignore[no-untyped-call]
                name=name, type=ResolvedComponent.SCHEMA, object=name, schema=part
            )
            auto_schema.registry.register_on_missing(found)
        return schema
