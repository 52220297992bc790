"""A thread works ahead: nothing is lost, reordered or swallowed, and it ends when nobody asks any more."""

from __future__ import annotations

import threading
import time

import pytest

from proklisis.footage.ahead import ahead


def running() -> list[str]:
    return [t.name for t in threading.enumerate() if t.name == "ahead"]


@pytest.mark.parametrize("n", [0, 1, 2, 50])
def test_every_item_comes_once_and_in_order(n):
    assert list(ahead(iter(range(n)))) == list(range(n))
    assert not running()


def test_what_goes_wrong_in_the_thread_is_raised_after_the_items_before_it():
    def broken():
        yield 1
        yield 2
        raise OSError("the file ends here")

    items = ahead(broken())
    assert [next(items), next(items)] == [1, 2]
    with pytest.raises(OSError, match="ends here"):
        next(items)
    assert not running()


def test_the_thread_works_ahead_but_not_far():
    made = []

    def slow():
        for k in range(20):
            made.append(k)
            yield k

    items = ahead(slow(), most=2)
    assert next(items) == 0
    deadline = time.monotonic() + 5
    while len(made) < 4 and time.monotonic() < deadline:
        time.sleep(0.01)
    time.sleep(0.05)
    assert 2 <= len(made) <= 4  # the one taken, two ready, one in hand
    items.close()
    assert not running()


def test_who_stops_early_leaves_no_thread_behind():
    for item in ahead(iter(range(1000))):
        if item == 3:
            break
    deadline = time.monotonic() + 5
    while running() and time.monotonic() < deadline:
        time.sleep(0.01)
    assert not running()
