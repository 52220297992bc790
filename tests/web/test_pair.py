"""Two runs, or two units of one, held against each other over the API."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from proklisis.footage.frames import frames
from proklisis.footage.paired import GAP, OVER_TALL, OVER_WIDE, TALL, WIDE
from proklisis.footage.probe import probe
from proklisis.simulate import fiducial
from proklisis.web.clips import pair_films
from proklisis.web.runs.models import PairFilm, Run
from proklisis.web.scripts.models import Script
from tests.web.conftest import client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


@pytest.fixture
def before(rider, simulated) -> Run:
    return measured_run(
        rider, simulated({"not_level": 1.6}, seed=103, units=6, view="front").tracks
    )


@pytest.fixture
def after(rider, before, simulated) -> Run:
    return measured_run(rider, simulated({}, seed=103, units=6, view="front").tracks)


def test_two_runs_are_held_against_each_other(client, before, after):
    got = client.get(f"/api/pair?a={before.pk}&b={after.pk}").json()
    first = got["comparison"]["first_difference"]
    assert first["chain"][0] == "not_level" and isinstance(first["frame_a"], int)
    assert len(got["rows"]) == len(got["comparison"]["rows"])
    row = next(r for r in got["rows"] if r["measure"] == "shoulder_tilt")
    assert "±" in row["difference"] and row["difference"].endswith("°")
    # Six units each, with rising moments in both clips.
    assert len(got["same"]) == 6
    for s in got["same"]:
        assert s["side_a"] == s["side_b"] and len(s["a"]) == len(s["phases"]) + 1
        assert s["a"] == sorted(s["a"]) and s["b"] == sorted(s["b"])


def test_what_a_unit_may_be_held_against_is_offered(client, before, after):
    offered = client.get(f"/api/runs/{after.pk}/against?unit=2").json()
    kinds = {x["kind"]: x for x in offered["against"]}
    side = {s["n"]: s["side"] for s in after.result.bench["units"]}
    assert set(kinds) == {"own_best", "other_side", "last_run", "drawn"}
    assert side[kinds["own_best"]["unit_b"]] == side[2] and kinds["own_best"]["unit_b"] != 2
    assert side[kinds["other_side"]["unit_b"]] != side[2] and kinds["other_side"]["mirror"]
    assert kinds["last_run"]["b"] == before.pk
    assert {x["segment"] for x in offered["best_units"]} == set(side)
    # The first run of a rider has none before it.
    first = client.get(f"/api/runs/{before.pk}/against").json()["against"]
    assert [x["kind"] for x in first] == ["drawn"]


def test_a_signal_of_two_units_on_matched_time(client, after):
    ask = f"/api/pair/curves?a={after.pk}&b={after.pk}&unit_a=2&unit_b=3&mirror=1&measure=shoulder_tilt"
    got = client.get(ask).json()
    assert (got["title"], got["unit"]) == ("Tilt of the shoulders", "°") or got["unit"] == "°"
    assert len(got["at"]) == len(got["a"]) == len(got["b_u"])
    assert client.get(ask.replace("shoulder_tilt", "nothing")).status_code == 400


def test_bad_asking_is_refused_by_name_and_other_clubs_see_nothing(client, before, after):
    for ask, status, words in (
        (f"a={before.pk}", 400, "not said"),
        (f"a={before.pk}&b={after.pk}&unit_a=1", 400, "only one run"),
        (f"a={before.pk}&b={after.pk}&unit_a=1&unit_b=77", 400, "no unit 77"),
        (f"a={before.pk}&b={after.pk}&event=apex", 400, "no event"),
        (f"a={before.pk}&b={after.pk}&event=belly&offset_s=x", 400, "number of seconds"),
        (f"a={before.pk}&b=99999", 404, ""),
    ):
        answer = client.get(f"/api/pair?{ask}")
        assert answer.status_code == status and words in answer.json()["problem"], answer.json()
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(f"/api/pair?a={before.pk}&b={after.pk}").status_code == 404
    assert eve.get(f"/api/runs/{before.pk}/against").status_code == 404
    assert client.get(f"/api/pair?a={before.pk}&b={after.pk}&event=belly&offset_s=0.1").json()[
        "comparison"
    ]["matched"] == {"by": "event", "event": "belly", "offset_s": 0.1, "mirror": False}


def test_the_targets_of_the_earlier_script_stand_with_their_rows(client, before, after):
    client.get(f"/api/runs/{before.pk}/script")
    kept = {"prescription": before.result.prescription}
    Script.objects.filter(run=before).update(approved=kept)
    rows = client.get(f"/api/pair?a={after.pk}&b={before.pk}").json()["rows"]
    aims = [r for r in rows if r["target"]]
    assert {r["measure"] for r in aims} <= {
        t["measure"] for t in before.result.prescription["retest"]
    }
    assert aims and all(":" in r["target"] for r in aims)
    # Two units of one run have no earlier Script.
    own = client.get(f"/api/pair?a={before.pk}&b={before.pk}&unit_a=1&unit_b=3").json()["rows"]
    assert not any(r["target"] for r in own)


def test_curves_say_over_which_stretch_they_part(client, before, after):
    ask = f"/api/pair/curves?a={before.pk}&b={after.pk}&unit_a=2&unit_b=2&measure=shoulder_tilt"
    (stretch, *_) = client.get(ask).json()["apart"]
    assert 0 <= stretch[0] < stretch[1] <= 1
    same = ask.replace(f"b={after.pk}", f"b={before.pk}")
    assert client.get(same).json()["apart"] == []


@pytest.mark.slow
def test_a_film_of_a_pair_shows_the_matched_frames_of_both(
    client, rider, simulated, short_clip, tmp_path, monkeypatch
):
    sim = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
    run = measured_run(rider, sim.tracks, short_clip)
    run.clip.original.save("run.mp4", run.clip.working.file)
    put = []
    monkeypatch.setattr(pair_films, "put", lambda name, **ids: put.append((name, ids)))
    units = [u["n"] for u in run.result.bench["units"]]
    asked = {"a": run.pk, "b": run.pk, "unit_a": units[0], "unit_b": units[-1], "sized": False}
    answer = client.post("/api/pair/films", {**asked, "speed": 0.5}, format="json")
    assert answer.status_code == 202, answer.json()
    ((name, ids),) = put
    assert name == "pair_film" and answer.json()["state"] == "queued"
    pair_films.make(**ids)
    film = client.get(f"/api/pair/films/{ids['film_id']}").json()
    assert film["state"] == "ready" and film["progress"] == 1.0
    path = tmp_path / "pair.mp4"
    path.write_bytes(b"".join(client.get(film["url"]).streaming_content))
    wanted = PairFilm.objects.get(pk=ids["film_id"]).halves
    clip = probe(path)
    assert len(clip.t) == len(wanted["a"]["numbers"]) and clip.codec == "h264"
    assert clip.t[1] - clip.t[0] == pytest.approx(2 / sim.tracks.facts.fps, rel=0.02)
    # The numbers that were burned into the clip are read back from both halves of the film.
    step = max(1, len(clip.t) // 6)
    for f in frames(clip, only=set(range(0, len(clip.t), step))):
        for half, left in (("a", 0), ("b", WIDE + GAP)):
            whole = cv2.resize(_unfitted(f.picture[:TALL, left : left + WIDE]), (1280, 720))
            assert fiducial.read(whole) == wanted[half]["numbers"][f.number], (half, f.number)
    # Another club sees nothing; it can be let go.
    eve = client_of(new_coach("Other", "eve"))
    assert eve.get(film["url"]).status_code == 404
    assert client.delete(f"/api/pair/films/{ids['film_id']}").status_code == 204
    assert not PairFilm.objects.exists()


@pytest.mark.slow
def test_a_film_shows_both_as_they_lie_on_the_page(client, rider, simulated, short_clip, tmp_path, monkeypatch):  # fmt: skip
    sim = simulated({"not_level": 1.6}, seed=103, units=2, view="front")
    run = measured_run(rider, sim.tracks, short_clip)
    run.clip.original.save("run.mp4", run.clip.working.file)
    monkeypatch.setattr(pair_films, "put", lambda *_, **__: None)
    units = [u["n"] for u in run.result.bench["units"]]
    asked = {
        "a": run.pk, "b": run.pk, "unit_a": units[0], "unit_b": units[-1], "sized": False, "locked": False, "event": "belly",
    }  # fmt: skip

    def made(**how):
        film = client.post("/api/pair/films", {**asked, **how}, format="json").json()
        pair_films.make(film["id"])
        path = tmp_path / f"{how['lay']}.mp4"
        path.write_bytes(b"".join(client.get(f"/api/pair/films/{film['id']}/file").streaming_content))  # fmt: skip
        row = PairFilm.objects.get(pk=film["id"])
        middle = len(probe(path).t) // 2
        (seen,) = frames(probe(path), middle, middle + 1, {middle})
        return seen.picture[:OVER_TALL].astype(float), row.halves, middle

    # Which frames lie at once: both bellies begin together, each at its own speed.
    left, halves, k = made(lay="edge", edge=1.0)
    right, _, _ = made(lay="edge", edge=0.0)
    bench = run.result.bench
    begins = {u["n"]: u["phases"]["belly"][0] for u in bench["units"]}
    apart = (begins[units[-1]] - begins[units[0]]) * sim.tracks.facts.fps
    numbers = np.array([halves["a"]["numbers"], halves["b"]["numbers"]])
    assert np.abs(numbers[1] - numbers[0] - apart).max() <= 1
    # With the edge at an end one of them is seen alone; in the middle each has its half.
    half, _, _ = made(lay="edge", edge=0.5)
    assert np.abs(left - right).mean() > 5
    assert np.abs(half[:, :460] - left[:, :460]).mean() < 4
    assert np.abs(half[:, 500:] - right[:, 500:]).mean() < 4
    # Over each other, each is half there.
    over, _, _ = made(lay="over")
    assert np.abs(over - (left + right) / 2).mean() < 4
    # As an outline, B is white lines on A where its limbs are, and nothing else of it is there.
    lined, halves, k = made(lay="outline", mirror=True)
    assert "outline" in halves["b"]["words"] and not halves["a"]["outline"]
    changed = np.abs(lined - left).max(axis=2) > 80
    scale = OVER_WIDE / 1280
    down = (OVER_TALL - 720 * scale) / 2
    for p, q in halves["b"]["outline"][k]:
        x, y = (np.array(p) + q) / 2 * scale
        at = round(OVER_WIDE - 1 - x), round(y + down)
        assert changed[at[1] - 3 : at[1] + 4, at[0] - 3 : at[0] + 4].any(), (p, q)
    assert 0.001 < changed.mean() < 0.1
    bad = client.post("/api/pair/films", {**asked, "event": "apex", "lay": "over"}, format="json")
    assert bad.status_code == 400 and "no event 'apex'" in bad.json()["problem"]


def _unfitted(half):
    """The clip's whole picture out of a half that it lies in the middle of."""
    tall = round(WIDE * 720 / 1280)
    top = (TALL - tall) // 2
    return half[top : top + tall]


def test_a_film_that_is_not_wanted_any_more_is_not_made(client, run, monkeypatch):
    monkeypatch.setattr(pair_films, "put", lambda *_, **__: None)
    units = [u["n"] for u in run.result.bench["units"]]
    asked = {"a": run.pk, "b": run.pk, "unit_a": units[0], "unit_b": units[-1]}
    film = client.post("/api/pair/films", asked, format="json").json()
    assert client.delete(f"/api/pair/films/{film['id']}").status_code == 204
    run.clip.original.save("run.mp4", run.clip.working.file)
    pair_films.make(film["id"])
    assert client.get(f"/api/pair/films/{film['id']}").json()["state"] == "cancelled"
    bad = client.post("/api/pair/films", {**asked, "unit_b": 77}, format="json")
    assert bad.status_code == 400 and "no unit 77" in bad.json()["problem"]
