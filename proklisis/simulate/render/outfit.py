"""What a simulated rider wears. Colours are linear-ish RGB from 0 to 1."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

Colour = tuple[float, float, float]


@dataclass(frozen=True)
class Outfit:
    """Colours of clothes and gear. Several strong ones help a person, and a tracker, to see limbs."""

    jacket: Colour = (0.75, 0.16, 0.14)
    sleeve: Colour = (0.93, 0.90, 0.84)
    trousers: Colour = (0.10, 0.16, 0.34)
    stripe: Colour = (0.95, 0.75, 0.20)
    helmet: Colour = (0.95, 0.95, 0.97)
    glove: Colour = (0.08, 0.08, 0.09)
    boot: Colour = (0.20, 0.20, 0.22)
    ski: Colour = (0.15, 0.45, 0.75)
    skin: Colour = (0.78, 0.56, 0.44)


_PALETTE: tuple[Colour, ...] = (
    (0.75, 0.16, 0.14), (0.12, 0.42, 0.62), (0.88, 0.55, 0.10), (0.18, 0.48, 0.28),
    (0.48, 0.22, 0.52), (0.85, 0.80, 0.20), (0.16, 0.20, 0.30), (0.80, 0.35, 0.45),
)  # fmt: skip
_SKIN: tuple[Colour, ...] = (
    (0.80, 0.60, 0.48),
    (0.68, 0.47, 0.34),
    (0.46, 0.31, 0.22),
    (0.85, 0.67, 0.56),
)


def outfit(seed: int) -> Outfit:
    """Pick an outfit, the same for the same seed; jacket and trousers never share a colour."""
    rng = np.random.default_rng([seed, 5])
    jacket, trousers, stripe, ski = (_PALETTE[i] for i in rng.permutation(len(_PALETTE))[:4])
    dark = tuple(0.55 * c for c in trousers)
    light = (0.92, 0.90, 0.86) if rng.random() < 0.5 else tuple(0.6 * c + 0.1 for c in jacket)
    return Outfit(
        jacket=jacket, sleeve=light, trousers=dark, stripe=stripe, ski=ski,  # type: ignore[arg-type]
        skin=_SKIN[int(rng.integers(len(_SKIN)))],
    )  # fmt: skip
