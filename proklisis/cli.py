"""The command line: measuring and judging with no server and no database."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NoReturn

from proklisis.core.errors import InputError
from proklisis.core.playbook.conditions import (
    in_one_unit,
    in_other_units,
    read_rope,
    replaced,
    rope_words,
)
from proklisis.core.playbook.followed import aims_of, parse_prescription
from proklisis.core.playbook.schema import LEVELS
from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.review import judge, playbook, playbook_ids, review, run_sheet
from proklisis.core.tracks.tracks import ClipFacts
from proklisis.formats.files import (
    dump_json,
    read_text,
    read_tracks,
    write_text,
    write_tracks,
)

SURE = ("view", "front_foot", "rate", "level")
VIEWS = ("front", "rear", "side_left", "side_right", "above", "oblique")


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise InputError(message, self.prog, "see --help")


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; return the exit code (0 done, 2 bad input, said in one line)."""
    try:
        args = _parser().parse_args(argv)
        args.run(args)
    except InputError as e:
        print(" ".join(str(e).split()), file=sys.stderr)
        return 2
    except BrokenPipeError:
        # The reader of our output has gone (… | head): nothing is left to say to it.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return 0


def _parser() -> argparse.ArgumentParser:
    top = _Parser(
        prog="proklisis", description="Measure a run, find the earliest cause, prescribe one cue."
    )
    commands = top.add_subparsers(dest="command", required=True, parser_class=_Parser)

    p = commands.add_parser("disciplines", help="list the discipline ids")
    p.add_argument(
        "--json", action="store_true", help="with phases, measures, observations and faults"
    )
    p.set_defaults(run=_disciplines)

    p = commands.add_parser("simulate", help="make a clip with exact truth")
    p.add_argument("--discipline", required=True)
    p.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="FAULT[=STRENGTH]",
        help="strength in band scales, 1.5 if not said",
    )
    p.add_argument("--level", choices=LEVELS, default="intermediate")
    p.add_argument("--units", type=int, default=8)
    p.add_argument("--view", choices=VIEWS)
    p.add_argument("--fps", type=float, default=60.0)
    p.add_argument("--noise", type=float, default=2.0, metavar="PX")
    p.add_argument("--seed", type=int, required=True)
    p.add_argument(
        "--figure",
        type=float,
        default=300.0,
        metavar="PX",
        help="height of the rider in the picture",
    )
    p.add_argument("--height", type=float, default=1.75, metavar="M", help="the rider's stature")
    p.add_argument(
        "--offset",
        type=float,
        default=0.0,
        metavar="DEG",
        help="camera off the view, toward the rider's right",
    )
    p.add_argument("--roll", type=float, default=0.0, metavar="DEG")
    p.add_argument("--lens", type=float, default=0.0, metavar="K1", help="radial distortion")
    p.add_argument("--no-clip", action="store_true", help="tracks and truth only")
    p.add_argument("--out", type=Path, required=True, metavar="DIR")
    p.set_defaults(run=_simulate)

    p = commands.add_parser("analyse", help="split and measure a clip: writes a run sheet")
    p.add_argument("clip", type=Path)
    p.add_argument("--discipline", required=True)
    p.add_argument("--view", choices=VIEWS)
    p.add_argument("--fps", type=float, help="rate it was filmed at, where the file plays slower")
    p.add_argument(
        "--offset",
        type=float,
        metavar="DEG",
        help="how far the camera stood off the view, + toward the rider's right",
    )
    p.add_argument(
        "--sure",
        action="append",
        default=[],
        choices=SURE,
        help="it is as said, though the picture speaks against it",
    )
    p.add_argument("--tracks", type=Path, help="use these tracks and do not track the picture")
    p.add_argument("--level", choices=LEVELS, default="intermediate")
    p.add_argument("--height", type=float, metavar="M", help="the rider's stature")
    p.add_argument("--slope", type=float, metavar="DEG")
    p.add_argument(
        "--roll", type=float, metavar="DEG", help="turn the picture counter-clockwise to level it"
    )
    p.add_argument(
        "--stance",
        choices=("regular", "goofy"),
        help="the foot in front on a board or one ski: left or right",
    )
    p.add_argument(
        "--given",
        action="append",
        default=[],
        metavar="KEY=VALUE",
        help="a condition of the run, such as rope=15 off or wind_kn=18",
    )
    p.add_argument(
        "--school",
        action="append",
        default=[],
        metavar="QUESTION=OPTION",
        help="which of two ways it is judged by",
    )
    p.add_argument("--out", type=Path)
    p.set_defaults(run=_analyse)

    p = commands.add_parser("attempts", help="cut a film of many goes: from when to when, and who")
    p.add_argument("clip", type=Path)
    p.add_argument("--discipline", required=True)
    p.add_argument("--out", type=Path, metavar="FILE")
    p.set_defaults(run=_attempts)

    p = commands.add_parser("prescribe", help="run sheet in, prescription out")
    p.add_argument("sheet", type=Path)
    p.add_argument(
        "--school",
        action="append",
        default=[],
        metavar="QUESTION=OPTION",
        help="which of two ways it is judged by",
    )
    p.add_argument("--out", type=Path)
    p.set_defaults(run=_prescribe)

    p = commands.add_parser("pair", help="hold two runs, or two units, against each other")
    p.add_argument("a", type=Path, metavar="A", help="a run sheet or tracks")
    p.add_argument(
        "b", type=Path, metavar="B", nargs="?", help="another; A again where it is left out"
    )
    p.add_argument("--unit-a", type=int, metavar="N")
    p.add_argument("--unit-b", type=int, metavar="M")
    p.add_argument(
        "--event", metavar="NAME[+S]", help="start, end or a phase, and seconds after its beginning"
    )
    p.add_argument("--mirror", action="store_true", help="swap left and right of B")
    p.add_argument("--discipline", help="of tracks")
    p.add_argument("--out", type=Path)
    p.set_defaults(run=_pair)

    p = commands.add_parser("follow", help="hold a run against the last target")
    p.add_argument("before", type=Path, metavar="BEFORE_PRESCRIPTION")
    p.add_argument("after", type=Path, metavar="AFTER_SHEET")
    p.add_argument("--out", type=Path)
    p.set_defaults(run=_follow)

    p = commands.add_parser("reckon", help="a calculator of the trade; alone it lists them")
    p.add_argument("name", nargs="?", metavar="NAME")
    p.add_argument("said", nargs="*", metavar="KEY=VALUE", help="such as air_time_s=0.86 air_time_s_u=0.01")  # fmt: skip
    p.add_argument("--unknown", metavar="KEY", help="what is asked for, where several are open")
    p.add_argument("--out", type=Path)
    p.set_defaults(run=_reckon)

    p = commands.add_parser("convert", help="between track formats, by file ending")
    p.add_argument("source", type=Path)
    p.add_argument("target", type=Path)
    p.set_defaults(run=lambda a: write_tracks(read_tracks(a.source), a.target))
    return top


