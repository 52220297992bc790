"""Run a function on a stranger's file in a process of its own, with limits of time and memory.

A damaged or hostile video can make a decoder hang, eat the memory or crash. None of that may reach
the worker: the child dies instead, and the coach gets one sentence.
"""

from __future__ import annotations

import ctypes
import os
import pickle
import resource
import select
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from typing import Any, BinaryIO

from proklisis.core.errors import InputError

MEMORY_MB = 4096  # address space, of which a decoder reserves far more than it uses
MEND = "export it again as MP4 from the camera's own program"
_DEATH_SIGNAL = 1  # PR_SET_PDEATHSIG of prctl(2)


def limited(
    work: Callable[..., Any], *args: Any, name: str, seconds: float, silence_s: float = 60.0, memory_mb: int = MEMORY_MB,
    progress: Callable[..., None] | None = None,
) -> Any:  # fmt: skip
    """Return ``work(*args)`` from a child process.

    Parameters
    ----------
    work : a function of a module; it is given ``progress=`` when ``progress`` is
    name : what errors call the file
    seconds : CPU time of the child; and silence_s the longest wall time without word from it
    progress : called with what the child's ``progress`` is called with; may raise to stop the work

    Raises
    ------
    InputError : of ``work`` itself, or that the file cannot be decoded within the limits
    """
    # Started anew and not forked: a fork would share the server's sockets and threads.
    with subprocess.Popen([sys.executable, "-m", __name__], stdin=subprocess.PIPE, stdout=subprocess.PIPE) as child:
        assert child.stdin is not None and child.stdout is not None
        try:
            pickle.dump((seconds, memory_mb, os.getpid(), work, args, progress is not None), child.stdin)
            child.stdin.close()
            while True:
                kind, value = _next(child, name, silence_s)
                if kind == "progress" and progress:
                    progress(*value)
                elif kind == "result":
                    return value
                elif kind == "input-error":
                    raise InputError(*value)
                elif kind == "error":
                    raise value
        finally:
            child.kill()


def _next(child: subprocess.Popen[bytes], name: str, silence_s: float) -> tuple[str, Any]:
    out = child.stdout
    assert out is not None
    if not select.select([out], [], [], silence_s)[0]:
        raise InputError(f"the video decoder is stuck; nothing came of it in {silence_s:.0f} s", name, MEND)
    try:
        message: tuple[str, Any] = pickle.load(out)
        return message
    except (EOFError, pickle.UnpicklingError):
        code = child.wait()
        how = {-signal.SIGXCPU: "takes too long to decode", -signal.SIGKILL: "takes too long or too much memory to decode"}
        raise InputError(f"the video {how.get(code, 'makes the decoder fail')}", name, MEND) from None


class _Outbox:
    """Messages to the parent; progress is passed on a few times a second at most."""

    def __init__(self, out: BinaryIO) -> None:
        self.out, self.last = out, 0.0

    def send(self, kind: str, value: Any) -> None:
        pickle.dump((kind, value), self.out)
        self.out.flush()

    def progress(self, *value: Any) -> None:
        if time.monotonic() - self.last > 0.2:
            self.last = time.monotonic()
            self.send("progress", value)


def _child() -> None:
    outbox = _Outbox(os.fdopen(os.dup(1), "wb"))
    os.dup2(2, 1)  # what a library prints must not get between the messages
    seconds, memory_mb, parent, work, args, tell = pickle.load(sys.stdin.buffer)
    ctypes.CDLL(None).prctl(_DEATH_SIGNAL, signal.SIGKILL)
    if os.getppid() != parent:
        return  # the parent was gone before the signal was asked for
    resource.setrlimit(resource.RLIMIT_AS, (memory_mb * 2**20,) * 2)
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) + 1, int(seconds) + 6))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        outbox.send("result", work(*args, **({"progress": outbox.progress} if tell else {})))
    except InputError as e:
        outbox.send("input-error", (e.what, e.where, e.mend))
    except MemoryError:
        outbox.send("input-error", ("the video takes too much memory to decode", args[0].name if args else "", MEND))
    except Exception as e:
        try:
            outbox.send("error", e)
        except Exception:
            outbox.send("error", RuntimeError(repr(e)))


if __name__ == "__main__":
    _child()
