"""What a child sends is data: it comes back as it was, and anything else is refused."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest

from proklisis.footage import messages
from proklisis.footage.carry import Carried
from proklisis.footage.people import Someone
from proklisis.footage.probe import Clip


def through(value):
    pipe = io.BytesIO()
    messages.send(pipe, "result", value)
    pipe.seek(0)
    kind, back = messages.receive(pipe.read)
    assert kind == "result"
    return back


def test_clips_people_and_paths_come_back_as_they_were():
    clip = Clip(
        Path("a.mp4"),
        1280,
        720,
        "h264",
        90,
        np.arange(5) / 30,
        keys=np.array([0, 3]),
        stored=(720, 1280),
    )
    back = through(clip)
    assert (back.path, back.stored, back.codec) == (clip.path, clip.stored, clip.codec)
    np.testing.assert_array_equal(back.t, clip.t)
    assert back.keys.dtype == clip.keys.dtype
    someone = Someone([1, 2], [np.array([1.0, 2.0])], [3.0], [(0, 1, 2, 3)], np.array([9.0, 8, 7]))
    (again,) = through([someone])
    assert again.boxes == [(0, 1, 2, 3)] and again.numbers == [1, 2]
    path = through(Carried(np.arange(3), np.full((3, 2), np.nan), np.ones(3), np.zeros(3)))
    assert np.isnan(path.xy).all() and path.frames.tolist() == [0, 1, 2]


def test_tracks_of_a_file_come_back_with_their_facts(simulated):
    tracks = simulated({"not_level": 1.6}, seed=103, units=2, view="front").tracks
    back = through(tracks)
    assert back.facts == tracks.facts and back.names == tracks.names
    np.testing.assert_array_equal(back.xy, tracks.xy)


def test_an_array_that_comes_back_may_be_written_to():
    back = through(np.zeros(3))
    back[0] = 1


@pytest.mark.parametrize(
    "value", [{1, 2}, object(), np.array(["a"]), np.array([object()]), b"bytes", io.BytesIO()]
)
def test_what_is_no_data_is_not_sent(value):
    with pytest.raises(TypeError, match="is not sent"):
        messages.send(io.BytesIO(), "result", value)


def raw(text: bytes, data: bytes = b"") -> io.BytesIO:
    return io.BytesIO(messages.HEAD.pack(len(text), len(data)) + text + data)


@pytest.mark.parametrize(
    "value",
    [{"class": "os:system", "fields": {"command": "true"}}, {"class": "proklisis.footage.limited:limited", "fields": {}}, {"class": "proklisis.footage.probe:Clip", "fields": {"nothing": 1}},
     {"array": ["|O", [1], 0]}, {"array": ["<f8", [10], 0]}, {"array": ["<f8", [-1], 0]}, {"nothing": 1}, [1, 2], {"class": 3}],
)  # fmt: skip
def test_a_child_that_was_taken_over_can_name_no_code(value):
    with pytest.raises(messages.Garbled):
        messages.receive(raw(json.dumps(["result", value]).encode()).read)


@pytest.mark.parametrize("text", [b"\xff\xfe", b"12", b'["result"]', b"[" * 100_000, b""])
def test_what_is_no_message_is_garbled(text):
    with pytest.raises(messages.Garbled):
        messages.receive(raw(text).read)


def test_more_than_any_message_holds_is_not_waited_for():
    with pytest.raises(messages.Garbled, match="are said to come"):
        messages.receive(io.BytesIO(messages.HEAD.pack(2**40, 0)).read)
