"""What a printer's process inks can reach."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from farbe.colour.lab import lab_of_light
from farbe.optics.onpaper import light_on_paper

#: Steps of each ink that are looked at.
STEPS = 9


@lru_cache(maxsize=8)
def hull(profile: bytes, total: float = 400.0) -> npt.NDArray[np.float64]:
    """The outline of all colours in the plane of a* and b*, relative to the paper.

    Parameters
    ----------
    profile : CMYK profile, ICC bytes
    total : most process ink in percent

    Returns
    -------
    float64 (n, 2): a* and b* of the corners, anticlockwise.
    """
    levels = np.linspace(0, 255, STEPS)
    grid = np.stack(np.meshgrid(*[levels] * 4, indexing="ij"), axis=-1).reshape(-1, 4)
    inks = np.rint(grid[grid.sum(axis=1) <= total * 2.55 + 1e-6]).astype(np.uint8)
    lab = lab_of_light(light_on_paper(inks[None], profile)[0])
    corners = cv2.convexHull(lab[:, 1:].astype(np.float32))
    return np.asarray(corners.reshape(-1, 2), np.float64)
