"""Keep a native library's chatter off standard error, where users look for our one sentence."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def quiet() -> Iterator[None]:
    """Send file descriptor 2 to nowhere while the block runs; errors still raise as exceptions."""
    sys.stderr.flush()
    try:
        kept = os.dup(2)
    except OSError:  # no standard error at all: nothing to keep quiet
        yield
        return
    nowhere = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)
