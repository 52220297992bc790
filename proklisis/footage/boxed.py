"""A box for what decodes strangers' files: it sees the programs, the files it was given and nothing else, and reaches no network.

Made by bubblewrap, where the system has it and lets it; elsewhere decoders run as the worker does, which is said once.
``PROKLISIS_BOX`` may be ``0`` (never) or ``1`` (refuse to decode without).
"""

from __future__ import annotations

import functools
import io
import logging
import os
import pickle
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Any

log = logging.getLogger(__name__)
#: What of the system a decoder reads: programs and libraries, fonts, and how many cores there are.
SYSTEM = (
    "/usr", "/bin", "/lib", "/lib64", "/etc/ld.so.cache", "/etc/fonts", "/etc/alternatives", "/etc/localtime",
    "/sys/devices/system/cpu",
)  # fmt: skip
#: Variables that may cross: none of them is a secret.
VARIABLES = ("PATH", "LANG", "TZ", "VIRTUAL_ENV", "PROKLISIS_MODELS")
VARIABLES_OF = ("LC_", "LIBGL_", "EGL_", "MESA_", "OMP_", "OPENBLAS_", "PYTHON", "GLOG_", "TF_")
ALONE = ("bwrap", "--unshare-all", "--die-with-parent", "--new-session", "--proc", "/proc", "--dev", "/dev")  # fmt: skip


def surroundings() -> dict[str, str]:
    """The variables that a decoder is given: neither passwords nor keys."""
    kept = {k: v for k, v in os.environ.items() if k in VARIABLES or k.startswith(VARIABLES_OF)}
    return {**kept, "HOME": "/tmp"}


@functools.cache
def has_box() -> bool:
    """Whether decoders are put into a box here; RuntimeError where they must be and cannot."""
    wanted = os.environ.get("PROKLISIS_BOX", "")
    if wanted == "0":
        return False
    try:
        tried = subprocess.run(
            [*ALONE, *_seen(SYSTEM), "/bin/true"], capture_output=True, timeout=20, check=False
        )
        why = tried.stderr.decode(errors="replace").strip() or "it cannot be made"
        why = why if tried.returncode else ""
    except (OSError, subprocess.TimeoutExpired) as e:
        why = str(e)
    if not why:
        return True
    if wanted == "1":
        raise RuntimeError(f"PROKLISIS_BOX=1, and there is no box here: {why}")
    log.warning("decoders run without a box of their own here: %s", why)
    return False


def box(work: Any, paths: Iterable[Path]) -> list[str]:
    """What to put before a command that runs ``work`` on these paths: files are seen, and folders, or what is not there
    yet, are written to. Empty where there is no box."""
    if not has_box():
        return []
    home = Path(__file__).resolve().parents[2]
    code = [home / "proklisis", *_home_of(work)]
    models = os.environ.get("PROKLISIS_MODELS")
    seen = [*SYSTEM, sys.prefix, sys.base_prefix, *code, *([models] if models else [])]
    out = [*ALONE, "--tmpfs", "/tmp", *_seen(map(str, seen))]
    # Folders first: a film that lies in one stays as it is.
    for path in sorted({Path(p).absolute() for p in paths}, key=lambda p: (p.is_file(), str(p))):
        if path.is_file():
            out += ["--ro-bind", str(path), str(path)]
        else:
            folder = str(path if path.is_dir() else path.parent)
            out += ["--bind-try", folder, folder]
    return [*out, "--chdir", str(home), "--"]


class Noticing(pickle.Pickler):
    """A pickler that notices every path that goes by."""

    def __init__(self, out: io.BytesIO) -> None:
        super().__init__(out)
        self.paths: list[Path] = []

    def reducer_override(self, obj: Any) -> Any:
        if isinstance(obj, Path):
            self.paths.append(obj)
        return NotImplemented


def _seen(paths: Iterable[str]) -> list[str]:
    out = []
    for path in paths:
        if os.path.islink(path):
            out += ["--symlink", os.readlink(path), path]
        else:
            out += ["--ro-bind-try", path, path]
    return out


def _home_of(work: Any) -> list[Path]:
    """Where the code of a function lies, its package whole."""
    top = sys.modules[work.__module__.partition(".")[0]]
    if hasattr(top, "__path__"):
        return [Path(p).resolve() for p in top.__path__]
    return [Path(top.__file__).resolve()] if top.__file__ else []
