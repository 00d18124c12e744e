"""Strokes that are too thin for an ink, and gaps that are too narrow."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from farbe.separate.blocks import even_parts
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid, disc, pixel_side
from farbe.separate.middle import stroke_widths
from farbe.survey.cells import Figures

#: Rows and columns that are looked at together, about; what they need stays in the processor's
#: memory.
BLOCK = 448
#: A stroke's coverage differs from what is beside it by at least so much, 0 to 255.
STARK = 128
#: A stroke is so many times longer than wide, as seen in a window of twice so many least widths.
LONG, SLENDER = 3.0, 2.5
#: The narrowest stroke, in pixels, that can stand out so much.
NARROWEST = 0.7


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
    """Pixels of thin strokes from a row and column on: bool (h, w); the width in mm of each."""

    top: int
    left: int
    mask: npt.NDArray[np.bool_]
    widths: Figures


def thin_strokes(plate: Plate, least: float, grid: Grid, *, around: int = 0) -> Iterator[Thin]:
    """Strokes of a plate that are thinner than ``least`` mm, part by part.

    Parameters
    ----------
    plate : coverage, uint8 (h, w)
    least : width in mm; 0 finds nothing
    grid : resolution
    around : rows at either end that are looked at and not told of

    Yields
    ------
    Parts of a plate in which there is any; they do not overlap.
    """
    if least <= 0:
        return
    rx, ry = strokes_reach(least, grid)
    kernel = disc(_radius(least, grid), grid)
    # Nothing farther away than it reaches is seen.
    skipped = max(0, around - ry)
    plate = plate[skipped : len(plate) - skipped]
    first = around - skipped
    darkest, lightest = plate.max(axis=0), plate.min(axis=0)
    high, width = plate.shape
    for left, right in even_parts(0, width, BLOCK):
        near = slice(max(0, left - rx), min(width, right + rx))
        # Nothing stands out where the plate is even.
        if int(darkest[near].max()) - int(lightest[near].min()) < STARK:
            continue
        part = np.ascontiguousarray(plate[:, near])
        opened = cv2.morphologyEx(part, cv2.MORPH_OPEN, kernel, borderValue=(255,))
        stark = np.asarray(cv2.subtract(part, opened)) >= STARK
        core = slice(left - near.start, right - near.start)
        for top, bottom in even_parts(first, high - first, BLOCK):
            if not cv2.hasNonZero(stark.view(np.uint8)[top:bottom, core]):
                continue
            rows = slice(max(0, top - ry), min(high, bottom + ry))
            found = _strokes(part[rows], stark[rows], least, grid)
            if found is not None:
                inside = slice(top - rows.start, bottom - rows.start)
                mask, widths = found[0][inside, core], found[1][inside, core]
                if mask.any():
                    yield Thin(skipped + top, left, mask, widths)


def _radius(least: float, grid: Grid) -> float:
    """Of a disc that just does not fit into strokes of ``least`` mm, in mm."""
    return max(
        math.ceil((least * per_mm - 1.0) / 2 - 1e-9) / per_mm
        for per_mm in (grid.per_mm_x, grid.per_mm_y)
    )


def _strokes(
    part: Plate, stark: npt.NDArray[np.bool_], least: float, grid: Grid
) -> tuple[npt.NDArray[np.bool_], Figures] | None:
    """Those of the stark pixels that belong to strokes, and the widths of these."""
    side = 2 * LONG * least
    window = (2 * round(side * grid.per_mm_x / 2) + 1, 2 * round(side * grid.per_mm_y / 2) + 1)
    summed = cv2.boxFilter(
        stark.view(np.uint8), cv2.CV_32F, window, normalize=False, borderType=cv2.BORDER_CONSTANT
    )
    count = np.multiply(summed, np.float32(pixel_side(grid) ** 2), dtype=np.float32)
    # Specks are about as long as they are wide.
    long_ = stark & (count >= SLENDER * (least / 2) ** 2)
    if not long_.any():
        return None
    box = _box(long_, strokes_reach(least, grid))
    thin, near = np.zeros_like(stark), np.zeros(stark.shape, np.float32)
    thin[box], near[box] = _thin(part[box], stark[box], long_[box], count[box], least, grid)
    return (thin, near) if thin.any() else None


def _box(mask: npt.NDArray[np.bool_], around: tuple[int, int]) -> tuple[slice, slice]:
    """Rows and columns that are marked, with more columns and rows around."""
    columns = np.flatnonzero(mask.any(axis=0))
    rows = np.flatnonzero(mask.any(axis=1))
    return (
        slice(max(0, int(rows[0]) - around[1]), int(rows[-1]) + 1 + around[1]),
        slice(max(0, int(columns[0]) - around[0]), int(columns[-1]) + 1 + around[0]),
    )


def _thin(
    part: Plate,
    stark: npt.NDArray[np.bool_],
    long_: npt.NDArray[np.bool_],
    count: Figures,
    least: float,
    grid: Grid,
) -> tuple[npt.NDArray[np.bool_], Figures]:
    """Pixels of strokes that are too thin, and how wide strokes near by are."""
    wide = stroke_widths(np.ascontiguousarray(part), least, grid, stark)
    # A stroke is as wide as its middle line near by is high above both edges.
    near = np.asarray(cv2.dilate(wide, disc(least, grid)), np.float32)
    near = np.maximum(near, np.float32(NARROWEST * pixel_side(grid)))
    thin = long_ & (count >= SLENDER * near**2) & (near < least - 0.5 * pixel_side(grid))
    return thin, near