def _give(data: Any, out: Path | None) -> None:
    text = dump_json(data)
    if out is None:
        sys.stdout.write(text)
    else:
        write_text(out, text)


def _disciplines(args: argparse.Namespace) -> None:
    if not args.json:
        print("\n".join(playbook_ids()))
        return
    books = [playbook(i) for i in playbook_ids()]
    _give(
        [
            {"id": b.discipline, "title": b.title, "family": b.family, "unit": b.unit, "phases": b.phases,
             "measures": b.measures, "observations": list(b.observations), "faults": list(b.faults)}
            for b in books
        ],
        None,
    )  # fmt: skip


def _strength(text: str) -> tuple[str, float]:
    from proklisis.simulate.style import DEFAULT_STRENGTH

    fault, _, strength = text.partition("=")
    try:
        return fault, float(strength) if strength else DEFAULT_STRENGTH
    except ValueError as e:
        raise InputError(
            f"{strength!r} is not a number", "--fault", "write FAULT or FAULT=1.5"
        ) from e


def _simulate(args: argparse.Namespace) -> None:
    # Drawing and tracking load heavy libraries, which judging a sheet must not wait for.
    from proklisis.simulate.run import simulate
    from proklisis.simulate.truth import truth

    sim = simulate(
        args.discipline, dict(map(_strength, args.fault)), level=args.level, units=args.units, view=args.view, fps=args.fps,
        noise_px=args.noise, seed=args.seed, figure_px=args.figure, offset_deg=args.offset, roll_deg=args.roll, k1=args.lens,
        stature_m=args.height,
    )  # fmt: skip
    try:
        args.out.mkdir(parents=True, exist_ok=True)
    except OSError as e:
        raise InputError(
            f"the folder cannot be made ({e.strerror})", str(args.out), "choose another"
        ) from e
    write_tracks(sim.tracks, args.out / "tracks.json")
    write_text(args.out / "truth.json", dump_json(truth(sim)))
    if not args.no_clip:
        from proklisis.simulate.clip import write_clip
        from proklisis.simulate.render.outfit import outfit

        write_clip(sim, args.out / "clip.mp4", outfit(args.seed), args.seed)


