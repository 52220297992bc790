"""Lines, numbers and words drawn on a picture: by one hand for stills, films of pairs and told films."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from proklisis.core.shapes.telling import Mark

Picture = NDArray[np.uint8]
Colour = tuple[int, int, int]
#: Colours, RGB; the coach's own is neither side's.
PAPER: Colour = (255, 255, 255)
INK: Colour = (23, 32, 42)
TONES: dict[str, Colour] = {"measure": (255, 225, 77), "coach": (132, 232, 168), "ghost": PAPER}
#: A font with every letter that a name has; Debian's package fonts-dejavu-core.
FONT = Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
#: Thickness of a line at a picture 720 pixels tall; all else goes with the picture's height.
LINE_PX, TALL = 4.0, 720


@cache
def font(size: int) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    """The font of all words on pictures, ``size`` pixels tall; one that knows fewer letters where it is not installed."""
    if FONT.exists():
        return ImageFont.truetype(str(FONT), size)
    return ImageFont.load_default(size=size)


def draw(picture: Picture, marks: Sequence[Mark], scale: float = 1.0, move: Sequence[float] = (0.0, 0.0)) -> Picture:  # fmt: skip
    """A copy of an (h, w, 3) RGB picture with shapes on it.

    ``marks`` are in pixels of the clip; a point p stands at ``scale`` · p + ``move`` of the picture.
    """
    out = picture.copy()
    unit = max(out.shape[0] / TALL, 0.4)
    said: list[tuple[str, NDArray[np.float64] | None, str]] = []
    for m in marks:
        points = np.asarray(m["points"], float).reshape(-1, 2) * scale + np.asarray(move, float)
        _shape(out, m["kind"], points, TONES[m["tone"]], unit)
        if m["words"]:
            said.append((m["words"], points if len(points) else None, m["kind"]))
    return _labelled(out, said, unit) if said else out


def _shape(
    out: Picture, kind: str, points: NDArray[np.float64], colour: Colour, unit: float
) -> None:
    if kind == "text" or not len(points):
        return
    thin, thick = max(1, round(LINE_PX * unit)), max(3, round(2.2 * LINE_PX * unit))
    at = points.round().astype(np.int32)
    for shade, width in ((INK, thick), (colour, thin)):
        if kind == "circle" and len(at) > 1:
            radius = round(float(np.linalg.norm(points[1] - points[0])))
            cv2.circle(out, tuple(map(int, at[0])), max(radius, 2), shade, width, cv2.LINE_AA)
            continue
        cv2.polylines(out, [at.reshape(-1, 1, 2)], False, shade, width, cv2.LINE_AA)
        if kind == "arrow" and len(points) > 1:
            for wing in _wings(points[-2], points[-1], 7 * LINE_PX * unit):
                cv2.line(out, tuple(map(int, at[-1])), wing, shade, width, cv2.LINE_AA)


def _wings(a: NDArray[np.float64], b: NDArray[np.float64], size: float) -> list[tuple[int, int]]:
    back = math.atan2(*(a - b)[::-1])
    return [
        (round(b[0] + size * math.cos(back + k)), round(b[1] + size * math.sin(back + k)))
        for k in (-0.45, 0.45)
    ]


@cache
def _label(words: str, size: int, pad: int) -> Picture:
    """Words on a dark plate, (h, w, 3) RGB."""
    left, top, right, bottom = font(size).getbbox(words)
    plate = Image.new("RGB", (round(right - left) + 2 * pad, round(bottom - top) + 2 * pad), INK)
    ImageDraw.Draw(plate).text((pad - left, pad - top), words, fill=TONES["measure"], font=font(size))  # fmt: skip
    return np.array(plate, np.uint8)


def _labelled(
    out: Picture, said: Sequence[tuple[str, NDArray[np.float64] | None, str]], unit: float
) -> Picture:
    size, pad = max(12, round(26 * unit)), round(8 * unit)
    for words, points, kind in said:
        plate = _label(words, size, pad)[: out.shape[0], : out.shape[1]]
        h, w = plate.shape[:2]
        right, below = out.shape[1] - w, out.shape[0] - h
        if points is None:
            x, y = right, 0
        else:
            at = points[0] if kind == "text" else points[len(points) // 2]
            # Beside what it belongs to, and on the picture.
            x, y = (round(float(v)) for v in np.clip(at + [2 * pad, -h / 2], 0, [right, below]))
        out[y : y + h, x : x + w] = plate
    return out


def labelled(picture: Picture, words: str) -> Picture:
    """A copy of a picture with words on a dark plate at its upper left corner."""
    unit = max(picture.shape[0] / TALL, 0.4)
    size, pad = max(12, round(22 * unit)), round(7 * unit)
    fits = [
        n
        for n in range(len(words), 0, -1)
        if font(size).getlength(words[:n]) < picture.shape[1] - 4 * pad
    ]
    plate = _label(words[: fits[0]] if fits else "", size, pad)
    out = picture.copy()
    h, w = min(plate.shape[0], out.shape[0]), min(plate.shape[1], out.shape[1])
    out[:h, :w] = plate[:h, :w]
    return out


def wrapped(words: str, size: int, width: int) -> list[str]:
    """Words in lines no wider than ``width`` pixels."""
    face, lines = font(size), [""]
    for word in words.split():
        longer = f"{lines[-1]} {word}".strip()
        if lines[-1] and face.getlength(longer) > width:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines


@cache
def _card(title: str, lines: tuple[str, ...], width: int, unit: float) -> Picture:
    """Words as light letters on a dark card of a width, (h, w, 3) RGB."""
    big, small, pad = round(34 * unit), round(25 * unit), round(22 * unit)
    rows = [(row, big) for row in (wrapped(title, big, width - 2 * pad) if title else [])]
    rows += [(row, small) for line in lines for row in wrapped(line, small, width - 2 * pad)]
    tall = sum(round(1.35 * size) for _, size in rows) + 2 * pad
    card = Image.new("RGB", (width, tall), INK)
    pen, y = ImageDraw.Draw(card), pad
    for row, size in rows:
        pen.text((pad, y), row, fill=PAPER, font=font(size))
        y += round(1.35 * size)
    return np.array(card, np.uint8)


def panel(picture: Picture, title: str, lines: Sequence[str], below: bool = False) -> Picture:
    """A copy of a picture with a card of words over its middle, or a strip of them at its lower edge."""
    h, w = picture.shape[:2]
    unit = max(h / TALL, 0.4)
    edge = 0 if below else round(44 * unit)
    card = _card(title, tuple(lines), w - 2 * edge, unit)[:h]
    y = h - len(card) if below else max(0, (h - len(card)) // 2)
    out = picture.copy()
    under = out[y : y + len(card), edge : edge + card.shape[1]]
    # What is under a card shines through a little.
    under[:] = cv2.addWeighted(card, 0.88, under, 0.12, 0)
    return out


def inset(picture: Picture, other: Picture) -> Picture:
    """A copy of a picture with another one over its middle, as large as leaves a rim."""
    h, w = picture.shape[:2]
    scale = min(0.86 * w / other.shape[1], 0.72 * h / other.shape[0])
    size = max(2, round(other.shape[1] * scale)), max(2, round(other.shape[0] * scale))
    how = cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC
    small = cv2.resize(other, size, interpolation=how)
    out = (picture * 0.35).astype(np.uint8)
    x, y = (w - size[0]) // 2, round(0.04 * h)
    out[y : y + size[1], x : x + size[0]] = small
    return out
