"""Training the eye: scoring, what comes next, and whether the profile finds what an observer is like."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from proklisis.core.errors import InputError
from proklisis.core.eye.choosing import Candidate, choose
from proklisis.core.eye.lines import apart, tilt_of
from proklisis.core.eye.profile import bias_and_spread, by_week, detection
from proklisis.core.eye.scoring import score
from proklisis.core.eye.spacing import reviewed
from proklisis.core.eye.threshold import next_size, threshold

NOW = datetime(2026, 11, 30, 12, tzinfo=UTC)
SIZES = (0.4, 0.6, 0.9, 1.3, 1.9, 2.8)


def test_a_drawn_line_has_a_tilt_and_no_head():
    assert tilt_of([[0.5, 0.8], [0.5, 0.2]]) == pytest.approx(0)
    assert tilt_of([[0.5, 0.8], [0.8, 0.5]]) == pytest.approx(45)
    assert tilt_of([[0.8, 0.5], [0.5, 0.8]]) == pytest.approx(45)
    assert tilt_of([[0.2, 0.5], [0.8, 0.5]]) == pytest.approx(90)
    assert tilt_of([[0.5, 0.1], [0.5, 0.5], [0.5, 0.9]]) == pytest.approx(0)
    assert tilt_of([[0.5, 0.1], [0.5, 0.5], [0.9, 0.5]]) == pytest.approx(90)
    # Too much is too much to either side, of the vertical and of the level.
    assert apart(25, 20, 2) == pytest.approx(5) == apart(-25, -20, 2)
    assert apart(15, 20, 2) == pytest.approx(-5) == apart(-15, -20, 2)
    assert apart(80, 85, 2) == pytest.approx(5) == apart(-80, -85, 2)
    assert apart(-89, 89, 2) == pytest.approx(-2)
    assert apart(30, 20, 3) == pytest.approx(10)


OPTIONS = {"options": [{"id": "x", "title": "X"}, {"id": "y", "title": "Y"}, {"id": "", "title": "Nothing"}]}  # fmt: skip


@pytest.mark.parametrize(
    ("exercise", "question", "truth", "given", "right", "error"),
    [
        ("frame", {}, {"frames": [10.4, 30.0], "step_s": 1 / 30}, {"frame": 11}, True, 0.02),
        ("frame", {}, {"frames": [10.4, 30.0], "step_s": 1 / 30}, {"frame": 26}, False, -4 / 30),
        ("angle", {"points": 2}, {"deg": 20.0}, {"line": [[0.5, 0.8], [0.8, 0.5]]}, False, 25.0),
        ("angle", {"points": 2}, {"deg": 44.0}, {"line": [[0.5, 0.8], [0.8, 0.5]]}, True, 1.0),
        ("fault", OPTIONS, {"answer": ""}, {"answer": ""}, True, None),
        ("fault", OPTIONS, {"answer": "x"}, {"answer": "y"}, False, None),
        ("cause", OPTIONS, {"order": ["x", "y", ""], "before": [["x", "y"]]}, {"order": ["x", "", "y"]}, True, None),
        ("cause", OPTIONS, {"order": ["x", "y", ""], "before": [["x", "y"]]}, {"order": ["y", "x", ""]}, False, None),
        ("side", {"options": [{"id": "left:much"}, {"id": "left:little"}]}, {"answer": "left:much", "side": "left"}, {"answer": "left:little"}, True, None),
    ],
)  # fmt: skip
def test_answers_are_scored(exercise, question, truth, given, right, error):
    found = score(exercise, question, truth, given)
    assert found.right == right
    assert found.error == (None if error is None else pytest.approx(error, abs=1e-6))


@pytest.mark.parametrize(
    ("exercise", "question", "given"),
    [
        ("frame", {}, {}), ("frame", {}, {"frame": "ten"}), ("angle", {"points": 2}, {"line": [[0, 0]]}), ("angle", {"points": 2}, {"line": [[0, 0], [9, 0]]}),
        ("fault", OPTIONS, {"answer": "z"}), ("cause", OPTIONS, {"order": ["x", "x", "y"]}), ("cause", OPTIONS, {}),
    ],
)  # fmt: skip
def test_an_answer_that_cannot_be_is_refused(exercise, question, given):
    with pytest.raises(InputError):
        score(exercise, question, {"frames": [1.0], "step_s": 0.1, "deg": 3, "answer": "x", "order": [], "before": []}, given)  # fmt: skip


def test_the_profile_finds_an_observers_bias_and_spread():
    # 300 observers of 200 answers each, with a bias and a spread of their own: both lie within the stated 95 % intervals.
    rng = np.random.default_rng(11)
    held = []
    for _ in range(300):
        bias, spread = rng.uniform(-6, 6), rng.uniform(1, 8)
        found = bias_and_spread(rng.normal(bias, spread, 200).tolist())
        held.append((found.bias.low <= bias <= found.bias.high, found.spread.low <= spread <= found.spread.high))  # fmt: skip
    assert np.mean([a for a, _ in held]) >= 0.93
    assert np.mean([b for _, b in held]) >= 0.93
    assert bias_and_spread([1.0, 2.0]) is None


def test_the_profile_finds_an_observers_criterion():
    # 300 observers of 200 items, a third of them clean: d′ and criterion lie within their stated intervals.
    rng = np.random.default_rng(12)
    held = []
    for _ in range(300):
        d, c = rng.uniform(0.5, 2.5), rng.uniform(-0.6, 0.6)
        clean, faults = 67, 133
        alarms = int((rng.normal(0, 1, clean) > d / 2 + c).sum())
        hits = int((rng.normal(d, 1, faults) > d / 2 + c).sum())
        found = detection(hits, faults, alarms, clean)
        held.append((found.d_prime.low <= d <= found.d_prime.high, found.criterion.low <= c <= found.criterion.high))  # fmt: skip
    assert np.mean([a for a, _ in held]) >= 0.93
    assert np.mean([b for _, b in held]) >= 0.93
    assert detection(3, 4, 0, 50) is None


def seen_by(size: float, at: float, slope: float, guess: float, rng: np.random.Generator) -> bool:
    """An observer that is right three times out of four at ``at``; not the function that is fitted, a log-normal one."""
    from scipy.stats import norm

    share = (0.75 - guess) / (1 - guess)
    p = guess + (1 - guess) * norm.cdf(slope * np.log(size / at) + norm.ppf(share))
    return bool(rng.random() < p)


@pytest.mark.thorough
@pytest.mark.parametrize("guess", [0.2, 0.5])
def test_the_threshold_is_found_within_a_fifth(guess):
    # Observers who see as a log-normal function, another than the one that is fitted; 200 items whose sizes are chosen as they answer.
    rng = np.random.default_rng(13)
    near, inside = [], []
    for k in range(60):
        at = (0.6, 0.9, 1.3)[k % 3]
        answers: list[tuple[float, bool]] = []
        while len(answers) < 200:
            size = next_size(answers, SIZES, guess)
            answers.append((size, seen_by(size, at, 2.2, guess, rng)))
        found = threshold(answers, guess)
        near.append(abs(found.size / at - 1) <= 0.20)
        inside.append(found.low <= at <= found.high)
    assert np.mean(near) >= 0.9, near
    assert np.mean(inside) >= 0.8, inside


def test_what_is_missed_is_shown_larger_and_what_is_seen_smaller():
    missed = [(1.3, False)] * 6
    seen = [(1.3, True)] * 6
    assert next_size(missed, SIZES, 0.2) > 1.3 > next_size(seen, SIZES, 0.2)
    assert threshold(seen, 0.2) is None


def test_the_longest_overdue_comes_first_and_nothing_comes_twice():
    topic = {k: ("fault", "snowboard", k) for k in "abc"}
    pool = [Candidate(n, topic[k], 1.0, 0) for n, k in enumerate("abc")]
    due = {topic["a"]: NOW - timedelta(days=1), topic["b"]: NOW - timedelta(days=3), topic["c"]: NOW + timedelta(days=2)}  # fmt: skip
    first = choose(pool, due, {}, NOW, None)
    assert first.topic == topic["b"]
    assert choose(pool, due, {}, NOW, first).topic == topic["a"]
    # What was never asked comes before what is due only later.
    assert choose([*pool[2:], Candidate(9, ("fault", "snowboard", "new"), 1.0, 0)], due, {}, NOW, None).item == 9  # fmt: skip
    # Another exercise than the last, where there is one; of a topic the size that is wanted.
    other = [Candidate(3, ("angle", "snowboard", "lean"), 1.0, 0), Candidate(4, topic["a"], 0.6, 0), Candidate(5, topic["a"], 2.8, 0)]  # fmt: skip
    assert choose(other, due, {}, NOW, pool[0]).item == 3
    assert choose(other[1:], due, {topic["a"]: 2.5}, NOW, None).item == 5
    assert choose(pool[:1], due, {}, NOW, pool[0]) is None


def test_intervals_grow_with_what_is_right_and_shrink_with_what_is_not():
    card, due = reviewed(None, True, False, NOW)
    assert due > NOW + timedelta(hours=12)
    second, later = reviewed(card, True, False, due)
    assert later - due > due - NOW
    _, soon = reviewed(second, False, False, later)
    assert soon - later < later - due


def test_weeks_are_counted_from_the_first_answer():
    weeks = by_week([3.0, 4.0, 11.0, 25.0], [True, False, True, True])
    assert [(w.start, w.right, w.n) for w in weeks] == [(0, 1, 2), (7, 1, 1), (21, 1, 1)]
