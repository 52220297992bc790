"""A page of documentation per discipline, from the declarations that the code runs on."""

from __future__ import annotations

import sys
from pathlib import Path

from proklisis.core.camera.views import ONLY_3D
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Condition, Fault, Link, Playbook, Range, Wanted
from proklisis.core.playbook.words import band_words
from proklisis.core.review import playbook, playbook_ids
from proklisis.core.splitting.library import splitter
from proklisis.formats.files import write_text


def condition_words(c: Condition) -> str:
    """Say in words when a condition makes its fault fire."""
    if c.any:
        return " or ".join(condition_words(x) for x in c.any)
    if c.pattern:
        return "the pattern broken: " + " or ".join(condition_words(x) for x in c.pattern)
    if c.all:
        return " and ".join(f"({condition_words(x)})" for x in c.all)
    if c.observation:
        only = [f"{k} {_given(v)}" for k, v in c.given.items()]
        return (
            f"seen: `{c.observation}`"
            + (f", {c.phase}" if c.phase else "")
            + (f" ({', '.join(only)})" if only else "")
        )
    assert c.measure is not None
    name = f"`{c.measure}`" + (f" ÷ `{c.over}`" if c.over else f" − `{c.minus}`" if c.minus else "")
    name += " − own best" if c.less_best else f" − `{c.less_wanted}`" if c.less_wanted else ""
    where = "".join(f", {x}" for x in (c.phase, c.limb, c.side) if x)
    only = [f"{k} {_given(v)}" for k, v in c.given.items()] + [
        f"{k}: {v}" for k, v in c.school.items()
    ]
    bands = c.band if isinstance(c.band, dict) else {"": c.band}
    wanted = "; ".join(
        f"{level} {band_words(c.measure, band)}".strip() for level, band in bands.items() if band
    )
    return f"{name}{where} {'inside' if c.inside else 'not'} {wanted}" + (
        f" ({', '.join(only)})" if only else ""
    )


def _given(wanted: Wanted) -> str:
    if isinstance(wanted, Range):
        ends = " ".join(
            f"{w} {v:g}" for w, v in (("from", wanted.min), ("below", wanted.max)) if v is not None
        )
        return ends + (" or not given" if wanted.or_unknown else "")
    return " or ".join(
        "not given" if w is None else str(w).lower() if isinstance(w, bool) else w for w in wanted
    )


def link_words(link: Link) -> str:
    """A fault that another can lead to, and where only."""
    only = [f"{k} {_given(v)}" for k, v in link.given.items()]
    only += [x.replace("_", " ") for x in (link.side, link.way) if x]
    only += [f"not where {condition_words(link.unless)}"] if link.unless else []
    return f"`{link.to}`" + (f" ({', '.join(only)})" if only else "")


def _title(f: Fault) -> str:
    ways = [f"{way}: {x.title}" for way, x in (("below", f.below), ("above", f.above)) if x]
    roles = {
        "reason": "a reason, never the main thing",
        "effect": "an effect, never the main thing",
    }
    return "; ".join([f.title, *ways, *([roles[f.role]] if f.role in roles else [])])


def lines_of(book: Playbook) -> dict[tuple[str, ...], int]:
    """Points of a line that is drawn for a measure → its number on the drawing."""
    angles = [REGISTRY[i].angle for i in book.measures if len(REGISTRY[i].angle) > 1]
    return {a: n for n, a in enumerate(dict.fromkeys(angles), start=1)}


def page(book: Playbook) -> str:
    """Markdown for one discipline."""
    out = [
        f"# {book.title} (`{book.discipline}`)",
        "",
        "Written from the playbook; do not edit by hand.",
        "",
    ]
    how = "from clips and tracks, and from run sheets" if book.from_tracks else "from run sheets"
    out += [
        f"Judged {how}. Its unit is the {book.unit}; phases: {', '.join(f'`{p}`' for p in book.phases)}.",
        "",
    ]
    if book.split:
        by = splitter(book.split)
        out += [f"Split by: {by.title.lower()} ({by.unit}).", ""]
    lines = lines_of(book)
    out += [
        f"![A {book.unit} with the lines that are read]({book.discipline}.svg)",
        "",
        "The drawing is of a simulated rider; its numbers stand under *line* below.",
        "",
    ]
    out += [
        "## Measures",
        "",
        "| id | unit | what | how | seen from | ± of the model | line |",
        "|---|---|---|---|---|---|---|",
    ]
    for i in book.measures:
        m = REGISTRY[i]
        seen = m.seen_from(book.sideways)
        views = (
            ", ".join("3-D tracks only" if v == ONLY_3D else v.replace("_", " ") for v in seen)
            or "any"
        )
        model = f"{2 * m.model_u:g}" if m.model_u else "–"
        out.append(
            f"| `{i}` | {m.unit} | {m.doc} | {m.formula.replace('|', '∣')} | {views} | {model} | {lines.get(m.angle, '–')} |"
        )
    out += [
        "",
        "Sources of formulas: see [the pipeline](../pipeline.md) and `tests/reference`. ± of the model is U = 2u of what the formula itself leaves open.",
    ]
    out += ["", "## Faults", "", "| fault | what is seen | when | leads to |", "|---|---|---|---|"]
    for i, f in book.faults.items():
        leads = ", ".join(map(link_words, f.links)) or "–"
        out.append(f"| `{i}` {_title(f)} | {f.seen} | {condition_words(f.when)} | {leads} |")
    if book.views:
        out += ["", "## What shows from where", "", book.views]
    if book.by_eye:
        out += [
            "",
            "Mostly seen rather than measured: "
            + ", ".join(f"`{i}`" for i in book.by_eye)
            + ". Every fault may be noted by eye.",
        ]
    if book.observations:
        out += [
            "",
            "## The coach's eye",
            "",
            *(
                f"- {', '.join(f'`{name}`' for name in (i, *o.also))}: {o.title}{' (good)' if o.good else ''}"
                for i, o in book.observations.items()
            ),
        ]
    extra = [f"- `{g.observation}`: {g.text}" for g in book.gear] + [
        f"- `{x.observation}`: {x.text}" for x in book.limits
    ]
    if extra:
        out += ["", "## Gear and limits", "", *extra]
    for i, s in book.schools.items():
        out += ["", f"## School `{i}`", "", s.question, ""]
        out += [f"- `{o}`: {x.title}. {x.reason}" for o, x in s.options.items()]
        default = (
            s.default
            if isinstance(s.default, str)
            else ", ".join(f"{level}: {o}" for level, o in s.default.items())
        )
        out += ["", f"Default: {default}. {s.default_reason}"]
    out += ["", "## Take care", "", *(f"- {c}" for c in book.cautions), ""]
    return "\n".join(out)


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for i in playbook_ids():
        write_text(folder / f"{i}.md", page(playbook(i)))
    index = ["# Disciplines", "", *(f"- [{playbook(i).title}]({i}.md)" for i in playbook_ids()), ""]
    write_text(folder / "README.md", "\n".join(index))


if __name__ == "__main__":
    main()
