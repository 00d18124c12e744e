"""Millimetres to pixels."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from farbe.art.artwork import MM_PER_INCH


@dataclass(frozen=True)
class Grid:
    """Output pixels: dots per inch along x and y."""

    dpi_x: float
    dpi_y: float

    @property
    def per_mm_x(self) -> float:
        """Pixels to a millimetre."""
        return self.dpi_x / MM_PER_INCH

    @property
    def per_mm_y(self) -> float:
        """Pixels to a millimetre."""
        return self.dpi_y / MM_PER_INCH

    def size(self, width: float, height: float) -> tuple[int, int]:
        """Whole pixels (x, y) nearest to a size in mm, at least one each.

        Parameters
        ----------
        width, height : mm

        Returns
        -------
        Columns and rows, 1 at the least.
        """
        return max(1, round(width * self.per_mm_x)), max(1, round(height * self.per_mm_y))


@lru_cache(maxsize=256)
def disc(radius: float, grid: Grid) -> npt.NDArray[np.uint8]:
    """A disc of mm as a kernel, at least a pixel.

    Parameters
    ----------
    radius : mm, 0 or more
    grid : pixels to the inch along either axis

    Returns
    -------
    uint8 (2 ry + 1, 2 rx + 1), 1 in the disc, its radii ``rx`` and ``ry`` in pixels.
    """
    rx, ry = math.floor(radius * grid.per_mm_x + 1e-9), math.floor(radius * grid.per_mm_y + 1e-9)
    dy, dx = np.ogrid[-ry : ry + 1, -rx : rx + 1]
    far = np.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)
    return np.asarray(far <= radius + 1e-9, np.uint8)


def pixel_side(grid: Grid) -> float:
    """Side in mm of a square as large as a pixel.

    Parameters
    ----------
    grid : pixels to the inch along either axis
    """
    return 1.0 / math.sqrt(grid.per_mm_x * grid.per_mm_y)


def pixel_length(grid: Grid) -> float:
    """The longer side of a pixel in mm.

    Parameters
    ----------
    grid : resolution
    """
    return max(1.0 / grid.per_mm_x, 1.0 / grid.per_mm_y)


def pixels_in(far: float, grid: Grid) -> tuple[int, int]:
    """Columns and rows in which so many mm lie, wherever they begin.

    Parameters
    ----------
    far : mm
    grid : pixels to the inch along either axis

    Returns
    -------
    Whole pixels (x, y).
    """
    return math.ceil(far * grid.per_mm_x) + 1, math.ceil(far * grid.per_mm_y) + 1
