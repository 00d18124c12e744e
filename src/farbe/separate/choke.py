"""Choke: draw the edge of a plate back by a distance in millimetres."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from itertools import accumulate

import cv2
import numpy as np
import numpy.typing as npt

from farbe.separate.grid import Grid, pixels_in
from farbe.separate.within import MANY, half_widths, least_within, least_within_each

Plate = npt.NDArray[np.uint8]
#: The rim of the disc, where it covers a pixel in part, is laid in so many steps.
RIM_STEPS = 4


def reach(distance: float, grid: Grid) -> tuple[int, int]:
    """Pixels (x, y) beyond which a choke by ``distance`` mm sees nothing.

    Parameters
    ----------
    distance : mm
    grid : resolution

    Returns
    -------
    Columns and rows that an edge may move by.
    """
    return pixels_in(distance, grid) if distance > 0 else (0, 0)


@lru_cache(maxsize=64)
def _rings(distance: float, grid: Grid) -> tuple[tuple[Plate, int], ...]:
    """Disjoint parts of the disc as kernels, each with its weight in ``RIM_STEPS``.

    A pixel wholly inside the disc has full weight; beyond the edge the weight falls to nothing
    over one pixel, measured along the line from the centre.
    """
    rx, ry = reach(distance, grid)
    dy, dx = np.ogrid[-ry : ry + 1, -rx : rx + 1]
    pixels = np.hypot(dx, dy)
    millimetres = np.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)
    with np.errstate(invalid="ignore", divide="ignore"):
        radius = np.where(pixels > 0, distance * pixels / millimetres, np.inf)
        weight = np.where(pixels > 0, np.clip(1.0 + radius - pixels, 0.0, 1.0), 1.0)
    steps = np.rint(weight * RIM_STEPS).astype(int)
    return tuple(
        ((steps == step).astype(np.uint8), step)
        for step in range(RIM_STEPS, 0, -1)
        if (steps == step).any()
    )


def choke(plate: Plate, distance: float, grid: Grid, *, outside: int = 0) -> Plate:
    """Erode by a Euclidean disc, soft edges kept.

    Parameters
    ----------
    plate : uint8 array, shape (height, width), 0 no ink, 255 solid
    distance : mm, 0 or more
    grid : resolution of ``plate``; x and y may differ
    outside : coverage beyond the plate, 0 to 255

    Returns
    -------
    uint8 array of the same shape. Outside the plate counts as ``outside``: no ink.

    Notes
    -----
    Fuzzy erosion ``min over b of 1 - w(b) (1 - a(x + b))`` with a disc whose rim has weights
    ``w`` below one (Nachtegael and Kerre, "Connections between binary, gray-scale and fuzzy
    mathematical morphologies", Fuzzy Sets and Systems 124, 2001, with the product as
    conjunction). For a hard edge this is ``clip(d - r, 0, 1)`` with the exact Euclidean
    distance ``d`` to the nearest empty pixel, so the edge moves by parts of a pixel.
    """
    if distance <= 0:
        return plate
    result: Plate | None = None
    for lowest, step in _lowest(plate, distance, grid, outside):
        if step < RIM_STEPS:
            share = step / RIM_STEPS
            lowest = _bytes(cv2.convertScaleAbs(lowest, alpha=share, beta=255.0 * (1.0 - share)))
        result = lowest if result is None else _bytes(cv2.min(result, lowest))
    return plate if result is None else result


def _lowest(plate: Plate, distance: float, grid: Grid, outside: int) -> Iterator[tuple[Plate, int]]:
    """The least of a plate within each part of the disc, and the part's weight."""
    rings = _rings(distance, grid)
    discs = _discs(distance, grid)
    if discs is None:
        for kernel, step in rings:
            yield least_within(plate, kernel, outside=outside), step
    else:
        # A larger disc with less weight says nothing of what a smaller one in it weighs more.
        found = least_within_each(plate, discs, outside=outside)
        yield from ((least, step) for least, (_, step) in zip(found, rings, strict=True))


@lru_cache(maxsize=64)
def _discs(distance: float, grid: Grid) -> tuple[tuple[int, ...], ...] | None:
    """Each part of the disc with all parts of more weight, by rows; None where they are small."""
    kernels = [kernel for kernel, _ in _rings(distance, grid)]
    discs = list(accumulate(kernels, np.maximum))
    if np.count_nonzero(discs[-1]) < MANY:
        return None
    halves = [found for disc in discs if (found := half_widths(disc.tobytes(), disc.shape))]
    return tuple(halves) if len(halves) == len(discs) else None


def spread(plate: Plate, distance: float, grid: Grid) -> Plate:
    """Dilate by a Euclidean disc, soft edges kept: choke what is empty.

    Parameters
    ----------
    plate : uint8 (rows, width), coverage 0 to 255
    distance : mm, 0 or more
    grid : resolution, x and y apart

    Returns
    -------
    uint8 (rows, width); nowhere less than ``plate``.
    """
    return plate if distance <= 0 else 255 - choke(255 - plate, distance, grid, outside=255)


def _bytes(plate: object) -> Plate:
    return np.asarray(plate, dtype=np.uint8)
