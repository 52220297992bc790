"""Ask-me-first: what is broken and decides is asked for, and the answers bring the verdict to the truth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from proklisis.core.corrections.asking import ask_first
from proklisis.core.corrections.marks import Mark, apply_marks
from proklisis.core.review import judge, review, run_sheet
from proklisis.core.tracks.outlier_rejection import figure_height, without_outliers
from proklisis.simulate.run import simulate

pytestmark = pytest.mark.thorough


def worked(run, tracks):
    done = review(tracks, "alpine_carve")
    sheet = run_sheet(done, "alpine_carve", run.about())
    return done, sheet, judge(sheet)


def slipped(run, joints, share=0.10, seed=0):
    """Tracks whose joints drift off and back over the bellies of turns, in a tenth of the frames."""
    rng = np.random.default_rng(seed)
    tracks = run.tracks
    xy, height, bad = (
        tracks.xy.copy(),
        figure_height(tracks.xy, tracks.names),
        np.zeros(len(tracks), bool),
    )
    turns = list(review(tracks, "alpine_carve").units)
    for turn in rng.permutation(len(turns)):
        if bad.mean() >= share:
            break
        middle, length = sum(turns[turn].phases["belly"]) / 2, rng.uniform(0.25, 0.5)
        rows = np.flatnonzero(np.abs(tracks.t - middle) < length / 2)
        way = rng.normal(size=2)
        bump = np.sin(np.pi * (tracks.t[rows] - middle + length / 2) / length) ** 2
        xy[rows, tracks.index[joints[turn % len(joints)]]] += (
            bump[:, None] * 0.25 * height * way / np.linalg.norm(way)
        )
        bad[rows] = True
    return replace(tracks, xy=xy), bad


@pytest.mark.parametrize(
    ("fault", "joints"),
    [("not_level", ("l_shoulder", "r_shoulder")), ("hip_out", ("l_hip", "r_hip"))],
)
def test_ten_answers_bring_the_verdict_to_the_truth(simulated, fault, joints):
    run = simulated({fault: 1.5}, seed=41, units=6, view="front")
    tracks, bad = slipped(run, joints)
    done, sheet, found = worked(run, tracks)
    first = ask_first(done, sheet, found)
    assert 0 < len(first) <= 10
    assert [q.gain for q in first] == sorted((q.gain for q in first), reverse=True)
    assert bad[first[0].frame]
    marks = []
    for _ in range(10):
        questions = ask_first(done, sheet, found)
        if not questions:
            break
        q = questions[0]
        x, y = run.exact.point(q.landmark)[q.frame]
        marks.append(Mark(q.frame, q.landmark, x, y))
        done, sheet, found = worked(run, apply_marks(without_outliers(tracks), marks))
    assert found["main"]["fault"] == fault


def test_a_lost_joint_where_the_verdict_rests_is_asked_for(simulated):
    run = simulated({"not_level": 1.5}, seed=41, units=6, view="front")
    turn = list(review(run.tracks, "alpine_carve").units)[2]
    a, b = turn.phases["belly"]
    xy = run.tracks.xy.copy()
    xy[(run.tracks.t > a - 0.1) & (run.tracks.t < b + 0.1), run.tracks.index["l_shoulder"]] = np.nan
    done, sheet, found = worked(run, replace(run.tracks, xy=xy))
    asked = [q for q in ask_first(done, sheet, found) if q.unit == turn.n]
    assert any(q.landmark == "l_shoulder" and "lost" in q.why for q in asked)


def test_confirming_a_joint_takes_its_question_away(simulated):
    run = simulated({"not_level": 1.5}, seed=41, units=6, view="front")
    done, sheet, found = worked(run, run.tracks)
    q = ask_first(done, sheet, found)[0]
    x, y = run.tracks.point(q.landmark)[q.frame]
    after = ask_first(*worked(run, apply_marks(run.tracks, [Mark(q.frame, q.landmark, x, y)])))
    assert (q.frame, q.landmark) not in {(o.frame, o.landmark) for o in after}


def test_a_limbs_reading_asks_for_a_joint_of_that_limb():
    run = simulate("trail_stance", {"heels_up": 1.5}, seed=9, units=3)
    done = review(run.tracks, "trail_stance", draws=16)
    sheet = run_sheet(done, "trail_stance", run.about())
    asked = [q for q in ask_first(done, sheet, judge(sheet)) if q.measure == "heel_drop"]
    assert asked
    for q in asked:
        limb = q.why.removeprefix("Heel drop ")[0]
        assert q.landmark.startswith(f"{limb}_"), q
