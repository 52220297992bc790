"""What the API gives out is of the shapes that its schema, the JSON Schemas and the front end are made from."""

from __future__ import annotations

from importlib import import_module

import pytest
from pydantic import TypeAdapter, ValidationError

from proklisis.core.imperial import bench_in_feet, prescription_in_feet
from proklisis.core.review import judge, review, run_sheet
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.shown import Shown
from proklisis.simulate.run import simulate
from proklisis.web.analysis.payload import bench

SHOWN, PRESCRIPTION = TypeAdapter(Shown), TypeAdapter(Prescription)


@pytest.mark.parametrize(
    ("discipline", "view"),
    [("alpine_carve", "front"), ("slalom_ski", "rear"), ("figure_jump", "side_right")],
)
def test_the_bench_and_the_prescription_are_of_their_shapes_in_both_units(discipline, view):
    sim = simulate(discipline, {}, units=3, seed=3, view=view)
    done = review(sim.tracks.with_facts(sure=("view", "rate", "front_foot")), discipline)
    sheet = run_sheet(done, discipline, sim.about())
    shown, told = bench(done, sheet), judge(sheet)
    assert shown["units"] and shown["unit_plural"] != shown["unit"]
    for of, value in (
        (SHOWN, shown),
        (SHOWN, bench_in_feet(shown)),
        (PRESCRIPTION, told),
        (PRESCRIPTION, prescription_in_feet(told)),
    ):
        of.validate_python(value)
    with pytest.raises(ValidationError, match="turns"):
        SHOWN.validate_python({**shown, "turns": []})


def test_the_shapes_stand_in_the_apis_schema(api_schema):
    parts = api_schema["components"]["schemas"]
    assert set(parts["Finding"]["properties"]) >= {"fault", "status", "evidence", "other_side"}
    assert "other_side" not in parts["Finding"]["required"]
    bench_parts = parts["Bench"]["properties"]
    assert bench_parts["units"]["items"]["$ref"].endswith("/ShownUnit")
    assert "schemas/Prescription" in str(bench_parts["prescription"])


@pytest.fixture(scope="module")
def api_schema():
    from drf_spectacular.generators import SchemaGenerator

    return SchemaGenerator().get_schema(request=None, public=True)


def test_results_of_before_get_the_new_names():
    rename = import_module("proklisis.web.runs.migrations.0011_units_not_turns").rename

    class Old:
        bench = {
            "turns": [1],
            "units": "loops",
            "ribbon": {"tilt": [0], "tilt_u": [1]},
            "readings": [{"turn": 3}],
        }
        saved = False

        def save(self, update_fields):
            self.saved = update_fields == ["bench"]

    old = Old()

    class Apps:
        @staticmethod
        def get_model(*_):
            class Model:
                class objects:
                    iterator = staticmethod(lambda chunk_size: [old, old])

            return Model

    rename(Apps, None)
    assert old.saved and old.bench == {
        "units": [1],
        "unit_plural": "loops",
        "ribbon": {"swing": [0], "swing_u": [1]},
        "readings": [{"unit": 3}],
    }
