"""The house can be walked through: no module knows another that knows it, by however many doors."""

from __future__ import annotations

import re
from pathlib import Path

import grimp
import pytest

ROOT = Path(__file__).parents[2]
SRC = ROOT / "frontend" / "src"


def circles(arrows: dict[str, set[str]]) -> list[set[str]]:
    """Groups of names that can be reached from each other."""

    def reached(start: str) -> set[str]:
        seen, todo = set(), [start]
        while todo:
            for to in arrows.get(todo.pop(), set()) - seen:
                seen.add(to)
                todo.append(to)
        return seen

    far = {name: reached(name) for name in arrows}
    found = [{b for b in far[a] if a in far.get(b, set())} for a in arrows if a in far[a]]
    return [c for k, c in enumerate(found) if c not in found[:k]]


def test_a_circle_is_seen():
    assert circles({"a": {"b"}, "b": {"c"}, "c": {"a"}, "d": {"a"}}) == [{"a", "b", "c"}]
    assert circles({"a": {"b"}, "b": set()}) == []


def test_no_python_module_stands_in_a_circle():
    graph = grimp.build_graph("proklisis", cache_dir=None)
    assert len(graph.modules) > 200
    assert circles({m: graph.find_modules_directly_imported_by(m) for m in graph.modules}) == []


def test_no_file_of_the_front_end_stands_in_a_circle():
    files = {
        p for p in SRC.rglob("*.ts*") if ".test." not in p.name and not p.name.endswith(".d.ts")
    }
    assert len(files) > 30
    arrows: dict[str, set[str]] = {}
    for file in files:
        named = [
            (file.parent / m).resolve() for m in re.findall(r'from "(\.[^"]+)"', file.read_text())
        ]
        arrows[str(file)] = {
            str(p)
            for n in named
            for p in (n.with_suffix(".ts"), n.with_suffix(".tsx"))
            if p in files
        }
    assert circles(arrows) == []


def test_no_folder_of_the_front_end_stands_in_a_circle():
    arrows: dict[str, set[str]] = {}
    for file in (p for p in SRC.rglob("*.ts*") if ".test." not in p.name and p.parent != SRC):
        # Pages are loaded when they are gone to, and know the way back.
        named = re.findall(r'^import (?!type)[^;]*from "\.\./(\w+)/', file.read_text(), re.M)
        arrows.setdefault(file.parent.name, set()).update(set(named) - {file.parent.name})
    assert {"video", "stage", "ribbon", "bench"} <= set(arrows)
    assert circles(arrows) == []


@pytest.mark.parametrize(
    "page", sorted(p.name for p in [*ROOT.glob("*.md"), *ROOT.glob("docs/*.md")])
)
def test_every_file_that_the_docs_name_is_there(page):
    path = ROOT / page if (ROOT / page).exists() else ROOT / "docs" / page
    text = path.read_text()
    gone = [to for to in re.findall(r"\]\(([^)#:]+)\)", text) if not (path.parent / to).exists()]
    gone += [
        to
        for to in re.findall(
            r"`((?:proklisis|tests|frontend|benchmarks|tools|docs)/[\w./]+\.\w+)`", text
        )
        if not (ROOT / to).exists()
    ]
    assert gone == []
