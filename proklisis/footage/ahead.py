"""Work through an iterator in a thread of its own, a few items ahead of who uses them."""

from __future__ import annotations

import queue
import threading
from collections.abc import Iterable, Iterator
from typing import TypeVar

T = TypeVar("T")
_END = object()


def ahead(items: Iterable[T], most: int = 2) -> Iterator[T]:
    """Yield ``items``, of which a thread has at most ``most`` ready. What they raise is raised here.

    Worth it where making an item lets other threads run, as decoding does. When the consumer
    stops early the thread ends after the item it is at.
    """
    ready: queue.Queue[object] = queue.Queue(most)
    stopped = threading.Event()
    trouble: list[BaseException] = []

    def put(item: object) -> bool:
        while not stopped.is_set():
            try:
                ready.put(item, timeout=0.1)
                return True
            except queue.Full:
                continue
        return False

    def work() -> None:
        try:
            for item in items:
                if not put(item):
                    return
        except BaseException as e:
            trouble.append(e)
        finally:
            put(_END)

    thread = threading.Thread(target=work, name="ahead", daemon=True)
    thread.start()
    try:
        while (item := ready.get()) is not _END:
            yield item  # type: ignore[misc]
        if trouble:
            raise trouble[0]
    finally:
        stopped.set()
        thread.join()
