"""A frame's number, painted into a corner so that a machine can read it back from a picture.

Two rows of twelve square cells: 1010, sixteen bits of the number, four bits of check sum.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

CELL = 10
ROW, ROWS = 12, 2
SYNC = (1, 0, 1, 0)


def _check(number: int) -> int:
    return (number ^ (number >> 4) ^ (number >> 8) ^ (number >> 12) ^ 0b0110) & 0xF


def paint(picture: NDArray[np.uint8], number: int) -> None:
    """Paint ``number`` (0–65535, higher ones wrap) into the top left corner of an RGB picture."""
    number &= 0xFFFF
    bits = [
        *SYNC,
        *((number >> k) & 1 for k in range(15, -1, -1)),
        *((_check(number) >> k) & 1 for k in range(3, -1, -1)),
    ]
    for i, bit in enumerate(bits):
        y, x = CELL * (i // ROW), CELL * (i % ROW)
        picture[y : y + CELL, x : x + CELL] = 235 if bit else 20


def read(picture: NDArray[np.uint8], scale: float = 1.0) -> int | None:
    """Read the number from an RGB or grey picture drawn at ``scale``; None when there is none."""
    grey = picture.mean(axis=2) if picture.ndim == 3 else picture.astype(float)
    cell, inner = CELL * scale, max(1, round(CELL * scale / 4))
    bits = []
    for i in range(ROW * ROWS):
        y, x = round(cell * (i // ROW + 0.5)), round(cell * (i % ROW + 0.5))
        patch = grey[max(y - inner, 0) : y + inner, max(x - inner, 0) : x + inner]
        if not patch.size:
            return None
        bits.append(int(patch.mean() > 128))
    number = int("".join(map(str, bits[4:20])), 2)
    check = int("".join(map(str, bits[20:])), 2)
    return number if tuple(bits[:4]) == SYNC and check == _check(number) else None
