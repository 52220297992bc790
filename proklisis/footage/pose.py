"""Follow one person through a clip with the offline pose landmarker."""

from __future__ import annotations

from dataclasses import dataclass, field
from types import TracebackType

import mediapipe as mp
import numpy as np
from numpy.typing import NDArray

from proklisis.core.landmarks import BODY
from proklisis.footage.models import pose_model

Array = NDArray[np.float64]
#: The network's landmark number for each of ours.
NUMBER: dict[str, int] = {
    "nose": 0, "l_ear": 7, "r_ear": 8, "l_shoulder": 11, "r_shoulder": 12, "l_elbow": 13, "r_elbow": 14,
    "l_wrist": 15, "r_wrist": 16, "l_hip": 23, "r_hip": 24, "l_knee": 25, "r_knee": 26,
    "l_ankle": 27, "r_ankle": 28, "l_heel": 29, "r_heel": 30, "l_toe": 31, "r_toe": 32,
}  # fmt: skip
INDEX = [NUMBER[n] for n in BODY]


@dataclass
class PoseTracker:
    """Feed frames in order of time; use as a context manager.

    Detection looks at the whole picture; from then on the network follows the person itself.
    """

    lowest_confidence: float = 0.5
    _task: mp.tasks.vision.PoseLandmarker = field(init=False, repr=False)
    _last_ms: int = field(default=-1, init=False, repr=False)

    def __post_init__(self) -> None:
        vision = mp.tasks.vision
        self._task = vision.PoseLandmarker.create_from_options(
            vision.PoseLandmarkerOptions(
                base_options=mp.tasks.BaseOptions(model_asset_path=str(pose_model())),
                running_mode=vision.RunningMode.VIDEO,
                min_pose_detection_confidence=self.lowest_confidence,
                min_pose_presence_confidence=self.lowest_confidence,
                min_tracking_confidence=self.lowest_confidence,
            )
        )

    def __enter__(self) -> PoseTracker:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self._task.close()

    def follow(self, picture: NDArray[np.uint8], t: float) -> tuple[Array, Array] | None:
        """Return (19, 2) pixels and (19,) visibility 0–1 of the body, or None when nobody is found."""
        h, w = picture.shape[:2]
        # The runtime wants whole, rising milliseconds.
        self._last_ms = max(self._last_ms + 1, round(1000 * t))
        image = mp.Image(image_format=mp.ImageFormat.SRGB, data=np.ascontiguousarray(picture))
        found = self._task.detect_for_video(image, self._last_ms).pose_landmarks
        if not found:
            return None
        points = [found[0][i] for i in INDEX]
        xy = np.array([(p.x * w, p.y * h) for p in points])
        return xy, np.array([p.visibility or 0.0 for p in points])