def _conditions(given: Sequence[str], known: Sequence[str]) -> dict[str, str | bool | float]:
    """Conditions as the command line writes them: numbers, yes and no, words."""
    out: dict[str, str | bool | float] = {}
    for text in given:
        key, sign, value = text.partition("=")
        if sign and key in ("rope", "rope_m", "rope_off_ft") and "rope_m" in known:
            said = read_rope(
                value if key == "rope" else f"{value} {'m' if key == 'rope_m' else 'off'}"
            )
            out |= said
            print(f"rope: {rope_words(float(in_one_unit(said)['rope_m']))}", file=sys.stderr)
            continue
        if not sign or key not in in_other_units(known):
            raise InputError(
                f"{text!r} is no condition of this discipline",
                "--given",
                f"write KEY=VALUE with one of {', '.join(sorted(in_other_units(known))) or 'none'}",
            )
        if value in ("yes", "no", "true", "false"):
            out[key] = value in ("yes", "true")
            continue
        try:
            out[key] = float(value)
        except ValueError:
            out[key] = value
    return out


def _analyse(args: argparse.Namespace) -> None:
    from proklisis.footage.probe import probe

    clip = probe(args.clip)
    given: dict[str, Any] = {
        "view": args.view, "slope_deg": args.slope, "roll_deg": args.roll, "stance": args.stance, "view_offset_deg": args.offset,
        "sure": args.sure or None,
    }  # fmt: skip
    if args.height:
        given["height_cm"] = 100 * args.height
    conditions = _conditions(args.given, playbook(args.discipline).conditions)
    given = {k: v for k, v in given.items() if v is not None}
    if args.tracks is not None:
        tracks = read_tracks(args.tracks)
        tracks = tracks.with_facts(
            **given, conditions=replaced(tracks.facts.conditions, conditions)
        )
    else:
        from proklisis.footage.follow import follow

        facts = ClipFacts.model_validate({"fps": clip.fps, **given, "conditions": conditions})
        tracks = follow(clip, facts, args.height, gear=playbook(args.discipline).found_gear)
    if args.fps:
        tracks = tracks.filmed_at(args.fps)
    elif clip.filmed_fps and args.tracks is None:
        print(
            f"taken as filmed at {clip.filmed_fps:g} frames a second, as the file says; give --fps if that is wrong",
            file=sys.stderr,
        )
        tracks = tracks.filmed_at(clip.filmed_fps)
    about: dict[str, Any] = {"level": args.level, "schools": _schools(args.school)}
    if args.height:
        about["rider"] = {"name": "", "height_cm": 100 * args.height}
    sheet = run_sheet(review(tracks, args.discipline), args.discipline, about)
    _give(sheet.model_dump(mode="json", exclude_none=True), args.out)


