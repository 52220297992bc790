"""The turn sheet over the API: numbers by unit and phase, pictures from the clip, the table."""

from __future__ import annotations

import csv
import io

import cv2
import numpy as np
import pytest

from proklisis.web.clips import crops
from proklisis.web.runs.models import Crop
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


@pytest.fixture
def shown(rider, simulated):
    return measured_run(
        rider, simulated({"not_level": 1.6}, seed=103, units=4, view="front").tracks
    )


def test_every_unit_stands_in_a_row_with_a_cell_for_each_phase(client, shown):
    got = client.get(f"/api/runs/{shown.pk}/turn-sheet?show=shoulder_tilt|").json()["sheet"]
    units = shown.result.bench["units"]
    assert [r["n"] for r in got["rows"]] == [u["n"] for u in units]
    t = shown.result.bench["t"]
    readings = {
        (r["unit"], r["phase"]): r
        for r in shown.result.bench["readings"]
        if r["measure"] == "shoulder_tilt"
    }
    for row, unit in zip(got["rows"], units, strict=True):
        assert {c["phase"] for c in row["cells"]} == set(unit["phases"])
        for cell in row["cells"]:
            read = readings.get((row["n"], cell["phase"]))
            assert (cell["read"] is None) == (read is None)
            # A cell shows the frame at which its number was read.
            if read is not None:
                assert cell["read"]["says"] == f"{read['words']} ± {read['pm']}°"
                assert cell["t"] == pytest.approx(read["t"], abs=0.02)
            assert t[cell["frame"]] == pytest.approx(cell["t"], abs=1e-4)

    # Without a clip it says so, and the numbers are there.
    answer = client.get(f"/api/runs/{shown.pk}/turn-sheet").json()
    assert answer["waiting"] == 0 and all("no clip" in p["problem"] for p in answer["pictures"])
    # What is not as wanted is told only where its ± allows it.
    bands = [b for b in shown.result.bench["bands"] if b["measure"] == "shoulder_tilt"]
    assert bands
    verdicts = set()
    for row in got["rows"]:
        for cell in row["cells"]:
            mine = [b for b in bands if b["phase"] in (None, cell["phase"])]
            if not mine or not cell["read"]:
                continue
            value, u = cell["read"]["value"], cell["read"]["u"]
            far = max(
                max((b["lo"] or -1e9) - value, value - (1e9 if b["hi"] is None else b["hi"]))
                for b in mine
            )
            verdicts.add(cell["read"]["band"])
            assert (cell["read"]["band"] == "outside") == (far > 1.645 * u)
    assert "outside" in verdicts


def test_columns_are_added_and_the_numbers_are_given_as_a_table(client, shown):
    ask = f"/api/runs/{shown.pk}/turn-sheet"
    key = client.get(ask).json()["sheet"]["may_add"][3]["key"]
    got = client.get(ask, {"columns": [key]}).json()["sheet"]
    (column,) = got["columns"]
    assert column["key"] == key and len(column["values"]) == len(got["rows"])
    # The table is the same as a file.
    answer = client.get(f"{ask}/table?show=shoulder_tilt|")
    assert answer["Content-Type"].startswith("text/csv")
    head, *rows = csv.reader(io.StringIO(answer.content.decode()))
    assert head[:4] == ["turn", "side", "start (s)", "end (s)"]
    assert "Shoulder tilt, belly (°)" in head
    sheet = client.get(f"{ask}?show=shoulder_tilt|").json()["sheet"]
    k = head.index("Shoulder tilt, belly (°)")
    belly = [next(c for c in r["cells"] if c["phase"] == "belly")["read"] for r in sheet["rows"]]
    assert [float(r[k]) for r in rows] == [
        pytest.approx(b["value"], abs=0.51 * 10 ** -len(b["words"].partition(".")[2]))
        for b in belly
    ]
    # What is not there is refused by name; other clubs see nothing.
    for bad, words in (
        ({"columns": ["nothing||"]}, "no column"),
        ({"show": "nothing|"}, "not read"),
    ):
        answer = client.get(ask, bad)
        assert answer.status_code == 400 and words in answer.json()["problem"]
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(ask).status_code == 404 and eve.get(f"{ask}/table").status_code == 404


@pytest.mark.slow
def test_pictures_come_from_the_clip_by_a_job_and_are_kept(client, run, monkeypatch):
    # The clip of this fixture is a working copy alone; its original is the same file.
    run.clip.original.save("run.mp4", run.clip.working.file)
    put = []
    monkeypatch.setattr(crops, "put_once", lambda name, lock, **ids: put.append((name, ids)))
    ask = f"/api/runs/{run.pk}/turn-sheet"
    first = client.get(ask).json()
    assert first["waiting"] == len({p["problem"] == "" for p in first["pictures"]}) * len(
        first["pictures"]
    )
    ((name, ids),) = put
    assert name == "crop"
    crops.make(**ids)
    done = client.get(ask).json()
    assert done["waiting"] == 0
    assert len(put) == 1, "nothing is put into the queue again"
    cells = [c for r in done["sheet"]["rows"] for c in r["cells"]]
    for cell, picture in zip(cells, done["pictures"], strict=True):
        jpeg = client.get(picture["url"])
        data = b"".join(jpeg.streaming_content)
        small = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        assert max(small.shape) <= 480 and abs(small.shape[0] - small.shape[1]) <= 2
        kept = Crop.objects.get(pk=int(picture["url"].rsplit("/", 1)[1]))
        assert kept.frame == cell["frame"]
        assert all(-0.2 < v < 1.2 for p in picture["line"] for v in p)
    # Another measure shows at most some more frames; those that are there stay.
    before = set(Crop.objects.values_list("pk", flat=True))
    client.get(ask, {"show": "lean|"})
    assert before <= set(Crop.objects.values_list("pk", flat=True))
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(done["pictures"][0]["url"]).status_code == 404
