"""Where the offline body-tracking model is kept; set-up builds it from an npm package."""

from __future__ import annotations

import os
from pathlib import Path

from proklisis.core.errors import InputError

ROOT = Path(__file__).resolve().parents[2]


def pose_model() -> Path:
    """Return the tracker's model file; PROKLISIS_MODELS names another folder than var/models."""
    folder = Path(os.environ.get("PROKLISIS_MODELS", ROOT / "var" / "models"))
    path = folder / "pose_full.task"
    if not path.exists():
        raise InputError(
            "the body-tracking model is not set up", str(path), "run ./start once; it builds it"
        )
    return path