def _attempts(args: argparse.Namespace) -> None:
    from proklisis.footage.goes import attempts, find_goes, rides_from
    from proklisis.footage.probe import probe

    book = playbook(args.discipline)
    clip = probe(args.clip)
    _give(
        attempts(clip, args.discipline, find_goes(clip, rides=rides_from(book.speed_ms))), args.out
    )


def _pair(args: argparse.Namespace) -> None:
    from proklisis.core.comparing.pair import pair

    a = _compared(args.a, args.discipline)
    b = a if args.b is None or args.b == args.a else _compared(args.b, args.discipline)
    event = None if args.event is None else _event(args.event)
    _give(pair(a, b, args.unit_a, args.unit_b, event, args.mirror), args.out)


def _compared(path: Path, discipline: str | None) -> Any:
    """A run sheet, or tracks as any of the formats has them."""
    from proklisis.core.comparing.pair import Run, of_review

    if path.suffix == ".json":
        text = read_text(path)
        if '"run-sheet/1"' in text[:2000]:
            return Run(path.name, parse_sheet(text, str(path)))
    if discipline is None:
        raise InputError("tracks do not say their discipline", str(path), "give --discipline")
    tracks = read_tracks(path)
    return of_review(path.name, review(tracks, discipline), discipline)


def _reckon(args: argparse.Namespace) -> None:
    from proklisis.core.reckoner.library import CALCULATORS
    from proklisis.core.reckoner.reckon import ask, calculator, reckoning

    if args.name is None:
        print("\n".join(f"{c.id:11} {c.doc} ({', '.join(c.keys)})" for c in CALCULATORS.values()))
        return
    said: dict[str, str] = {}
    for text in args.said:
        key, sign, value = text.partition("=")
        if not sign or not key or not value.strip():
            raise InputError(
                f"{text!r} gives no value", "reckon",
                f"write KEY=VALUE with one of {', '.join(calculator(args.name).keys)}",
            )  # fmt: skip
        if key in said:
            raise InputError(f"{key} is said twice", "reckon", "leave one of them out")
        said[key] = value
    _give(reckoning(ask(args.name, said, args.unknown)), args.out)


def _event(said: str) -> Any:
    from proklisis.core.comparing.pair import Event

    for sign in ("+", "-"):
        name, found, seconds = said.partition(sign)
        if found:
            try:
                return Event(name.strip(), float(sign + seconds))
            except ValueError as e:
                raise InputError(
                    f"{seconds!r} is no number of seconds", "--event", "write NAME+0.3"
                ) from e
    return Event(said.strip())


def _follow(args: argparse.Namespace) -> None:
    before = parse_prescription(read_text(args.before), str(args.before))
    sheet = parse_sheet(read_text(args.after), str(args.after))
    if before["discipline"] != sheet.discipline:
        raise InputError(
            f"the prescription is of {before['discipline']}, the run of {sheet.discipline}",
            str(args.after), "follow runs of one discipline",
        )  # fmt: skip
    judged = judge(sheet.model_copy(update={"previous": aims_of(before)}), name=str(args.after))
    _give(judged["followup"], args.out)


def _schools(said: Sequence[str]) -> dict[str, str]:
    out = {}
    for text in said:
        question, sign, option = text.partition("=")
        if not sign:
            raise InputError(f"{text!r} names no option", "--school", "write QUESTION=OPTION")
        out[question] = option
    return out


def _prescribe(args: argparse.Namespace) -> None:
    sheet = parse_sheet(read_text(args.sheet), str(args.sheet))
    if args.school:
        sheet = sheet.model_copy(update={"schools": {**sheet.schools, **_schools(args.school)}})
    _give(judge(sheet, name=str(args.sheet)), args.out)


if __name__ == "__main__":
    sys.exit(main())
