"""What is generated and committed is what the code says today."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from proklisis.core.review import playbook, playbook_ids
from proklisis.formats.discipline_pages import page
from proklisis.formats.schemas import schemas

DOCS = Path(__file__).resolve().parents[2] / "docs"


@pytest.mark.parametrize("name", list(schemas()))
def test_json_schemas_are_up_to_date(name):
    assert json.loads((DOCS / "schemas" / f"{name}.json").read_text("utf-8")) == json.loads(json.dumps(schemas()[name]))


@pytest.mark.parametrize("discipline", playbook_ids())
def test_discipline_pages_are_up_to_date_and_name_every_fault(discipline):
    text = (DOCS / "disciplines" / f"{discipline}.md").read_text("utf-8")
    assert text == page(playbook(discipline))
    assert all(f"`{fault}`" in text for fault in playbook(discipline).faults)
