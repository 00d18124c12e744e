"""Strokes that are too thin for an ink, and gaps that are too narrow."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.separate.spare import disc, pixel_side, stroke_widths
from farbe.survey.cells import Figures

#: A stroke's coverage differs from what is beside it by at least so much, 0 to 255.
STARK = 128
#: A stroke is so many times longer than wide, as seen in a window of twice so many least widths.
LONG, SLENDER = 3.0, 2.5
#: The narrowest stroke, in pixels, that can stand out so much.
NARROWEST = 0.7
#: Columns that are looked at together.
SPAN = 256


def strokes_reach(least: float, grid: Grid) -> tuple[int, int]:
    """Pixels (x, y) beyond which :func:`thin_strokes` sees nothing that matters.

    Parameters
    ----------
    least : width in mm
    grid : resolution

    Returns
    -------
    Columns and rows, 0 or more.
    """
    if least <= 0:
        return 0, 0
    far = (LONG + 2.0) * least + 4 * pixel_side(grid)
    return math.ceil(far * grid.per_mm_x) + 2, math.ceil(far * grid.per_mm_y) + 2


@dataclass(frozen=True, eq=False)
class Thin:
    """Pixels of thin strokes from a column on: bool (h, w), and the width in mm of each one's."""

    left: int
    mask: npt.NDArray[np.bool_]
    widths: Figures


def thin_strokes(plate: Plate, least: float, grid: Grid) -> Iterator[Thin]:
    """Strokes of a plate that are thinner than ``least`` mm, part by part.

    Parameters
    ----------
    plate : coverage, uint8 (h, w)
    least : width in mm; 0 finds nothing
    grid : resolution

    Yields
    ------
    Parts of the width of a plate in which there is any; they do not overlap.
    """
    if least <= 0:
        return
    rx = strokes_reach(least, grid)[0]
    radius = least / 2 + max(1.0 / grid.per_mm_x, 1.0 / grid.per_mm_y)
    darkest = np.asarray(cv2.reduce(plate, 0, cv2.REDUCE_MAX))[0]
    lightest = np.asarray(cv2.reduce(plate, 0, cv2.REDUCE_MIN))[0]
    width = plate.shape[1]
    for left in range(0, width, SPAN):
        right = min(width, left + SPAN)
        near = slice(max(0, left - rx), min(width, right + rx))
        # Nothing stands out where the plate is even.
        if int(darkest[near].max()) - int(lightest[near].min()) < STARK:
            continue
        part = np.ascontiguousarray(plate[:, near])
        opened = cv2.morphologyEx(part, cv2.MORPH_OPEN, disc(radius, grid), borderValue=(255,))
        stark = np.asarray(cv2.subtract(part, opened)) >= STARK
        if not stark[:, left - near.start : right - near.start].any():
            continue
        found = _strokes(part, stark, least, grid)
        core = slice(left - near.start, right - near.start)
        if found is not None and found[0][:, core].any():
            yield Thin(left, found[0][:, core], found[1][:, core])


def _strokes(
    part: Plate, stark: npt.NDArray[np.bool_], least: float, grid: Grid
) -> tuple[npt.NDArray[np.bool_], Figures] | None:
    """Those of the stark pixels that belong to strokes, and the widths of these."""
    wide = stroke_widths(part, least, grid)
    wide[~stark] = -1.0
    # A stroke is as wide as its middle line near by is high above both edges.
    near = np.asarray(cv2.dilate(wide, disc(least, grid)), np.float32)
    near = np.maximum(near, np.float32(NARROWEST * pixel_side(grid)))
    side = 2 * LONG * least
    window = (2 * round(side * grid.per_mm_x / 2) + 1, 2 * round(side * grid.per_mm_y / 2) + 1)
    count = cv2.boxFilter(
        stark.astype(np.float32), -1, window, normalize=False, borderType=cv2.BORDER_CONSTANT
    )
    # Specks are about as long as they are wide.
    long_ = np.asarray(count) * pixel_side(grid) ** 2 >= SLENDER * np.maximum(near, least / 2) ** 2
    thin = stark & long_ & (near < least - 0.25 * pixel_side(grid))
    return (thin, near) if thin.any() else None
