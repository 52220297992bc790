"""The clip's page: check, people, camera, plan; questions first; gear by marks; tracks as files."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import UNLEVELLED_U_DEG
from proklisis.formats.files import read_tracks, write_tracks
from proklisis.simulate.run import simulate
from proklisis.web.analysis.carrying import carry_now
from proklisis.web.analysis.reviewing import corrected, refresh
from proklisis.web.clips.gear import wanted_gear
from proklisis.web.runs.blobs import pack, unpack
from proklisis.web.runs.models import Run, packed
from tests.stand import SIDES, from_the_stand
from tests.web.conftest import TWO, client_of, measured_run, new_coach

pytestmark = pytest.mark.django_db


def body_only(tracks):
    """What the tracker gives: no skis, no poles."""
    keep = [k for k, name in enumerate(tracks.names) if name in (*BODY, "scene_drift")]
    names = tuple(tracks.names[k] for k in keep)
    return replace(
        tracks,
        names=names,
        xy=tracks.xy[:, keep],
        u=tracks.u[:, keep],
        source=tracks.source[:, keep],
    )


def page(client, run):
    answer = client.get(f"/api/runs/{run.pk}/footage")
    assert answer.status_code == 200, answer.content
    return answer.json()


def mark_camera(client, run, **part):
    return client.patch(f"/api/runs/{run.pk}/footage", part, format="json")


def lean(client, run):
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    return next(r for r in bench["readings"] if r["measure"] == "lean" and r["phase"] == "belly")


def test_the_check_names_what_the_pictures_hide_and_the_plan_where_to_stand(client, run):
    got = page(client, run)
    verdicts = {v["id"]: v for v in got["verdicts"]}
    assert set(verdicts) == {"rate", "whole", "sharp", "size", "light", "view", "level", "lens"}
    assert "±0.014 s" in verdicts["rate"]["hides"]
    assert "pixels tall" in verdicts["size"]["words"]
    assert got["plans"][0]["words"][0].startswith("Stand ")
    (only,) = client.get(f"/api/runs/{run.pk}/footage?measures=shoulder_tilt").json()["plans"]
    assert only["shows"] == ["Shoulder tilt"]
    assert client.get(f"/api/runs/{run.pk}/footage?measures=shouldr").status_code == 400


def test_a_levelled_camera_turns_every_lean(client, run):
    before = lean(client, run)
    done = mark_camera(
        client,
        run,
        level={"by": "plumb", "frame": 10, "points": [[600, 700], [600 + 60, 700 - 600]]},
    )
    assert done.status_code == 200
    assert "5.7" in done.json()["camera_words"]["level"]
    after = lean(client, run)
    assert abs(abs(after["value"] - before["value"]) - np.degrees(np.arctan(0.1))) < 0.6
    assert mark_camera(client, run, level=None).json()["camera_words"] == {}
    assert lean(client, run) == before


def test_a_picture_held_askew_is_levelled_by_the_ride_until_the_coach_says_otherwise(client, rider):
    askew = simulate("alpine_carve", {}, units=6, seed=31, view="front", roll_deg=5.0)
    run = measured_run(rider, askew.tracks.with_facts(roll_deg=0.0, roll_u_deg=UNLEVELLED_U_DEG))
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert bench["level_by_ride"] and abs(bench["roll_deg"] - 5) < 1.5
    assert any("levelled so" in note for note in bench["notes"])

    def level() -> dict[str, str]:
        return next(v for v in page(client, run)["verdicts"] if v["id"] == "level")

    assert "By the ride itself the picture is turned by" in level()["words"]
    assert mark_camera(client, run, level={"by": "hand", "roll_deg": 0.0}).status_code == 200
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert (bench["level_by_ride"], bench["roll_deg"]) == (False, 0.0)
    assert "Levelled by a mark" in level()["words"]


def test_four_corners_on_the_ice_give_an_oblique_clip_its_trace(client, rider):
    _, tracks = from_the_stand({"forced_narrow": 1.5}, seed=7)
    corners = tracks.facts.plane.corners
    run = measured_run(rider, tracks.with_facts(plane=None), discipline="figure_loop")
    assert page(client, run)["on_ice"]
    assert any("rectangle on the ice" in v["next_time"] for v in page(client, run)["verdicts"])
    # The camera moved on between the first frame and the one that is marked: the corners went with the background.
    moved = run.tracks
    before = unpack(moved.data)
    drift = before.index["scene_drift"]
    xy = before.xy + 0.05 * np.arange(len(before))[:, None, None] * [1.0, 0.5]
    xy[:, drift] = 0.05 * np.arange(len(before))[:, None] * [1.0, 0.5]
    moved.file = packed(pack(replace(before, xy=xy)))
    moved.save()
    points = (np.array(corners) + 0.05 * 100 * np.array([1.0, 0.5])).tolist()
    done = mark_camera(client, run, plane={"frame": 100, "points": points, "sides_m": SIDES})
    assert done.status_code == 200, done.content
    assert "3 × 2 m is marked on the ice in frame 100" in done.json()["camera_words"]["plane"]
    assert next(v for v in done.json()["verdicts"] if v["id"] == "view")["grade"] == "fair"
    run = Run.objects.get(pk=run.pk)
    ratios = [
        r["value"]
        for r in client.get(f"/api/runs/{run.pk}/bench").json()["readings"]
        if r["measure"] == "loop_ratio"
    ]
    assert len(ratios) == 4
    assert max(ratios) < 0.55
    assert run.result.prescription["main"]["fault"] == "forced_narrow"
    mark_camera(client, run, plane=None)
    assert not [
        r
        for r in client.get(f"/api/runs/{run.pk}/bench").json()["readings"]
        if r["measure"] == "loop_ratio"
    ]


def test_impossible_marks_of_the_camera_change_nothing(client, run):
    before = lean(client, run)
    for part in (
        {"level": {"by": "horizon", "points": [[0, 0], [3, 3]]}}, {"scale": {"frame": 1, "points": [[0, 0], [900, 0]], "metres": -2}},
        {"lens": {"by": "lines", "lines": [[[0, 0], [10, 10]]]}}, {"surface": {"frame": 99999, "points": [[0, 500], [900, 500]]}},
        {"lens": {"by": "glass"}}, {"plane": {"frame": 1, "points": [[0, 0], [9, 9], [9, 0], [0, 9]], "sides_m": [2, 2]}},
        {"plane": {"frame": 99999, "points": [[0, 0], [900, 0], [900, 500], [0, 500]], "sides_m": [2, 2]}},
        {"plane": {"frame": 1, "points": [[0, 0], [900, 0], [900, 500]], "sides_m": [2, 2]}},
        {"plane": {"frame": 1, "points": [[0, 0], [900, 0], [900, 500], [0, 500]], "sides_m": [2, 0]}},
    ):  # fmt: skip
        answer = mark_camera(client, run, **part)
        assert answer.status_code == 400, part
        assert answer.json()["problem"].endswith(".")
    assert lean(client, run) == before
    assert page(client, run)["camera"] == {}


def test_scale_lens_and_surface_reach_the_tracks(client, run):
    assert (
        mark_camera(
            client, run, scale={"frame": 5, "points": [[100, 100], [100, 500]], "metres": 2}
        ).status_code
        == 200
    )
    assert mark_camera(client, run, lens={"by": "action"}).status_code == 200
    assert (
        mark_camera(
            client, run, surface={"frame": 5, "points": [[100, 500], [900, 520]]}
        ).status_code
        == 200
    )
    run = Run.objects.get(pk=run.pk)
    tracks, _ = corrected(run)
    assert tracks.facts.px_per_m == pytest.approx(200)
    assert tracks.facts.k1 < -0.1
    drift = tracks.point("scene_drift")
    np.testing.assert_allclose(tracks.point("surface_a") - [100, 500], drift - drift[5], atol=1e-3)


def test_another_person_is_followed_anew(client, run):
    clip = run.clip
    clip.people = TWO
    clip.save()
    assert len(page(client, run)["people"]) == 2
    assert (
        client.post(f"/api/runs/{run.pk}/person", {"person": 7}, format="json").status_code == 400
    )
    assert (
        client.post(f"/api/runs/{run.pk}/person", {"person": 1}, format="json").json()["state"]
        == "queued"
    )
    run.refresh_from_db()
    assert (run.clip.chosen, run.follow_again) == (1, True)
    assert (
        run.track_sets.count() == 1
    )  # what was tracked before is kept until the new tracks are there


def test_a_run_that_lacks_its_pole_tips_opens_on_the_bench_where_they_are_marked(client, rider):
    """From pictures alone no pole is followed: the coach marks the tips, and the cycles are there."""
    tracks = simulate("double_pole", {}, seed=4, units=3, noise_px=0.5).tracks
    run = measured_run(rider, body_only(tracks), discipline="double_pole")
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert (run.state, bench["units"], bench["nothing_words"]) == (
        "ready",
        [],
        "Nothing could be judged on this run.",
    )
    assert "the left pole tip and the right pole tip are not followed" in bench["notes"][0]
    assert client.get("/api/runs").json()["results"][0]["main_title"] == "Nothing could be judged"
    assert {"l_pole_tip", "r_pole_tip"} <= set(bench["markable"])
    for name in ("l_pole_tip", "r_pole_tip"):
        for k in range(0, len(tracks), 2):
            x, y = tracks.point(name)[k]
            run.edits.create(
                kind="mark", values={"frame": k, "landmark": name, "x": float(x), "y": float(y)}
            )
    refresh(run)
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert len(bench["units"]) == 3
    assert not any("not followed" in n for n in bench["notes"])


def choose(client, run, **who):
    return client.post(f"/api/runs/{run.pk}/person", who, format="json")


def point(client, run, frame=20, head=(640, 200), feet=(650, 400)):
    return choose(client, run, mark={"frame": frame, "head": list(head), "feet": list(feet)})


def test_a_person_who_was_followed_already_is_back_at_once_with_the_corrections_made_on_them(
    client, run
):
    run.clip.people = TWO
    run.clip.save()
    mark = {"kind": "mark", "landmark": "l_knee", "frame": 20, "x": 600.0, "y": 400.0}
    assert client.post(f"/api/runs/{run.pk}/edits", mark, format="json").status_code == 200
    assert choose(client, run, person=1).status_code == 202
    # Until the other one has been followed, the run is what it was.
    assert page(client, run)["chosen"] == 0
    assert len(client.get(f"/api/runs/{run.pk}/bench").json()["corrections"]) == 1
    run.track_sets.create(file=packed(run.track_sets.get().data), person=1)
    Run.objects.filter(pk=run.pk).update(state="ready", follow_again=False)
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert (bench["corrections"], bench["can_undo"], page(client, run)["chosen"]) == ([], False, 1)
    assert choose(client, run, person=0).status_code == 202
    again = Run.objects.get(pk=run.pk)
    assert (again.follow_again, again.person) == (False, 0)
    assert [e.values["landmark"] for e in again.corrections] == ["l_knee"]


def test_tracks_handed_in_take_away_the_marks_on_the_old_ones_and_leave_those_on_somebody_else(
    client, run, tmp_path
):
    run.clip.people = TWO
    run.clip.save()
    for person in (0, 1):
        run.edits.create(
            kind="mark",
            person=person,
            values={"landmark": "l_knee", "frame": 20, "x": 600.0, "y": 400.0},
        )
    path = tmp_path / "own.json"
    write_tracks(unpack(run.track_sets.get().data), path)
    with path.open("rb") as f:
        assert (
            client.post(f"/api/runs/{run.pk}/tracks", {"file": f}, format="multipart").status_code
            == 202
        )
    assert [e.person for e in run.edits.all()] == [1]


def test_pointing_at_somebody_who_was_found_chooses_them(client, run):
    run.clip.people = TWO
    run.clip.save()
    assert point(client, run, head=(905, 230), feet=(905, 375)).status_code == 202
    clip = Run.objects.get(pk=run.pk).clip
    assert (clip.chosen, len(clip.people)) == (1, 2)
    assert clip.people[1]["numbers"] == [0, 20, 30]
    assert clip.people[1]["heights"][1] == pytest.approx(145)


def test_pointing_where_nobody_was_found_makes_somebody_new_who_can_be_pointed_at_again(
    client, run
):
    run.clip.people = TWO
    run.clip.save()
    assert point(client, run).json()["state"] == "queued"
    Run.objects.filter(pk=run.pk).update(state="cancelled")
    assert point(client, run, frame=25, head=(660, 205), feet=(660, 405)).status_code == 202
    clip = Run.objects.get(pk=run.pk).clip
    assert (clip.chosen, len(clip.people)) == (2, 3)
    assert clip.people[2]["numbers"] == [20, 25]
    assert clip.people[2]["centres"] == [[645, 300], [660, 305]]
    seen = page(client, run)["people"]
    assert [p["by_hand"] for p in seen] == [False, False, True]


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"frame": 10**6}, "has no frame"), ({"head": (640, -5)}, "outside the picture"), ({"feet": (640, 210)}, "too small to follow"),
        ({"head": (640,)}, "at least 2"),
    ],
)  # fmt: skip
def test_where_no_rider_can_be_nobody_is_followed(client, run, wrong, words):
    before = run.clip.people
    answer = point(client, run, **wrong)
    assert answer.status_code == 400
    assert words in answer.json()["problem"]
    assert choose(client, run).status_code == 400
    after = Run.objects.get(pk=run.pk)
    assert (after.state, after.clip.people, after.clip.chosen) == ("ready", before, 0)


def test_questions_name_a_joint_a_frame_and_what_they_settle(client, run):
    asked = client.get(f"/api/runs/{run.pk}/questions").json()
    assert 0 < len(asked) <= 10
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    for q in asked:
        assert 0 <= q["frame"] < len(bench["t"])
        assert q["landmark"] in bench["points"]
        assert q["settles"].startswith("whether")


@pytest.mark.parametrize("form", ["json", "csv", "parquet", "coco", "c3d"])
def test_tracks_are_saved_with_corrections_and_can_be_handed_in_again(client, run, tmp_path, form):
    client.post(
        f"/api/runs/{run.pk}/edits",
        {"kind": "mark", "frame": 30, "landmark": "l_knee", "x": 500, "y": 333},
        format="json",
    )
    answer = client.get(f"/api/runs/{run.pk}/tracks?form={form}")
    name = answer["Content-Disposition"].split('"')[1]
    path = tmp_path / name
    path.write_bytes(b"".join(answer.streaming_content))
    back = read_tracks(path)
    np.testing.assert_allclose(back.point("l_knee")[30], (500, 333), atol=1e-3)
    with path.open("rb") as f:
        assert (
            client.post(f"/api/runs/{run.pk}/tracks", {"file": f}, format="multipart").status_code
            == 202
        )
    assert client.get(f"/api/runs/{run.pk}/tracks?form=xls").status_code == 400


def test_gear_is_marked_in_a_few_frames_and_carried(client, run, simulated):
    truth = simulated({"not_level": 1.6}, seed=103, units=2, view="front").exact
    with run.clip.working.open("rb") as f:
        run.clip.original.save("run.mp4", f)
    stored = run.track_sets.get()
    run.track_sets.create(file=packed(pack(body_only(unpack(stored.data)))))
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert "l_ski_tip" not in bench["points"]
    assert "l_ski_tip" in bench["markable"]
    for frame in (40, 65, 90):
        x, y = truth.point("l_ski_tip")[frame]
        answer = client.post(
            f"/api/runs/{run.pk}/edits",
            {"kind": "mark", "frame": frame, "landmark": "l_ski_tip", "x": x, "y": y},
            format="json",
        )
        assert answer.status_code == 200
    assert answer.json()["carrying"] == ["l_ski_tip"]
    carry_now(run.pk, "l_ski_tip")
    bench = client.get(f"/api/runs/{run.pk}/bench").json()
    assert bench["carrying"] == bench["carry_problems"] == []
    tracks, _ = corrected(Run.objects.get(pk=run.pk))
    off = np.linalg.norm(tracks.point("l_ski_tip")[40:91] - truth.point("l_ski_tip")[40:91], axis=1)
    assert np.median(off) < 3
    assert np.isnan(tracks.point("l_ski_tip")[:5]).all()
    # A mark taken back is carried no more.
    for _ in range(3):
        client.post(f"/api/runs/{run.pk}/undo")
    assert "l_ski_tip" not in client.get(f"/api/runs/{run.pk}/bench").json()["points"]


def test_only_gear_of_the_discipline_is_offered():
    assert "handle" in wanted_gear("slalom_ski")
    assert "handle" not in wanted_gear("alpine_carve")
    assert "l_blade_front" in wanted_gear("figure_loop")


def test_the_clip_of_another_club_is_not_there(run):
    stranger = client_of(new_coach("Elsewhere", "zoe"))
    assert stranger.get(f"/api/runs/{run.pk}/footage").status_code == 404
    assert stranger.get(f"/api/runs/{run.pk}/questions").status_code == 404
    assert (
        stranger.post(f"/api/runs/{run.pk}/person", {"person": 0}, format="json").status_code == 404
    )
    assert stranger.get(f"/api/runs/{run.pk}/tracks?form=csv").status_code == 404


def test_the_fall_in_the_air_is_offered_as_the_scale_and_can_be_taken_back(client, rider):
    jump = simulate("figure_jump", {}, seed=5, units=3)
    run = measured_run(rider, jump.tracks, discipline="figure_jump")
    got = page(client, run)
    assert "pixels a metre" in got["fall_words"]
    used = mark_camera(client, run, scale={"by": "fall"})
    assert used.status_code == 200, used.json()
    assert "by the fall of the body in the air" in used.json()["camera_words"]["scale"]
    assert used.json()["fall_words"] == ""
    tracks, _ = corrected(Run.objects.get(pk=run.pk))
    assert tracks.facts.px_per_m == pytest.approx(jump.tracks.facts.px_per_m, rel=0.1)
    # On another clock bodies fall otherwise: the scale goes, and is offered again.
    slower = client.patch(
        f"/api/runs/{run.pk}", {"filmed_fps": 2 * jump.tracks.facts.fps}, format="json"
    )
    assert slower.status_code == 200, slower.json()
    again = page(client, run)
    assert "scale" not in again["camera_words"]
    client.patch(f"/api/runs/{run.pk}", {"filmed_fps": None}, format="json")
    mark_camera(client, run, scale={"by": "fall"})
    back = mark_camera(client, run, scale=None).json()
    assert "scale" not in back["camera_words"]
    assert back["fall_words"] != ""


def test_without_a_flight_no_scale_by_the_fall_is_made_up(client, run):
    assert page(client, run)["fall_words"] == ""
    refused = mark_camera(client, run, scale={"by": "fall"})
    assert refused.status_code == 400
    assert "mark a known length" in str(refused.json())
    short = mark_camera(client, run, scale={"frame": 3, "metres": 2})
    assert short.status_code == 400
    assert Run.objects.get(pk=run.pk).camera == {}
