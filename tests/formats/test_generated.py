"""What is generated and committed is what the code says today."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from proklisis.core.review import playbook, playbook_ids
from proklisis.formats.discipline_pages import lines_of, page
from proklisis.formats.schemas import schemas

DOCS = Path(__file__).resolve().parents[2] / "docs"


@pytest.mark.parametrize("name", list(schemas()))
def test_json_schemas_are_up_to_date(name):
    assert json.loads((DOCS / "schemas" / f"{name}.json").read_text("utf-8")) == json.loads(
        json.dumps(schemas()[name])
    )


@pytest.mark.parametrize("discipline", playbook_ids())
def test_discipline_pages_are_up_to_date_and_name_every_fault(discipline):
    text = (DOCS / "disciplines" / f"{discipline}.md").read_text("utf-8")
    assert text == page(playbook(discipline))
    assert all(f"`{fault}`" in text for fault in playbook(discipline).faults)


@pytest.mark.parametrize("discipline", playbook_ids())
def test_every_page_has_its_drawing_with_the_lines_that_it_speaks_of(discipline):
    drawing = (DOCS / "disciplines" / f"{discipline}.svg").read_text("utf-8")
    assert drawing.startswith("<svg") and playbook(discipline).title in drawing
    drawn = {n for n in lines_of(playbook(discipline)).values() if f">{n}</text>" in drawing}
    assert len(drawn) >= 3
