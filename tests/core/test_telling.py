"""The Telling: what stands ready for a judged run, and how it is laid out in time."""

from __future__ import annotations

import json
from copy import deepcopy

import numpy as np
import pytest
from jsonschema import Draft202012Validator

from proklisis.core.errors import InputError
from proklisis.core.playbook.cues import next_step
from proklisis.core.review import judge, playbook, review, run_sheet
from proklisis.core.rider.mass import MIDPOINTS
from proklisis.core.telling.angles import drawn_angle
from proklisis.core.telling.captions import reading_s, webvtt
from proklisis.core.telling.played import fitted, frame_at, played
from proklisis.core.telling.proposed import _stands_out, propose
from proklisis.core.telling.seen import Seen
from proklisis.core.telling.spread import spread
from proklisis.core.tracks.tracks import ClipFacts
from proklisis.formats.schemas import schemas


def seen_of(done) -> Seen:
    tracks = done.tracks
    points = {n: tracks.xy[:, k] for k, n in enumerate(tracks.names)}
    for name, parts in MIDPOINTS.items():
        if all(p in points for p in parts):
            points[name] = sum(points[p] for p in parts) / len(parts)
    return Seen(tracks.t, list(points), np.stack(list(points.values()), axis=1), {u.n: u.outside_foot for u in done.units})  # fmt: skip


@pytest.fixture(scope="module")
def told(simulated_once):
    sim = simulated_once({"hip_out": 1.8}, seed=31, units=6, view="front")
    done = review(sim.tracks, "alpine_carve")
    sheet = run_sheet(done, "alpine_carve", {**sim.about(), "intention": {"text": "hip inside", "faults": ["hip_out"]}})  # fmt: skip
    prescription = judge(sheet)
    seen = seen_of(done)
    made = propose(sheet, playbook("alpine_carve"), prescription, done.units, done.readings, seen, lambda f: f == "hip_out", "1 June")  # fmt: skip
    return made, prescription, done, seen


@pytest.fixture(scope="module")
def simulated_once():
    from proklisis.simulate.run import simulate

    def make(faults, **options):
        return simulate("alpine_carve", faults, **options)

    return make


def test_what_stands_ready_tells_all_of_the_prescription(told):
    made, prescription, _, _ = told
    main = prescription["main"]
    said = " ".join(p["caption"] for p in made["passages"])
    for words in (main["title"], main["why"], main["cue"], prescription["drills"][0]["title"], "1 June", "hip inside"):  # fmt: skip
        assert words in said
    acts = [a for p in made["passages"] for a in p["acts"]]
    assert {a["act"] for a in acts} == {"play", "stop", "measure", "figure", "card"}
    Draft202012Validator(schemas()["telling"]).validate(json.loads(json.dumps(made)))


def test_each_piece_of_evidence_stops_at_the_frame_it_was_read_in_with_its_number(told):
    made, prescription, done, seen = told
    lay = played(made, seen)
    shown = [o for o in lay["overlays"] if any(m["tone"] == "measure" for r in o["marks"].values() for m in r)]  # fmt: skip
    evidence = next(f["evidence"] for f in prescription["findings"] if f["fault"] == "hip_out")
    assert 1 <= len(shown) <= 3
    for o in shown:
        at = frame_at(lay["stretches"], (o["from_s"] + o["to_s"]) / 2, seen)
        mark = o["marks"][at][0]
        assert len(mark["points"]) >= 2
        assert "±" in mark["words"]
        read = {round(float(r.t), 4) for r in done.readings if r.t is not None and r.id in {e["measure"] for e in evidence}}  # fmt: skip
        assert min(abs(seen.t[at] - t) for t in read) <= 0.5 / done.tracks.facts.fps + 1e-6


def test_nobody_has_to_read_faster_than_they_can(told):
    made, *_ = told
    assert all(p["length_s"] >= reading_s(p["caption"]) - 0.01 for p in made["passages"])


def test_a_run_with_nothing_to_put_right_says_so(simulated_once):
    sim = simulated_once({}, seed=12, units=6, view="front")
    done = review(sim.tracks, "alpine_carve")
    sheet = run_sheet(done, "alpine_carve", sim.about())
    prescription = judge(sheet)
    if prescription["main"] is not None:
        pytest.skip("this clean run is said to have a fault; that is tested elsewhere")
    made = propose(sheet, playbook("alpine_carve"), prescription, done.units, done.readings, seen_of(done), lambda f: True)  # fmt: skip
    assert "cue" not in {p["id"] for p in made["passages"]}
    assert "none" in {p["id"] for p in made["passages"]}


@pytest.mark.parametrize(
    ("scores", "stands_out"),
    [
        ([(0.1, 0.1), (1.0, 0.1), (1.2, 0.1)], True),
        ([(0.1, 0.1), (0.12, 0.1), (0.15, 0.1)], False),  # all alike
        ([(0.1, 2.0), (1.0, 0.1), (1.2, 0.1)], False),  # badly seen
        ([(0.1, 0.1)], False),  # nothing to hold it against
    ],
)
def test_a_unit_is_called_the_best_only_where_that_is_sure(scores, stands_out):
    rows = [{"segment": k, "side": None, "score": s, "u": u, "rank": 0} for k, (s, u) in enumerate(scores)]  # fmt: skip
    assert _stands_out(rows[0], rows[1:]) is stands_out


