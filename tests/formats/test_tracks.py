"""Tracks in and out: nothing is lost, and what is wrong is named."""

from __future__ import annotations

import json

import jsonschema
import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.formats.files import read_tracks, write_tracks
from proklisis.formats.schemas import schemas
from proklisis.formats.tracks_csv import from_csv, to_csv
from proklisis.formats.tracks_json import from_json, to_json


@pytest.mark.parametrize("ending", ["json", "csv", "parquet", "coco.json"])
@pytest.mark.parametrize("kind", ["tracks", "exact"])
def test_round_trips_lose_nothing(simulated, tmp_path, ending, kind):
    tracks = getattr(simulated(view="front", units=2), kind)
    path = tmp_path / f"t.{ending}"
    write_tracks(tracks, path)
    back = read_tracks(path)
    assert back.names == tracks.names
    assert back.facts == tracks.facts
    np.testing.assert_array_equal(back.frames, tracks.frames)
    np.testing.assert_array_equal(back.t, tracks.t)
    for column in ("xy", "u", "source"):
        np.testing.assert_array_equal(getattr(back, column), getattr(tracks, column))
    if tracks.xyz is not None:
        np.testing.assert_array_equal(back.xyz, tracks.xyz)


def test_unseen_points_have_no_row_and_stay_unseen(simulated):
    tracks = simulated(view="front", units=2).tracks
    xy = tracks.xy.copy()
    xy[5, 3] = np.nan
    from dataclasses import replace

    back = from_json(to_json(replace(tracks, xy=xy)))
    assert np.isnan(back.xy[5, 3]).all()
    assert np.isfinite(back.xy[5, 2]).all()


def test_json_fits_its_schema(simulated):
    jsonschema.validate(to_json(simulated(view="front", units=2).tracks), schemas()["tracks"])


def test_a_bare_csv_is_read_with_the_rate_of_its_times():
    rows = ["frame,t_s,landmark,x_px,y_px", *(f"{i},{i / 50},l_hip,{i},2" for i in range(12))]
    tracks = from_csv("\n".join(rows))
    assert tracks.facts.fps == pytest.approx(50)
    assert (tracks.u == 2.0).all()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("frame,t_s,landmark,x_px\n1,0,nose,1\n2,1,nose,1\n", "y_px"),
        ("frame,t_s,landmark,x_px,y_px\n1,0,nose,one,1\n2,1,nose,1,1\n", "x_px row 1"),
        ("frame,t_s,landmark,x_px,y_px\n1,0,nouse,1,1\n2,1,nose,1,1\n", "nose"),
        ("frame,t_s,landmark,x_px,y_px\n1,0,nose,nan,1\n2,1,nose,1,1\n", "not finite"),
        ("frame,t_s,landmark,x_px,y_px\n1,0,nose,1\n2,1,nose,1,1\n", "row 1"),
        ("frame,t_s,landmark,x_px,y_px\n1,0,nose,1,1\n1,0,nose,1,1\n2,1,nose,1,1\n", "twice"),
        ("frame,t_s,landmark,x_px,y_px\n1,5,nose,1,1\n2,1,nose,1,1\n", "time"),
    ],
)
def test_bad_tables_name_the_place(text, words):
    with pytest.raises(InputError, match=words):
        from_csv(text)


def test_not_json_and_wrong_format_are_told():
    with pytest.raises(InputError, match="JSON"):
        from_json("{")
    with pytest.raises(InputError, match="tracks/1"):
        from_json(json.dumps({"format": "tracks/9"}))


def test_unknown_ending(tmp_path):
    with pytest.raises(InputError, match=r"\.csv or \.parquet"):
        read_tracks(tmp_path / "x.txt")


def test_csv_is_the_same_for_the_same_tracks(simulated):
    tracks = simulated(view="front", units=2).tracks
    assert to_csv(tracks) == to_csv(tracks)
