"""Run a function on a stranger's file in a process of its own, with limits of time and memory, in a box (``boxed``).

A damaged or hostile video can make a decoder hang, eat the memory or crash. None of that may reach
the worker: the child dies instead, and the coach gets one sentence.
"""

from __future__ import annotations

import ctypes
import errno
import io
import os
import pickle
import resource
import select
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any, BinaryIO

from proklisis.core.errors import InputError
from proklisis.footage import boxed, messages

#: How often it is asked whether the work is still wanted, seconds.
LOOK_S = 1.0
MEMORY_MB = 4096  # address space, of which a decoder reserves far more than it uses
MEND = "export it again as MP4 from the camera's own program"
_DEATH_SIGNAL = 1  # PR_SET_PDEATHSIG of prctl(2)


def limited(
    work: Callable[..., Any], *args: Any, name: str, seconds: float, silence_s: float = 60.0, memory_mb: int = MEMORY_MB,
    progress: Callable[..., None] | None = None, alive: Callable[[], None] | None = None,
) -> Any:  # fmt: skip
    """Return ``work(*args)`` from a child process.

    Parameters
    ----------
    work : a function of a module; it is given ``progress=`` when ``progress`` is
    name : what errors call the file
    seconds : CPU time of the child; and silence_s the longest wall time without word from it
    progress : called with what the child's ``progress`` is called with; may raise to stop the work
    alive : called about once a second while nothing comes; may raise to stop the work

    Raises
    ------
    InputError : of ``work`` itself, or that the file cannot be decoded within the limits
    """
    # Started again and not forked: a fork would share the server's sockets and threads.
    # A group of its own, so that what it starts ends with it.
    told = io.BytesIO()
    noticing = boxed.Noticing(told)
    noticing.dump((work, args))
    box = boxed.box(work, noticing.paths)
    # In a box nobody sees the numbers of processes outside; it ends with its parent by itself.
    parent = 0 if box else os.getpid()
    with subprocess.Popen(
        [*box, sys.executable, "-m", __name__],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        start_new_session=True,
        env=boxed.surroundings(),
    ) as child:
        assert child.stdin is not None and child.stdout is not None
        try:
            # One that died at once is told by what comes of it.
            with suppress(BrokenPipeError):
                pickle.dump((seconds, memory_mb, parent, progress is not None), child.stdin)
                child.stdin.write(told.getvalue())
                child.stdin.close()
            while True:
                kind, value = _next(child, name, silence_s, alive)
                if kind == "progress" and progress:
                    progress(*value)
                elif kind == "result":
                    return value
                elif kind == "input-error":
                    raise InputError(*value)
                elif kind == "error":
                    raise RuntimeError(value)
        finally:
            with suppress(ProcessLookupError):
                os.killpg(child.pid, signal.SIGKILL)
            child.kill()


def _next(
    child: subprocess.Popen[bytes], name: str, silence_s: float, alive: Callable[[], None] | None
) -> tuple[str, Any]:
    assert child.stdout is not None
    out = child.stdout.fileno()
    end = time.monotonic() + silence_s

    def read(n: int) -> bytes:
        """Exactly n bytes, or InputError when nothing comes, EOFError when no more will."""
        got = bytearray()
        while len(got) < n:
            while not select.select([out], [], [], min(LOOK_S, max(end - time.monotonic(), 0.01)))[
                0
            ]:
                if time.monotonic() >= end:
                    raise InputError(
                        f"the video decoder is stuck; nothing came of it in {silence_s:.0f} s",
                        name,
                        MEND,
                    )
                if alive:
                    alive()
            data = os.read(out, min(n - len(got), 2**20))
            if not data:
                raise EOFError
            got += data
        return bytes(got)

    try:
        return messages.receive(read)
    except (EOFError, messages.Garbled):
        child.kill()
        code = child.wait()
        how: dict[int, str] = {
            signal.SIGXCPU: "takes too long to decode",
            signal.SIGKILL: "takes too long or too much memory to decode",
        }
        # Of what ends by a signal in a box, the box tells 128 more than it.
        by = -code if code < 0 else code - 128
        raise InputError(f"the video {how.get(by, 'makes the decoder fail')}", name, MEND) from None


class _Outbox:
    """Messages to the parent; progress is passed on a few times a second at most."""

    def __init__(self, out: BinaryIO) -> None:
        self.out, self.last = out, 0.0

    def send(self, kind: str, value: Any) -> None:
        messages.send(self.out, kind, value)

    def progress(self, *value: Any) -> None:
        if time.monotonic() - self.last > 0.2:
            self.last = time.monotonic()
            self.send("progress", value)


def _child() -> None:
    outbox = _Outbox(os.fdopen(os.dup(1), "wb"))
    os.dup2(2, 1)  # what a library prints must not get between the messages
    seconds, memory_mb, parent, tell = pickle.load(sys.stdin.buffer)
    work, args = pickle.load(sys.stdin.buffer)
    ctypes.CDLL(None).prctl(_DEATH_SIGNAL, signal.SIGKILL)
    if parent and os.getppid() != parent:
        return  # the parent was gone before the signal was asked for
    resource.setrlimit(resource.RLIMIT_AS, (memory_mb * 2**20,) * 2)
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) + 1, int(seconds) + 6))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        outbox.send("result", work(*args, **({"progress": outbox.progress} if tell else {})))
    except InputError as e:
        outbox.send("input-error", (e.what, e.where, e.mend))
    except MemoryError:
        outbox.send(
            "input-error",
            ("the video takes too much memory to decode", args[0].name if args else "", MEND),
        )
    except Exception as e:
        if isinstance(e, OSError) and e.errno == errno.ENOSPC:
            # A number of the system's does not cross over; what it means does.
            outbox.send(
                "input-error",
                (
                    "the disk is full",
                    args[0].name if args and hasattr(args[0], "name") else "",
                    "make room on it and try again",
                ),
            )
        else:
            outbox.send("error", repr(e))


if __name__ == "__main__":
    _child()
