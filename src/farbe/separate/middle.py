"""How far pixels are from the edge of what is covered, and where strokes have their middle lines.

Along the middle line of a stroke the distance to its edge is largest (Blum, "A Transformation for
Extracting New Descriptors of Shape", 1967).
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from farbe.separate.choke import Plate
from farbe.separate.grid import Grid, disc, pixel_length, pixel_side
from farbe.separate.within import most_within

Units = npt.NDArray[np.int16]
#: Distances are whole numbers, so many to the shorter side of a pixel.
FINE = 64
#: Coverage, 0 to 255, from which on it matters.
LEAST_COVER = 20
#: Levels, 0 to 255, by which a hard edge rises from one side of a pixel to the other.
HARD = 192
#: Units for each unit of way from which on distances rise.
SLOPE = 0.05
#: Pixels from which on distances are found in two steps.
FAR = 9.0
#: Pixels that are gone through together: the processor's memory is to hold what is made of them,
#: but threads take turns at each call, so that fewer at a time take them longer.
STRETCH = 1 << 18
#: Standard deviation in pixels by which the steps of hard edges are smoothed.
SMOOTH = 0.7


def unit_of(grid: Grid) -> float:
    """What distances are counted in, in mm.

    Parameters
    ----------
    grid : resolution
    """
    return 1.0 / (FINE * max(grid.per_mm_x, grid.per_mm_y))


def relative(plate: Plate, radius: float, grid: Grid) -> tuple[Plate, Plate]:
    """Coverage in terms of the most around it, and that most.

    Parameters
    ----------
    plate : coverage, uint8 (h, w)
    radius : how far around a pixel is looked, in mm
    grid : resolution

    Returns
    -------
    Both uint8 (h, w).
    """
    full = most_within(plate, seen_around(radius, grid))
    there = cv2.threshold(full, LEAST_COVER - 1, 255, cv2.THRESH_BINARY)[1]
    return np.asarray(cv2.divide(cv2.bitwise_and(plate, there), full, scale=255.0), np.uint8), full


def hardened(levels: Plate) -> Plate:
    """Soft edges as hard ones: how far pixels are covered by what a plate draws.

    Pixels on hard edges keep how far they are covered: it says where in the pixel the edge is.

    Parameters
    ----------
    levels : as :func:`relative` gives them, uint8 (h, w)

    Returns
    -------
    uint8 (h, w)
    """
    levels = _smoothed(levels)
    square = np.ones((3, 3), np.uint8)
    span = cv2.subtract(cv2.dilate(levels, square), cv2.erode(levels, square))
    solid = cv2.threshold(levels, 127, 255, cv2.THRESH_BINARY)[1]
    return _laid_over(solid, levels, cv2.inRange(span, (HARD,), (255,)))


def _laid_over(below: object, above: Plate, mask: object) -> Plate:
    """Pixels of one plate, and where a mask is not 0 those of the other."""
    return np.asarray(cv2.copyTo(above, mask, below), np.uint8)  # type: ignore[call-overload]


def _smoothed(levels: Plate) -> Plate:
    """Edges that are as hard as pixels, as the line that they stand for, one pixel wide."""
    blurred = cv2.GaussianBlur(levels, (5, 5), SMOOTH)
    steep = SMOOTH * math.sqrt(2 * math.pi)
    line = cv2.addWeighted(blurred, steep, blurred, 0.0, 127.5 * (1 - steep))
    soft = cv2.dilate(cv2.inRange(levels, (1,), (254,)), np.ones((5, 5), np.uint8))
    return _laid_over(line, levels, soft)


def seen_around(radius: float, grid: Grid) -> Plate:
    """What :func:`relative` sees around a pixel, as a kernel.

    Parameters
    ----------
    radius : mm
    grid : resolution

    Returns
    -------
    uint8 (2 ry + 1, 2 rx + 1), its radii in pixels, 1 where it sees.
    """
    return disc(radius + pixel_side(grid), grid)


@lru_cache(maxsize=64)
def _offsets(
    radius: float, most: int, grid: Grid, unit: float
) -> tuple[tuple[float, tuple[tuple[int, int, int], ...]], ...]:
    """Offsets within mm, by how long a pixel along them is in mm, to the nearest unit.

    Each is the columns and rows to either side of a pixel, and how far that is in units. Those from
    which no edge is nearer than ``most`` units are left out.
    """
    rx, ry = math.floor(radius * grid.per_mm_x + 1), math.floor(radius * grid.per_mm_y + 1)
    usual, nearest = pixel_side(grid), int(_edge(pixel_length(grid) / unit, most)[0])
    pixels, found = {round(usual / unit): usual}, defaultdict(list)
    found[round(usual / unit)].append((0, 0, 0))
    for dy in range(ry, -1, -1):
        for dx in range(rx, -1, -1):
            length = math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)
            if not (dx or dy) or length > radius + 1.5 * usual:
                continue
            pixel, units = length / math.hypot(dx, dy), round(length / unit)
            # One pixel stands for all that are as long to the nearest unit, whatever is left out.
            pixels.setdefault(round(pixel / unit), pixel)
            if units + nearest < most:
                found[round(pixel / unit)].append((dx, dy, units))
    return tuple((pixels[key], tuple(some)) for key, some in found.items())


def distances(cover: Plate, cap: float, grid: Grid, *, at_once: float = FAR) -> Units:
    """Distance to the edge, positive inside.

    A pixel that is covered in part holds the edge: seen from a pixel at a distance ``b``, that is
    ``b - 1/2 + cover`` pixels away.

    Parameters
    ----------
    cover : how far pixels are covered, uint8 (h, w)
    cap : mm up to which distances matter
    grid : resolution
    at_once : pixels from which on they are found in several steps

    Returns
    -------
    int16 (h, w), in parts of :func:`unit_of`.
    """
    unit = unit_of(grid)
    steps = max(1, math.ceil(cap / (at_once * pixel_side(grid))))
    around = _around(cap / steps, grid)
    # Beyond the plate nothing is covered.
    drawn = padded(cover, around, 0)
    most = round(cap / unit)
    seen = np.empty(drawn.shape, np.int16)

    def edges(pixel: float) -> Units:
        return np.asarray(cv2.LUT(drawn, _edge(pixel / unit, most), seen), np.int16)

    found = _least(edges, cover.shape, cap / steps, most, grid, unit)
    for _ in range(steps - 1):
        last = found

        def onwards(pixel: float, last: Units = last) -> Units:
            return padded(last, around, -(round(pixel / unit) // 2))

        found = _least(onwards, cover.shape, cap / steps, most, grid, unit)
    return up_to(found, most)


def up_to(far: Units, most: int) -> Units:
    """Distances, those above some as that.

    Parameters
    ----------
    far : int16 (h, w)
    most : units

    Returns
    -------
    int16 (h, w)
    """
    # In a fifth of the time that it takes NumPy.
    return np.asarray(cv2.threshold(far, most, 0, cv2.THRESH_TRUNC)[1], np.int16)


@lru_cache(maxsize=512)
def _edge(pixel: float, most: int) -> Units:
    """How far the edge in a pixel is in units, by how far the pixel is covered, int16 (256,)."""
    shares = np.arange(256, dtype=np.float32) / 255.0
    # A pixel that is covered wholly holds no edge.
    table = np.where(shares == 1.0, most, (shares - 0.5) * pixel)
    return np.rint(table).astype(np.int16)


def _around(radius: float, grid: Grid) -> tuple[int, int]:
    """Columns and rows that :func:`_least` needs on either side."""
    return math.floor(radius * grid.per_mm_x + 2), math.floor(radius * grid.per_mm_y + 2)


def padded(plane: npt.NDArray[Any], around: tuple[int, int], value: int) -> npt.NDArray[Any]:
    """A plane with more columns and rows on all sides.

    Parameters
    ----------
    plane : (h, w)
    around : columns and rows, 0 or more
    value : of what lies there

    Returns
    -------
    (h + 2 rows, w + 2 columns), of the plane's type.
    """
    rx, ry = around
    return np.asarray(
        cv2.copyMakeBorder(plane, ry, ry, rx, rx, cv2.BORDER_CONSTANT, value=(value,))
    )


def _least(
    of_pixel: Callable[[float], Units],
    shape: tuple[int, ...],
    radius: float,
    most: int,
    grid: Grid,
    unit: float,
) -> Units:
    """The least of a plane's figures and the way to them, over all offsets within ``radius``.

    It is right where it is below ``most``. ``of_pixel`` gives the plane with :func:`_around` more
    on all sides, as seen along a pixel of so many mm, until it is asked for the next one.
    """
    rx, ry = _around(radius, grid)
    wide = shape[1] + 2 * rx
    # The rows are gone through as one line: where its ends meet is cut off with what is around.
    start, count = ry * wide, shape[0] * wide
    result = np.full(count, np.iinfo(np.int16).max, np.int16)
    for pixel, offsets in _offsets(radius, most, grid, unit):
        line = of_pixel(pixel).ravel()
        for first in range(rx, count - rx, STRETCH):
            least = result[first : min(first + STRETCH, count - rx)]
            around = line[first - rx : first + len(least) + rx + 2 * start]
            _least_of_line(around, start, wide, rx, offsets, least)
    return result.reshape(-1, wide)[:, rx : wide - rx]


def _least_of_line(
    line: Units,
    start: int,
    wide: int,
    rx: int,
    offsets: tuple[tuple[int, int, int], ...],
    least: Units,
) -> None:
    """Lower ``least`` to what is seen of a line that begins ``start + rx`` before it."""
    pair, nearest = np.empty(len(least) + 2 * rx, np.int16), np.empty_like(least)
    paired = None
    for dx, dy, length in offsets:
        if dy != paired:
            above, below = (line[start + way :][: len(pair)] for way in (-dy * wide, dy * wide))
            np.minimum(above, below, out=pair)
            paired = dy
        before, after = (pair[rx + way :][: len(nearest)] for way in (-dx, dx))
        if dx:
            before = np.minimum(before, after, out=nearest)
        np.add(before, np.int16(length), out=nearest)
        np.minimum(least, nearest, out=least)


def ridges(far: Units, grid: Grid, where: npt.NDArray[np.bool_] | None = None) -> Units:
    """The height of a middle line that runs between a pixel and one of its neighbours.

    It is where the slopes of either side meet.

    Parameters
    ----------
    far : of :func:`distances`
    grid : resolution
    where : bool (h, w), the pixels that are looked at; all, if not given

    Returns
    -------
    int16 (h, w): ``far``, but beside middle lines as high as these.
    """
    unit = unit_of(grid)
    height, width = far.shape
    square = np.ones((3, 3), np.uint8)
    # Only next to a middle line does the distance fall on both sides.
    candidates = (far > -FINE // 2) & (np.asarray(cv2.dilate(far, square)) - far < FINE)
    candidates &= np.asarray(cv2.erode(far, square)) < far
    candidates[:2] = candidates[-2:] = False
    candidates[:, :2] = candidates[:, -2:] = False
    if where is not None:
        candidates &= where
    at = np.flatnonzero(candidates)
    levels = far.ravel()
    first = levels.take(at)
    best = first.astype(np.float32)
    # Neighbours are taken from where the line begins for them.
    lead = 2 * width + 2
    at_lead = at - lead
    for dx, dy in ((1, 0), (0, 1), (1, 1), (1, -1)):
        gap = np.float32(math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y) / unit)
        before, second, after = (
            levels[lead + k * (dy * width + dx) :].take(at_lead) for k in (-1, 1, 2)
        )
        up, down, least = first - before, second - after, _least_slope(gap)
        both = np.flatnonzero((up >= least) & (down >= least))
        here, there, rise, fall = (
            of.take(both).astype(np.float32) for of in (first, second, up, down)
        )
        rise, fall = rise / gap, fall / gap
        way = np.minimum(np.maximum((there - here + fall * gap) / (rise + fall), 0), gap)
        middle = np.minimum(here + rise * way, (here + there + gap) / 2)
        best[both] = np.maximum(best.take(both), middle)
    result = levels.copy()
    result[at] = best.astype(np.int16)
    return result.reshape(height, width)


@lru_cache(maxsize=64)
def _least_slope(gap: np.float32) -> int:
    """The fewest units to a neighbour so many away that count as a slope."""
    return next(units for units in range(FINE * FINE) if np.float32(units) / gap > SLOPE)


def stroke_widths(
    plate: Plate, most: float, grid: Grid, where: npt.NDArray[np.bool_]
) -> npt.NDArray[np.float32]:
    """Twice the distance to the edge in mm: at the middle of a stroke, its width.

    Parameters
    ----------
    plate : coverage, uint8 (h, w)
    most : width in mm above which it does not matter
    grid : resolution
    where : bool (h, w), pixels that matter

    Returns
    -------
    float32 (h, w); up to somewhat more than ``most``, -1 outside and where it does not matter.
    """
    cover = hardened(relative(plate, most / 2, grid)[0])
    # In short steps, which is a little less exact and much quicker.
    far = distances(cover, most / 2 + 2 * pixel_side(grid), grid, at_once=4.0)
    widths = ridges(far, grid, where).astype(np.float32) * np.float32(2 * unit_of(grid))
    return np.where(where, widths, np.float32(-1.0))