def plain_seen(n=100, fps=50.0) -> Seen:
    xy = np.stack([np.linspace(0, 99, n), np.full(n, 50.0)], axis=1)
    return Seen(np.arange(n) / fps, ["l_hip", "r_hip"], np.stack([xy, xy], axis=1), {})


def telling(*passages) -> dict:
    rows = [{"id": f"p{k}", "caption": c, "length_s": s, "acts": list(acts)} for k, (c, s, acts) in enumerate(passages)]  # fmt: skip
    return {"format": "telling/1", "discipline": "alpine_carve", "passages": rows}


def test_stops_plays_and_jumps_are_shown_when_they_were_told():
    seen = plain_seen()
    made = telling(
        ("one", 3.0, [
            {"act": "stop", "at_s": 0.0, "frame": 10}, {"act": "play", "at_s": 1.0, "frame": 10, "to_frame": 30, "speed": 0.5},
        ]),
        ("two", 2.0, [{"act": "stop", "at_s": 0.5, "frame": 5}]),
    )  # fmt: skip
    lay = played(made, seen)
    # 20 frames at 50 a second and half speed play for 0.8 s; then the last one stands.
    shown = {t: frame_at(lay["stretches"], t, seen) for t in (0.0, 0.99, 1.01, 1.4, 1.79, 2.5, 3.4, 3.51, 4.9)}  # fmt: skip
    assert shown == {0.0: 10, 0.99: 10, 1.01: 10, 1.4: 20, 1.79: 30, 2.5: 30, 3.4: 30, 3.51: 5, 4.9: 5}  # fmt: skip
    assert lay["length_s"] == 5.0
    assert [(c["from_s"], c["to_s"], c["text"]) for c in lay["captions"]] == [(0, 3, "one"), (3, 5, "two")]  # fmt: skip


def test_a_drawing_goes_with_the_rider_or_stays():
    seen = plain_seen()
    draw = {"act": "draw", "at_s": 0.0, "until_s": 2.0, "kind": "circle", "points": [[10.0, 50.0], [14.0, 50.0]], "words": "", "frame": 10}  # fmt: skip
    play = {"act": "play", "at_s": 0.0, "frame": 10, "to_frame": 40, "speed": 1.0}
    for follows, moved in ((True, 20.0), (False, 0.0)):
        [over] = played(telling(("x", 2.0, [play, {**draw, "follows": follows}])), seen)["overlays"]
        assert min(over["marks"]) == 10 and max(over["marks"]) == 40
        assert over["marks"][30][0]["points"][0][0] == pytest.approx(10 + moved)


def test_what_is_heard_is_cut_to_its_passage():
    made = telling(("x", 2.0, []), ("y", 1.0, []))
    made["passages"][1]["sound"] = {"recording": 4, "from_s": 0.5, "to_s": 9.0}
    assert played(made, plain_seen())["heard"] == [{"at_s": 2.0, "recording": 4, "from_s": 0.5, "to_s": 1.5}]  # fmt: skip


@pytest.mark.parametrize(
    "act",
    [
        {"act": "stop", "at_s": 0.0, "frame": 100},
        {"act": "play", "at_s": 0.0, "frame": 50, "to_frame": 10, "speed": 1.0},
        {"act": "measure", "at_s": 0.0, "until_s": 1.0, "measure": "charm", "unit": None, "limb": None, "words": ""},
    ],
)  # fmt: skip
def test_acts_that_cannot_be_shown_are_refused_with_their_place(act):
    with pytest.raises(InputError, match=r"passages\.0\.acts\.0"):
        played(telling(("x", 1.0, [act])), plain_seen())


def test_captions_hold_no_tags_and_no_empty_lines():
    text = webvtt([{"from_s": 3599.9996, "to_s": 3601.5, "text": "hips <b> & knees\n\n--> here"}])
    assert text == "WEBVTT\n\n01:00:00.000 --> 01:00:01.500\nhips &lt;b&gt; &amp; knees\n--&gt; here\n"  # fmt: skip


def test_a_drawn_angle_is_read_with_its_doubt():
    facts = ClipFacts(fps=50, width=1280, height=720, roll_deg=0.0, roll_u_deg=1.0)
    right = drawn_angle([[100, 100], [100, 300], [300, 300]], facts)
    assert right.value == pytest.approx(90)
    # Two lines of 200 px, their ends known to 1.92 px (0.0015 of the width): 2·(1.92/200)² for the ends, and the corner's own.
    assert right.u == pytest.approx(np.degrees(1.92 / 200 * 2), rel=0.05)
    lean = drawn_angle([[100, 300], [200, 300 - 100 * np.sqrt(3)]], facts)
    assert lean.value == pytest.approx(30)
    assert lean.u > 1.0  # the level's own doubt
    longer = drawn_angle([[100, 100], [100, 500], [500, 500]], facts)
    assert longer.u < right.u


