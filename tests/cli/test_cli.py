"""The command line as its user meets it: a process, its files, its exit code."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from proklisis.cli import main


def run(*args: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "proklisis.cli", *map(str, args)],
        capture_output=True,
        text=True,
        check=False,
    )


pytestmark = pytest.mark.thorough


@pytest.fixture(scope="module")
def folder(tmp_path_factory) -> Path:
    out = tmp_path_factory.mktemp("sim")
    args = [
        "simulate",
        "--discipline",
        "alpine_carve",
        "--fault",
        "banking",
        "--seed",
        "3",
        "--units",
        "4",
        "--view",
        "rear",
    ]
    assert main([*args, "--no-clip", "--out", str(out)]) == 0
    return out


def test_simulate_writes_tracks_and_truth_and_the_same_again(folder, tmp_path):
    truth = json.loads((folder / "truth.json").read_text())
    assert truth["faults"] == {"banking": 1.5}
    assert len(truth["boundaries_s"]) == 5
    assert truth["run_sheet"]["format"] == "run-sheet/1"
    args = [
        "simulate",
        "--discipline",
        "alpine_carve",
        "--fault",
        "banking",
        "--seed",
        "3",
        "--units",
        "4",
        "--view",
        "rear",
    ]
    assert main([*args, "--no-clip", "--out", str(tmp_path)]) == 0
    assert (tmp_path / "tracks.json").read_bytes() == (folder / "tracks.json").read_bytes()


def test_truths_own_sheet_is_judged_right(folder, tmp_path):
    sheet = tmp_path / "truth-sheet.json"
    sheet.write_text(json.dumps(json.loads((folder / "truth.json").read_text())["run_sheet"]))
    done = run("prescribe", sheet)
    assert done.returncode == 0
    assert json.loads(done.stdout)["main"]["fault"] == "banking"


@pytest.mark.slow
def test_analyse_with_tracks_then_prescribe(folder, short_clip, tmp_path):
    sheet, out = tmp_path / "sheet.json", tmp_path / "p.json"
    done = run(
        "analyse",
        short_clip,
        "--discipline",
        "alpine_carve",
        "--tracks",
        folder / "tracks.json",
        "--out",
        sheet,
    )
    assert done.returncode == 0, done.stderr
    assert run("prescribe", sheet, "--out", out).returncode == 0
    assert json.loads(out.read_text())["main"]["fault"] == "banking"
    again = run("prescribe", sheet)
    assert again.stdout == out.read_text()


def test_convert_there_and_back(folder, tmp_path):
    assert run("convert", folder / "tracks.json", tmp_path / "t.csv").returncode == 0
    assert run("convert", tmp_path / "t.csv", tmp_path / "t.json").returncode == 0
    assert json.loads((tmp_path / "t.json").read_text()) == json.loads(
        (folder / "tracks.json").read_text()
    )


def test_disciplines(capsys):
    assert main(["disciplines"]) == 0
    assert "alpine_carve" in capsys.readouterr().out.split()
    assert main(["disciplines", "--json"]) == 0
    books = json.loads(capsys.readouterr().out)
    assert "not_level" in books[0]["faults"]


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["prescribe", "missing.json"], ["missing.json", "no such file"]),
        (["disciplin"], ["disciplin"]),
        (["simulate", "--discipline", "alpine", "--seed", "1", "--out", "x"], ["alpine_carve"]),
        (
            [
                "simulate",
                "--discipline",
                "alpine_carve",
                "--fault",
                "bankin",
                "--seed",
                "1",
                "--out",
                "x",
            ],
            ["banking"],
        ),
        (
            [
                "simulate",
                "--discipline",
                "alpine_carve",
                "--fault",
                "steepening_lost",
                "--seed",
                "1",
                "--out",
                "x",
            ],
            ["eye"],
        ),
        (
            [
                "simulate",
                "--discipline",
                "alpine_carve",
                "--seed",
                "1",
                "--units",
                "0",
                "--out",
                "x",
            ],
            ["--units"],
        ),
        (["convert", "a.txt", "b.csv"], [".txt"]),
    ],
)
def test_bad_input_is_one_line_and_exit_2(args, words, capsys, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert main(args) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert all(w in said for w in words)
    assert "Traceback" not in said


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            '{"format": "run-sheet/1", "discipline": "alpine_carve", "rider": {}, "measures": [{"id": "edg", "value": 1}]}',
            ["edge"],
        ),
        (
            '{"format": "run-sheet/1", "discipline": "alpine_carve", "rider": {}, "measures": [{"id": "edge", "value": NaN}]}',
            ["finite"],
        ),
        ('{"format": "run-sheet/1", "discipline": "alpine_carve"}', ["rider"]),
        ("not json", ["JSON"]),
        ("[]", ["object"]),
    ],
)
def test_bad_sheets(text, words, tmp_path, capsys):
    path = tmp_path / "sheet.json"
    path.write_text(text)
    assert main(["prescribe", str(path)]) == 2
    said = capsys.readouterr().err
    assert "sheet.json" in said
    assert all(w in said for w in words)


@pytest.mark.slow
def test_a_view_said_wrongly_is_asked_in_one_line_and_the_answer_is_taken(
    folder, short_clip, tmp_path
):
    args = [
        "analyse",
        short_clip,
        "--discipline",
        "alpine_carve",
        "--tracks",
        folder / "tracks.json",
    ]
    wrong = run(*args, "--view", "front")
    assert wrong.returncode == 2 and wrong.stdout == ""
    assert (
        wrong.stderr.count("\n") == 1
        and "say --view rear" in wrong.stderr
        and "--sure view" in wrong.stderr
    )
    sure = run(*args, "--view", "front", "--sure", "view", "--out", tmp_path / "s.json")
    assert sure.returncode == 0, sure.stderr


@pytest.mark.slow
def test_a_rope_and_a_school_are_said_on_the_command_line(short_clip, tmp_path):
    assert (
        main(
            [
                "simulate",
                "--discipline",
                "slalom_ski",
                "--seed",
                "5",
                "--units",
                "3",
                "--no-clip",
                "--out",
                str(tmp_path),
            ]
        )
        == 0
    )
    args = [
        "analyse",
        short_clip,
        "--discipline",
        "slalom_ski",
        "--tracks",
        tmp_path / "tracks.json",
    ]
    done = run(
        *args,
        "--given",
        "rope=28",
        "--school",
        "turn_entry=settle_then_drop",
        "--out",
        tmp_path / "sheet.json",
    )
    assert done.returncode == 0, done.stderr
    assert "14.25 m (28 off)" in done.stderr
    sheet = json.loads((tmp_path / "sheet.json").read_text())
    assert (
        sheet["schools"] == {"turn_entry": "settle_then_drop"}
        and sheet["conditions"]["rope_off_ft"] == 28
    )
    bad = run(*args, "--given", "rope=17 off")
    assert (bad.returncode, bad.stderr.count("\n")) == (2, 1)
    assert "18.25 m (15 off)" in bad.stderr
    for school, words in (("turn_entry=leap", "turn_entry"), ("turn_entry", "QUESTION=OPTION")):
        refused = run("prescribe", tmp_path / "sheet.json", "--school", school)
        assert refused.returncode == 2 and words in refused.stderr


def test_reckon_answers_in_json_and_lists_its_calculators():
    out = run("reckon", "rotation", "rotations=4.5", "period_s=0.15", "air_time_s=0.81", "air_time_s_u=0.005")  # fmt: skip
    said = json.loads(out.stdout)
    assert out.returncode == 0 and said["format"] == "reckoning/1"
    assert said["inputs"]["air_time_s"] == {"value": 0.81, "u": 0.005, "unit": "s"}
    assert said["answers"]["missing_s"]["value"] == pytest.approx(0.045)
    assert said["answers"]["missing_s"]["u"] == pytest.approx(0.005)
    listed = run("reckon").stdout
    assert all(name in listed for name in ("flight", "gybe", "desk"))


def test_reckon_refuses_in_one_line_what_cannot_be(capsys):
    for said, words in (
        (("flight", "air_time_s=-1"), "cannot be"), (("flight", "air_time_s"), "KEY=VALUE"), (("nothing",), "no calculator"),
        (("rope", "rope_m=14"), "nearest loops"), (("flight", "height_m=1", "height_m=2"), "said twice"),
    ):  # fmt: skip
        assert main(["reckon", *said]) == 2
        refused = capsys.readouterr().err
        assert words in refused and len(refused.splitlines()) == 1
