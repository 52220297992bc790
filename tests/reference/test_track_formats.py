"""The track files are what the formats' own libraries read, and their files are what we read.

COCO: pycocotools, the reference implementation of the COCO API. C3D: the package c3d, which shares no
code with the one that writes ours. Parquet: pyarrow, the reference implementation of Arrow.
"""

from __future__ import annotations

import contextlib
import io
import json
from dataclasses import replace

import c3d
import numpy as np
import pyarrow.parquet as pq
import pytest
from pycocotools.coco import COCO

from proklisis.core.errors import InputError
from proklisis.core.review import judge, review, run_sheet
from proklisis.formats.files import read_tracks, write_tracks


@pytest.fixture
def tracks(simulated):
    """Tracks with a point that is not seen for a while, at uneven times."""
    got = simulated({"not_level": 1.6}, seed=103, units=2, view="front").tracks
    xy = got.xy.copy()
    xy[20:30, got.index["l_wrist"]] = np.nan
    t = got.t + np.where(np.arange(len(got)) % 2, 0.004, 0.0)
    return replace(got, xy=xy, t=t)


def test_coco_is_read_by_the_reference_library(tracks, tmp_path):
    path = tmp_path / "a.coco.json"
    write_tracks(tracks, path)
    with contextlib.redirect_stdout(io.StringIO()):
        coco = COCO(str(path))
    (category,) = coco.loadCats(coco.getCatIds(["person"]))
    assert category["keypoints"] == list(tracks.names)
    for i in (0, 25, len(tracks) - 1):
        (found,) = coco.loadAnns(coco.getAnnIds(imgIds=[int(tracks.frames[i])]))
        points = np.array(found["keypoints"]).reshape(-1, 3)
        seen = np.isfinite(tracks.xy[i, :, 0])
        np.testing.assert_array_equal(points[:, 2] > 0, seen)
        np.testing.assert_array_equal(points[seen, :2], tracks.xy[i, seen])
        assert found["num_keypoints"] == seen.sum()


def test_c3d_is_read_by_another_library_and_keeps_single_precision(tracks, simulated, tmp_path):
    for given in (tracks, simulated({"not_level": 1.6}, seed=103, units=2, view="front").exact):
        path = tmp_path / "a.c3d"
        write_tracks(given, path)
        with path.open("rb") as f:
            reader = c3d.Reader(f)
            labels = [label.strip() for label in reader.point_labels]
            rows = [points.copy() for _, points, _ in reader.read_frames()]
        assert reader.point_rate == pytest.approx(given.facts.fps)
        assert len(rows) == len(given)
        column = labels.index("r_hip")
        wanted = given.point("r_hip") if given.xyz is None else given.xyz[:, given.index["r_hip"]]
        np.testing.assert_allclose(
            [r[column, : wanted.shape[1]] for r in rows], wanted, rtol=1e-6, atol=1e-4
        )
        back = read_tracks(path)
        assert back.names == given.names
        assert back.facts == given.facts
        np.testing.assert_array_equal(back.frames, given.frames)
        np.testing.assert_allclose(back.t, given.t, atol=1e-9)
        np.testing.assert_allclose(back.xy, given.xy, rtol=1e-6)
        seen = np.isfinite(given.xy[..., 0])
        np.testing.assert_allclose(back.u[seen], given.u[seen], rtol=1e-6)
        np.testing.assert_array_equal(back.source[seen], given.source[seen])
        if given.xyz is not None:
            np.testing.assert_allclose(back.xyz, given.xyz, rtol=1e-5, atol=1e-5)


def test_c3d_of_a_laboratory_in_millimetres_is_read_in_metres(tmp_path):
    path = tmp_path / "lab.c3d"
    writer = c3d.Writer(point_rate=100)
    hips = np.array([[100.0 + k, 2000.0, 900.0] for k in range(20)])
    for hip in hips:
        points = np.zeros((2, 5), np.float32)
        points[0, :3], points[1, :3] = hip, hip + [250, 0, 0]
        writer.add_frames([(points, np.empty((0, 0), np.float32))])
    writer.set_point_labels(["r_hip", "l_hip"])
    with path.open("wb") as f:
        writer.write(f)
    back = read_tracks(path)
    assert back.facts.fps == pytest.approx(100)
    np.testing.assert_allclose(back.xyz[:, back.index["r_hip"]], hips / 1000, atol=1e-4)


def test_parquet_is_a_plain_table_of_the_stated_columns(tracks, tmp_path):
    path = tmp_path / "a.parquet"
    write_tracks(tracks, path)
    table = pq.read_table(path)
    assert table.column_names == ["frame", "t_s", "landmark", "x_px", "y_px", "u_px", "source"]
    rows = table.filter(table["frame"].to_numpy() == 21).to_pylist()
    seen = np.isfinite(tracks.xy[21, :, 0])
    assert [r["landmark"] for r in rows] == [
        n for n, s in zip(tracks.names, seen, strict=True) if s
    ]
    assert [r["x_px"] for r in rows] == tracks.xy[21, seen, 0].tolist()


def test_coco_of_another_program_is_read_by_its_names_and_its_largest_person(tmp_path):
    names = ["nose", "left_eye", "right_eye", "left_hip", "right_hip"]
    images = [
        {"id": 50 + k, "file_name": f"{k}.jpg", "width": 640, "height": 480} for k in range(12)
    ]
    annotations = [
        {
            "id": 2 * k + who, "image_id": 50 + k, "category_id": 1, "track_id": who, "bbox": [0, 0, 10 * who, 20], "area": 200 * who,
            "iscrowd": 0, "num_keypoints": 5, "keypoints": [v for p in range(5) for v in (100 * who + p, 50 + k, 2 if p else 0)],
        }
        for k in range(12) for who in (1, 2)
    ]  # fmt: skip
    path = tmp_path / "other.json"
    data = {
        "info": {"fps": 60},
        "images": images,
        "annotations": annotations,
        "categories": [{"id": 1, "name": "person", "keypoints": names}],
    }
    path.write_text(json.dumps(data))
    back = read_tracks(path)
    assert back.names == ("nose", "l_hip", "r_hip")
    assert back.point("l_hip")[4].tolist() == [203, 54]
    assert np.isnan(back.point("nose")).all()
    np.testing.assert_allclose(back.t, np.arange(12) / 60)
    path.write_text(json.dumps({**data, "info": {}}))
    with pytest.raises(InputError, match="no times"):
        read_tracks(path)


@pytest.mark.parametrize("ending", [".parquet", ".coco.json", ".c3d"])
def test_imported_tracks_are_judged_like_our_own(simulated, tmp_path, ending):
    run = simulated({"not_level": 1.6}, seed=103, units=4, view="front")
    path = tmp_path / f"a{ending}"
    write_tracks(run.tracks, path)
    for tracks in (run.tracks, read_tracks(path)):
        main = judge(run_sheet(review(tracks, "alpine_carve"), "alpine_carve", run.about()))["main"]
        assert main["fault"] == "not_level"


@pytest.mark.parametrize("name", ["a.parquet", "a.c3d", "a.json", "a.coco.json"])
@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"nonsense" * 50,
        b"PAR1" * 30,
        b"\x02\x50" + bytes(600),
        b'{"images": 1, "annotations": []}',
    ],
)
def test_what_is_no_track_file_gets_one_sentence(tmp_path, name, data):
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(InputError) as error:
        read_tracks(path)
    assert name in str(error.value)
