"""A film of many goes: where somebody rides, and who rides again."""

from __future__ import annotations

import json

import numpy as np
import pytest

from proklisis.cli import main
from proklisis.footage import goes
from proklisis.footage.goes import RIDES, find_goes, rides_from
from proklisis.footage.probe import probe


def speeds(across: float = 0.0, growth: float = 0.0, pan: float = 0.0, noise: float = 0.0):
    """Body heights a second of somebody 200 px tall, moving so many heights a second in a camera that pans."""
    t = np.arange(0, 4, 0.2)
    rng = np.random.default_rng(3)
    height = 200 * np.exp(growth * (t - 2)) * np.exp(noise * rng.standard_normal(len(t)))
    place = np.stack([(across * 200 + pan) * t, np.zeros_like(t)], axis=1)
    ground = np.tile([pan, 0.0], (len(t), 2, 1))
    return goes._speeds(t, place, ground, height, 1280)


def test_speed_is_told_against_the_ground_and_along_the_line_of_sight():
    assert np.median(speeds(across=2.0)) == pytest.approx(2.0, rel=0.02)
    assert np.median(speeds(across=2.0, pan=-400.0)) == pytest.approx(2.0, rel=0.02)
    # A camera that pans after somebody who stands makes no rider of them.
    assert np.median(speeds(across=0.0, pan=500.0)) < 0.1
    # common practice: who comes straight at the camera grows.
    assert np.median(speeds(growth=0.35)) > RIDES
    assert np.median(speeds(noise=0.03)) < RIDES / 2


def test_a_walker_is_no_rider_and_slow_riders_have_their_own_measure():
    assert np.median(speeds(across=0.8)) < RIDES < np.median(speeds(across=2.3))
    assert rides_from(12.0) == RIDES
    assert 0.4 < rides_from(3.0) < 0.8


def in_light(lab, share):
    """Colours in a share of the light: RGB scaled, which scales all of CIELAB nearly alike."""
    away = lab.reshape(3, 3) - [0, 128, 128]
    return (away * share + [0, 128, 128]).ravel()


def test_riders_are_told_apart_by_clothes_whatever_the_light():
    rng = np.random.default_rng(5)
    clothes = [np.array(x, float) for x in (
        [60, 154, 140, 40, 143, 113, 92, 134, 130], [71, 124, 109, 29, 129, 118, 65, 130, 125], [76, 113, 132, 75, 120, 150, 101, 128, 127]
    )]  # fmt: skip
    order = [0, 1, 1, 2, 0, 2, 0, 1]
    looks = [
        goes.in_any_light(in_light(clothes[k], rng.uniform(0.5, 1.0)) + 2 * rng.standard_normal(9))
        for k in order
    ]
    assert goes._riders(looks) == order


@pytest.mark.slow
def test_one_ride_on_a_clip_is_one_go_and_the_command_line_says_so(short_clip, tmp_path, capsys):
    found = find_goes(probe(short_clip))
    last = probe(short_clip).t[-1]
    assert len(found) == 1
    assert found[0].from_s < 0.5 and found[0].to_s > last - 0.5
    out = tmp_path / "goes.json"
    assert (
        main(["attempts", str(short_clip), "--discipline", "alpine_carve", "--out", str(out)]) == 0
    )
    said = json.loads(out.read_text())
    assert (said["format"], said["riders"], len(said["attempts"])) == ("attempts/1", 1, 1)
    assert said["attempts"][0]["rider"] == 1 and len(said["attempts"][0]["box"]) == 4
    assert main(["attempts", str(tmp_path / "none.mp4"), "--discipline", "alpine_carve"]) == 2
    assert "none.mp4" in capsys.readouterr().err
    assert main(["attempts", str(short_clip), "--discipline", "skiing"]) == 2
