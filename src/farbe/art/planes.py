"""Planes of a drawing, and how fine they are."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from farbe.model.base import BadInput
from farbe.said import say

Plane = npt.NDArray[np.uint8]
#: Resolution of drawings, and the most pixels that they get; larger ones are made coarser.
DPI, MAX_PIXELS = 600.0, 90_000_000
LEAST_DPI = 36.0


def resolution(width: float, height: float) -> float:
    """Dots per inch for a drawing of so many mm.

    Parameters
    ----------
    width, height : mm

    Raises
    ------
    BadInput
        If it is so large that it would be too coarse to print.
    """
    pixels = width * height * (DPI / 25.4) ** 2
    found = DPI * min(1.0, math.sqrt(MAX_PIXELS / max(pixels, 1.0)))
    if found < LEAST_DPI:
        raise BadInput(
            say(
                "The drawing is {width} × {height} mm, too large to be read whole.",
                width=f"{width:.0f}",
                height=f"{height:.0f}",
            )
        )
    return found
