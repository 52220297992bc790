"""Which code and playbooks a result was worked out by."""

from __future__ import annotations

from functools import cache
from hashlib import sha256
from pathlib import Path

import proklisis

#: What a result hangs on besides its run.
SOURCES = (
    "core/**/*.py",
    "playbooks/*.yaml",
    "web/analysis/payload.py",
    "web/analysis/reviewing.py",
    "web/clips/portrait.py",
)


@cache
def version() -> str:
    """Sixteen letters that change whenever code or a playbook does that results are worked out by."""
    root, digest = Path(proklisis.__file__).parent, sha256()
    for path in sorted(p for pattern in SOURCES for p in root.glob(pattern)):
        digest.update(path.relative_to(root).as_posix().encode() + path.read_bytes())
    return digest.hexdigest()[:16]
