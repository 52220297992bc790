"""What was worked out last, kept in this process so that it need not be worked out again for the next question."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")


class Recent(Generic[T]):
    """The last few things by their keys. Whoever gets one must not change it; it is worked out outside the lock."""

    def __init__(self, most: int) -> None:
        self._most, self._kept, self._lock = most, OrderedDict[Hashable, T](), Lock()

    def get(self, key: Hashable, work: Callable[[], T]) -> T:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        made = work()
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return made

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()
