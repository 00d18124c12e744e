"""Make the tile of blue noise by void and cluster.

Ulichney, "The void-and-cluster method for dither array generation", Proc. SPIE 1913, 1993.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

SIDE, SIGMA = 128, 1.9
OUT = Path(__file__).parents[1] / "src" / "farbe" / "data" / "blue-noise.bin"


def kernel() -> np.ndarray:
    """A Gaussian around (0, 0) on a torus."""
    far = np.minimum(np.arange(SIDE), SIDE - np.arange(SIDE))
    return np.exp(-(far[:, None] ** 2 + far[None, :] ** 2) / (2 * SIGMA**2))


def main() -> None:
    rng = np.random.default_rng(7)
    spread = kernel()

    def around(place: int) -> np.ndarray:
        return np.roll(spread, divmod(place, SIDE), axis=(0, 1)).ravel()

    count = SIDE * SIDE // 10
    pattern = np.zeros(SIDE * SIDE, bool)
    pattern[rng.choice(SIDE * SIDE, count, replace=False)] = True
    energy = sum(around(place) for place in np.flatnonzero(pattern))
    while True:
        cluster = int(np.argmax(np.where(pattern, energy, -np.inf)))
        pattern[cluster] = False
        energy = energy - around(cluster)
        void = int(np.argmin(np.where(pattern, np.inf, energy)))
        pattern[void] = True
        energy = energy + around(void)
        if void == cluster:
            break
    ranks = np.zeros(SIDE * SIDE, int)
    rest, left = pattern.copy(), energy.copy()
    for rank in range(count - 1, -1, -1):
        cluster = int(np.argmax(np.where(rest, left, -np.inf)))
        rest[cluster], ranks[cluster] = False, rank
        left = left - around(cluster)
    for rank in range(count, SIDE * SIDE):
        void = int(np.argmin(np.where(pattern, np.inf, energy)))
        pattern[void], ranks[void] = True, rank
        energy = energy + around(void)
    levels = (ranks * 255 // (SIDE * SIDE)).astype(np.uint8)
    OUT.write_bytes(levels.tobytes())


if __name__ == "__main__":
    main()
