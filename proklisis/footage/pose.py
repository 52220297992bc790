"""Follow one person through a clip with the offline pose landmarker."""

from __future__ import annotations

from dataclasses import dataclass, field
from types import TracebackType

import mediapipe as mp
import numpy as np
from numpy.typing import NDArray

from proklisis.core.tracks.landmarks import BODY
from proklisis.footage.models import pose_model
from proklisis.footage.quiet import quiet

Array = NDArray[np.float64]
#: The network's landmark number for each of ours.
NUMBER: dict[str, int] = {
    "nose": 0, "l_ear": 7, "r_ear": 8, "l_shoulder": 11, "r_shoulder": 12, "l_elbow": 13, "r_elbow": 14,
    "l_wrist": 15, "r_wrist": 16, "l_hip": 23, "r_hip": 24, "l_knee": 25, "r_knee": 26,
    "l_ankle": 27, "r_ankle": 28, "l_heel": 29, "r_heel": 30, "l_toe": 31, "r_toe": 32,
}  # fmt: skip
#: Where somebody was a moment ago, less assurance does than in a whole picture.
LOOK_CONFIDENCE = 0.3
INDEX = [NUMBER[n] for n in BODY]


@dataclass
class PoseTracker:
    """Feed frames in order of time; use as a context manager.

    Detection looks at the whole picture; from then on the network follows the person itself.
    Where it has lost them, :meth:`look` searches a window again and :meth:`restart` lets go.
    """

    lowest_confidence: float = 0.5
    #: (19,) how far each point of the last find lies behind the middle of the hips, pixels, as the network has it.
    depth: Array = field(default_factory=lambda: np.full(len(BODY), np.nan), repr=False)
    _task: mp.tasks.vision.PoseLandmarker = field(init=False, repr=False)
    _still: mp.tasks.vision.PoseLandmarker | None = field(default=None, init=False, repr=False)
    _last_ms: int = field(default=0, init=False, repr=False)

    def __post_init__(self) -> None:
        self._task = _open(mp.tasks.vision.RunningMode.VIDEO, self.lowest_confidence)

    def __enter__(self) -> PoseTracker:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._task.close()
        if self._still is not None:
            self._still.close()

    def follow(self, picture: NDArray[np.uint8], t: float) -> Array | None:
        """Return the body's (19, 2) pixels in the next frame, or None when nobody is found."""
        # The runtime wants whole, rising milliseconds.
        self._last_ms = max(self._last_ms + 1, round(1000 * t))
        return self._taken(self._task.detect_for_video(_image(picture), self._last_ms), picture)

    def look(self, picture: NDArray[np.uint8], centre: Array, half: float) -> Array | None:
        """Search the square ``centre`` ± ``half`` pixels of one picture, enlarged; (19, 2) pixels or None."""
        h, w = picture.shape[:2]
        x0, y0 = (int(max(0.0, c - half)) for c in centre)
        x1, y1 = int(min(w, centre[0] + half)), int(min(h, centre[1] + half))
        if x1 - x0 < 32 or y1 - y0 < 32:
            return None
        if self._still is None:
            self._still = _open(mp.tasks.vision.RunningMode.IMAGE, LOOK_CONFIDENCE)
        window = picture[y0:y1, x0:x1]
        found = self._taken(self._still.detect(_image(window)), window)
        return None if found is None else found + [x0, y0]

    def _taken(
        self, result: mp.tasks.vision.PoseLandmarkerResult, picture: NDArray[np.uint8]
    ) -> Array | None:
        found = _pixels(result, picture)
        if not found:
            return None
        self.depth = _depth(result.pose_world_landmarks[0], found[0])
        return found[0]

    def restart(self) -> None:
        """Forget where the person was: the next frame is searched as a whole."""
        self._task.close()
        self._task = _open(mp.tasks.vision.RunningMode.VIDEO, self.lowest_confidence)
        self._last_ms = 0


@dataclass
class PoseFinder:
    """Find everybody in single pictures; use as a context manager."""

    most: int = 4
    lowest_confidence: float = 0.5
    _task: mp.tasks.vision.PoseLandmarker = field(init=False, repr=False)

    def __enter__(self) -> PoseFinder:
        self._task = _open(mp.tasks.vision.RunningMode.IMAGE, self.lowest_confidence, self.most)
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._task.close()

    def find(self, picture: NDArray[np.uint8]) -> list[Array]:
        """The (19, 2) pixels of each person whom the whole picture shows, in no order."""
        return _pixels(self._task.detect(_image(picture)), picture)

    def find_small(self, picture: NDArray[np.uint8]) -> list[Array]:
        """Those whom its parts show: the detector sees a picture at 224 pixels, in which a far rider is too small."""
        found: list[Array] = []
        h, w = picture.shape[:2]
        side = round(0.6 * min(h, w))
        for y0 in np.linspace(0, h - side, 2, dtype=int):
            for x0 in np.linspace(0, w - side, 3, dtype=int):
                found += self.find_near(picture, np.array([x0, y0]) + side / 2, side / 2)
        return found

    def find_near(self, picture: NDArray[np.uint8], centre: Array, half: float) -> list[Array]:
        """Those in the square ``centre`` ± ``half`` pixels."""
        h, w = picture.shape[:2]
        x0, y0 = (int(max(0.0, c - half)) for c in centre)
        x1, y1 = int(min(w, centre[0] + half)), int(min(h, centre[1] + half))
        if x1 - x0 < 32 or y1 - y0 < 32:
            return []
        part = picture[y0:y1, x0:x1]
        return [f + [x0, y0] for f in _pixels(self._task.detect(_image(part)), part)]


def _open(
    mode: mp.tasks.vision.RunningMode, confidence: float, poses: int = 1
) -> mp.tasks.vision.PoseLandmarker:
    options = mp.tasks.vision.PoseLandmarkerOptions(
        base_options=mp.tasks.BaseOptions(model_asset_path=str(pose_model())), running_mode=mode, num_poses=poses,
        min_pose_detection_confidence=confidence, min_pose_presence_confidence=confidence, min_tracking_confidence=confidence,
    )  # fmt: skip
    blank = _image(np.zeros((64, 64, 3), np.uint8))
    with quiet():
        task = mp.tasks.vision.PoseLandmarker.create_from_options(options)
        # The runtime has its say with the first picture, and starts its clock there.
        if mode == mp.tasks.vision.RunningMode.VIDEO:
            task.detect_for_video(blank, 0)
        else:
            task.detect(blank)
    return task


def _image(picture: NDArray[np.uint8]) -> mp.Image:
    return mp.Image(image_format=mp.ImageFormat.SRGB, data=np.ascontiguousarray(picture))


def _depth(world: list[mp.tasks.components.containers.Landmark], xy: Array) -> Array:
    """(19,) pixels behind the middle of the hips, from the network's metres brought to the picture's scale."""
    metres = np.array([(world[i].x, world[i].y, world[i].z) for i in INDEX])
    flat, seen = metres[:, :2] - metres[:, :2].mean(axis=0), xy - xy.mean(axis=0)
    scale = float((flat * seen).sum() / max((flat**2).sum(), 1e-9))
    hips = [BODY.index("l_hip"), BODY.index("r_hip")]
    return np.asarray(scale * (metres[:, 2] - metres[hips, 2].mean()))


def _pixels(
    result: mp.tasks.vision.PoseLandmarkerResult, picture: NDArray[np.uint8]
) -> list[Array]:
    h, w = picture.shape[:2]
    return [
        np.array([(pose[i].x * w, pose[i].y * h) for i in INDEX]) for pose in result.pose_landmarks
    ]
