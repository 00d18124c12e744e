"""Clustered dots in place of tones: the thresholds of a screen that runs through all levels."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import numpy.typing as npt

Thresholds = npt.NDArray[np.uint8]


@lru_cache(maxsize=1)
def _wave_levels() -> npt.NDArray[np.float32]:
    """The values of the spot function below which 0, 1/255, ... of its cell lie."""
    side = (np.arange(512) + 0.5) / 512 - 0.5
    wave = np.cos(2 * np.pi * side)[:, None] + np.cos(2 * np.pi * side)[None, :]
    found = np.quantile(wave, 1 - np.arange(256) / 255)
    return np.asarray(found, np.float32)


def round_thresholds(
    x: npt.NDArray[np.float32], y: npt.NDArray[np.float32], per_mm: float, degrees: float
) -> Thresholds:
    """Thresholds of a clustered screen with the spot function cos 2πu + cos 2πv.

    They are its ranks, so that the area that is solid where coverage is above them is the
    coverage (Ulichney, "Digital Halftoning", 1987).

    Parameters
    ----------
    x, y : places in mm, float32, of shapes that go together
    per_mm : lines a millimetre
    degrees : angle of the screen

    Returns
    -------
    uint8, 0 to 254, of the shape of ``x`` and ``y`` together
    """
    c, s = (np.float32(f(math.radians(degrees))) for f in (math.cos, math.sin))
    turn = np.float32(2 * np.pi * per_mm)
    wave = np.cos((x * c + y * s) * turn) + np.cos((y * c - x * s) * turn)
    levels = _wave_levels()
    found = len(levels) - np.searchsorted(levels[::-1], wave.ravel(), side="left")
    return np.asarray(np.clip(found, 0, 254).reshape(wave.shape), np.uint8)