def test_a_drawn_line_is_levelled_and_freed_of_the_lens():
    turned = ClipFacts(fps=50, width=1280, height=720, roll_deg=5.0, roll_u_deg=0.5)
    up = [[600, 500], [600 + 300 * np.sin(np.radians(5)), 500 - 300 * np.cos(np.radians(5))]]
    assert drawn_angle(up, turned).value == pytest.approx(0, abs=1e-6)
    bent = ClipFacts(fps=50, width=1280, height=720, k1=-0.3, focal_px=700.0)
    corner = [[40, 40], [40, 360], [640, 360]]
    assert drawn_angle(corner, bent).value != pytest.approx(90, abs=0.5)


def test_an_angle_of_points_that_lie_together_is_refused():
    facts = ClipFacts(fps=50, width=1280, height=720)
    for points in ([[1, 1], [2, 1]], [[1, 1]], [[0, 0], [100, 0], [float("nan"), 3]]):
        with pytest.raises(InputError):
            drawn_angle(points, facts)


def test_a_telling_of_a_clip_that_was_cut_since_is_still_shown():
    made = telling(("x", 1.0, [
        {"act": "play", "at_s": 0.0, "frame": 90, "to_frame": 400, "speed": 1.0},
        {"act": "measure", "at_s": 0.0, "until_s": 1.0, "measure": "charm", "unit": None, "limb": None, "words": ""},
    ]))  # fmt: skip
    kept = fitted(made, plain_seen())
    assert kept["passages"][0]["caption"] == "x"
    assert [a["act"] for a in kept["passages"][0]["acts"]] == ["play"]
    assert played(kept, plain_seen())["stretches"][-1]["to_frame"] == 99


class TestSpreading:
    """What was told to all on one run, with another rider's own frames and numbers."""

    def test_keeps_each_riders_own_and_takes_what_is_for_all(self, told):
        made, *_ = told
        own = deepcopy(made)
        for p in own["passages"]:
            p["caption"] = f"Own: {p['caption']}"
        said = deepcopy(made)
        voice = {"recording": 4, "from_s": 0.0, "to_s": 6.0}
        by_id = {p["id"]: p for p in said["passages"]}
        by_id["cue"].update(sound=voice, caption="My words for all of you.", length_s=6.0)
        by_id["evidence-1"].update(sound=voice, caption="Yours, Wren.")
        extra = {"id": "mine", "caption": "One rule more.", "length_s": 3.0, "acts": []}
        said["passages"].insert(0, extra)
        got = {p["id"]: p for p in spread(said, made, own)["passages"]}
        assert next(iter(got)) == "mine"
        assert got["cue"]["caption"] == "My words for all of you." and got["cue"]["sound"] == voice
        assert got["evidence-1"]["caption"].startswith("Own: ")
        assert "sound" not in got["evidence-1"]
        # Words that are as they were proposed hold the other run's numbers.
        assert got["why"]["caption"].startswith("Own: ")
        assert list(got) == ["mine", *(p["id"] for p in own["passages"])]

    def test_a_passage_that_shows_the_run_is_nobody_elses(self, told):
        made, *_ = told
        said = deepcopy(made)
        stop = {"act": "stop", "at_s": 0.0, "frame": 3}
        said["passages"].append(
            {"id": "look", "caption": "Look here.", "length_s": 2.0, "acts": [stop]}
        )
        assert spread(said, made, made) == made


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ([(20, 5), (10, 6)], "forward"),
        ([(10, 5), (10_000, 6)], "beyond"),
        ([(10, 5, 0)], "no size"),
    ],
)
def test_a_pair_that_cannot_be_shown_is_refused(told, rows, words):
    _, _, _, seen = told
    made = [
        {
            "frame": r[0],
            "other": r[1],
            "box": [0, 0, 100, 100],
            "other_box": [0, 0, 100, (*r, 100)[2]],
        }
        for r in rows
    ]
    act = {"act": "pair", "at_s": 0, "until_s": 1, "run": 3, "made": "", "mirror": False, "words": ["a", "b"], "rows": made}  # fmt: skip
    tale = {"format": "telling/1", "discipline": "alpine_carve", "passages": [{"id": "p", "caption": "", "length_s": 1, "acts": [act]}]}  # fmt: skip
    with pytest.raises(InputError, match=words):
        played(tale, seen)


@pytest.mark.parametrize(
    ("began", "ticked", "came", "then"),
    [
        (0, None, "moved", 1), (0, 2, "moved", 3), (2, 0, "moved", 3), (3, None, "moved", 3),
        (1, 2, "no_change", 1), (1, 3, "worse", 1), (1, None, "cannot_tell", 1), (9, None, "no_change", 3),
    ],
)  # fmt: skip
def test_a_ladder_goes_on_only_where_the_number_moved(began, ticked, came, then):
    assert next_step(began, ticked, 4, came) == then
