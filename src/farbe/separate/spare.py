"""What a choke spares: of fine strokes a least width stays.

A stroke of width ``w`` that is choked by ``c`` keeps ``max(w - 2 c, min(w, least))``. What is
kept over the plain choke lies around the stroke's middle line, where the distance to its edge is
largest (Blum, "A Transformation for Extracting New Descriptors of Shape", 1967).
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterator
from functools import lru_cache
from itertools import pairwise
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from farbe.distinct import distinct
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid

Units = npt.NDArray[np.int16]
#: Distances are whole numbers, so many to the shorter side of a pixel.
FINE = 64
#: Corners of right angles and wider ones are no strokes: there the distance to the edge grows
#: along the middle line by 0.71 at the most.
CORNER = math.sqrt(2.0)
#: The most that the middle line of a stroke rises, as a share of the way.
FLAT = 0.6
#: Pixels that a neighbour of a middle line's pixel is higher at the most; beside it one is as far
#: as the next pixel.
CREST = 0.75
#: Coverage, 0 to 255, from which on there is anything to spare.
LEAST_COVER = 20
#: Pixels from which on distances are found in two steps.
FAR = 9.0
#: Standard deviation in pixels by which the steps of hard edges are smoothed.
SMOOTH = 0.7
#: Rows and columns that are looked at together, about; what they need stays in the processor's
#: memory.
BLOCK = 448


@lru_cache(maxsize=256)
def disc(radius: float, grid: Grid) -> Plate:
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
    dy, dx = np.mgrid[-ry : ry + 1, -rx : rx + 1]
    far = np.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)
    return np.asarray(far <= radius + 1e-9, np.uint8)


def pixel_side(grid: Grid) -> float:
    """Side in mm of a square as large as a pixel.

    Parameters
    ----------
    grid : pixels to the inch along either axis
    """
    return 1.0 / math.sqrt(grid.per_mm_x * grid.per_mm_y)


def _grown(plate: Plate, radius: float, grid: Grid) -> Plate:
    return np.asarray(cv2.dilate(plate, disc(radius, grid)), np.uint8)


def spare_reach(by: float, least: float, grid: Grid) -> tuple[int, int]:
    """Pixels (x, y) beyond which :func:`spared` sees nothing.

    Parameters
    ----------
    by : choke in mm, 0 or more
    least : width in mm that is spared, 0 or more
    grid : resolution

    Returns
    -------
    Columns and rows, 0 or more.
    """
    if by <= 0 or least <= 0:
        return 0, 0
    pixel = max(1.0 / grid.per_mm_x, 1.0 / grid.per_mm_y)
    far = (
        _near(by, least, grid) + 2 * by + least + CORNER * (by + least / 2) + _cap(by, least, grid)
        + _steps(by, grid) * pixel + CORNER * (least / 2 + pixel) + 9 * pixel
    )  # fmt: skip
    return math.ceil(far * grid.per_mm_x) + 1, math.ceil(far * grid.per_mm_y) + 1


def _near(by: float, least: float, grid: Grid) -> float:
    """Mm around a thin place within which anything is added."""
    return 2 * by + least + 2 * pixel_side(grid)


def _cap(by: float, least: float, grid: Grid) -> float:
    """Mm above which distances from the edge do not matter."""
    return by + least / 2 + 2 * pixel_side(grid)


def _steps(by: float, grid: Grid) -> int:
    """Pixels that a bridge to what is left by the choke may be long."""
    return math.ceil(1.6 * by / pixel_side(grid)) + 2


def spared(
    plate: Plate, choked: Plate, by: float, least: float, grid: Grid, *, unwanted: int = 0
) -> Plate:
    """A choked plate with the middle of strokes that the choke left too thin, or took.

    Parameters
    ----------
    plate : coverage before the choke, uint8 (rows, width)
    choked : the same after it
    by : the largest distance in mm by which edges were drawn back
    least : width in mm that strokes keep, 0 to keep nothing
    grid : resolution; x and y may differ
    unwanted : rows at either end in which nothing need be spared

    Returns
    -------
    uint8 (rows, width), nowhere less than ``choked`` nor, but for that, more than ``plate``.
    Right but for :func:`spare_reach` rows at either end.
    """
    if by <= 0 or least <= 0 or not plate.any():
        return choked
    near = _near(by, least, grid)
    # What is thin is looked for no farther than something is added around it.
    seen = _thin_reach(by, least, grid) + math.ceil(near * grid.per_mm_y)
    looked = slice(max(0, unwanted - seen), len(plate) - max(0, unwanted - seen))
    thin = _thin(plate[looked], choked[looked], by, least, grid)
    if not thin.any():
        return choked
    there = np.zeros_like(plate)
    there[looked] = _grown(thin, near, grid)
    # At the ends of a strip the choke takes what goes on beyond, which is no stroke.
    there[:unwanted], there[len(there) - unwanted :] = 0, 0
    result = choked.copy()
    rx, ry = spare_reach(by, least, grid)
    for high, low, left, right in _blocks(there):
        rows = slice(max(0, high - ry), min(len(plate), low + ry))
        columns = slice(max(0, left - rx), min(plate.shape[1], right + rx))
        part = np.ascontiguousarray(plate[rows, columns])
        left_over = np.ascontiguousarray(choked[rows, columns])
        added = _middles(part, left_over, by, least, grid)
        core = (slice(high, low), slice(left, right))
        own = added[high - rows.start : low - rows.start, left - columns.start :][:, : right - left]
        result[core] = np.where(there[core] > 0, np.maximum(result[core], own), result[core])
    return result


def even_parts(start: int, stop: int) -> Iterator[tuple[int, int]]:
    """Even parts of about :data:`BLOCK` rows or columns: what lies around each is looked at too.

    Parameters
    ----------
    start, stop : of all rows or columns

    Yields
    ------
    First row or column of a part, and the one after its last.
    """
    long_ = stop - start
    count = max(1, round(long_ / BLOCK))
    return pairwise(start + long_ * number // count for number in range(count + 1))


def _blocks(there: Plate) -> Iterator[tuple[int, int, int, int]]:
    """First and last rows and columns of blocks in which anything is marked, cut to it."""
    for top, bottom in even_parts(0, there.shape[0]):
        strip = there[top:bottom]
        marked = strip.max(axis=0)
        for first, last in even_parts(0, there.shape[1]):
            columns = np.flatnonzero(marked[first:last])
            if len(columns):
                left, right = first + int(columns[0]), first + int(columns[-1]) + 1
                rows = np.flatnonzero(strip[:, left:right].max(axis=1))
                yield top + int(rows[0]), top + int(rows[-1]) + 1, left, right


def _thin_reach(by: float, least: float, grid: Grid) -> int:
    """Rows beyond which :func:`_thin` sees nothing."""
    wide = max(1.0 / grid.per_mm_x, 1.0 / grid.per_mm_y)
    far = least / 2 + wide + CORNER * (by + least / 2 + wide) + pixel_side(grid)
    return math.ceil(far * grid.per_mm_y) + 2


def _thin(plate: Plate, choked: Plate, by: float, least: float, grid: Grid) -> Plate:
    """Where strokes are thinner than what a choke leaves ``least`` of: not 0."""
    # What is left after an opening, grown a little more so that corners are no strokes.
    wide = max(1.0 / grid.per_mm_x, 1.0 / grid.per_mm_y)
    kept = cv2.erode(choked, disc(least / 2 + wide, grid))
    far = CORNER * (by + least / 2 + wide) + pixel_side(grid)
    return far_from(np.asarray(kept, np.uint8), plate, disc(far, grid))


def far_from(kept: Plate, plate: Plate, kernel: Plate) -> Plate:
    """Where a plate covers more than twice as much as what is kept within a disc around.

    A square inside the disc is grown much more quickly. It reaches what lies along straight edges,
    so that little is left to look at by the disc.

    Parameters
    ----------
    kept, plate : coverage, uint8 (h, w)
    kernel : of :func:`disc`

    Returns
    -------
    uint8 (h, w), 255 there and 0 elsewhere.
    """
    ry, rx = (side // 2 for side in kernel.shape)
    square = np.ones((2 * int(ry / CORNER) + 1, 2 * int(rx / CORNER) + 1), np.uint8)
    found = _lost(plate, cv2.dilate(kept, square))
    for top, bottom, left, right in _blocks(found):
        high, first = max(0, top - ry), max(0, left - rx)
        around = kept[high : bottom + ry, first : right + rx]
        own = slice(top - high, bottom - high), slice(left - first, right - first)
        grown = np.asarray(cv2.dilate(around, kernel), np.uint8)[own]
        found[top:bottom, left:right] = _lost(plate[top:bottom, left:right], grown)
    return found


def _lost(plate: Plate, grown: object) -> Plate:
    left = cv2.subtract(plate, cv2.add(grown, grown))  # type: ignore[call-overload]
    return np.asarray(cv2.threshold(left, LEAST_COVER, 255, cv2.THRESH_BINARY)[1], np.uint8)


def _middles(plate: Plate, choked: Plate, by: float, least: float, grid: Grid) -> Plate:
    """A band of ``least`` mm around the middle lines of strokes, uint8 (h, w)."""
    cover, full = _sharpened(plate, by + least / 2, grid)
    cap = _cap(by, least, grid)
    unit = 1.0 / (FINE * max(grid.per_mm_x, grid.per_mm_y))
    far = _distances(cover, cap, grid, unit)
    ridge = _between(far, grid, unit)
    pixel = pixel_side(grid)
    # Whole pixels, so that the way is as long along rows and columns as across.
    side = max(1.0 / grid.per_mm_x, 1.0 / grid.per_mm_y)
    reach = math.ceil(CORNER * (least / 2 + pixel / 2) / side) * side
    highest = np.asarray(cv2.dilate(ridge, disc(reach, grid)))
    from_middle = (highest.astype(np.float32) - far) * np.float32(unit)
    # What lies outside is no stroke, and has no middle.
    share = np.clip((least / 2 + pixel / 2 - from_middle) / pixel, 0.0, 1.0)
    share[(cover == 0) & (plate < full * 0.5)] = 0.0
    # At corners the distance grows along the middle line, which is no stroke's.
    rise = (highest - ridge) * np.float32(unit / reach)
    level = rise <= FLAT
    near = _grown(level.astype(np.uint8), least / 2 + pixel, grid)
    band = np.where(near > 0, np.minimum(plate, np.rint(share * full)), 0).astype(np.uint8)
    way = _ways(band, choked, far, _steps(by, grid), grid)
    # Where strokes meet, the height of the joint makes them look thinner than they are.
    crest = cv2.dilate(ridge, np.ones((3, 3), np.uint8)) - ridge < CREST * FINE
    way |= crest & level & (rise > FLAT / 3) & (band < 200) & (plate >= 128)
    bridge = _grown(way.astype(np.uint8) * 255, least / 2, grid)
    return np.maximum(band, np.minimum(bridge, plate))


def _sharpened(plate: Plate, radius: float, grid: Grid) -> tuple[Plate, Plate]:
    """Coverage in terms of the most around it, with soft edges as hard ones; and that most.

    Pixels on hard edges keep how far they are covered: it says where in the pixel the edge is.
    """
    full = _grown(plate, radius + pixel_side(grid), grid)
    levels = _smoothed(_shares().take(full.astype(np.uint16) << 8 | plate))
    square = np.ones((3, 3), np.uint8)
    span = cv2.subtract(cv2.dilate(levels, square), cv2.erode(levels, square))
    solid = cv2.threshold(levels, 127, 255, cv2.THRESH_BINARY)[1]
    return np.where(np.asarray(span) < 192, solid, levels), full


@lru_cache(maxsize=1)
def _shares() -> Plate:
    """Coverage in terms of the most around it, uint8 (65536,): that most times 256, plus it."""
    plate, full = np.arange(256), np.arange(256)[:, None]
    share = np.where(full >= LEAST_COVER, plate * (255.0 / np.maximum(full, 1)), 0.0)
    return np.minimum(np.rint(share), 255).astype(np.uint8).ravel()


def _smoothed(levels: Plate) -> Plate:
    """Edges that are as hard as pixels, as the line that they stand for, one pixel wide."""
    blurred = cv2.GaussianBlur(levels, (5, 5), SMOOTH)
    steep = SMOOTH * math.sqrt(2 * math.pi)
    line = np.asarray(cv2.convertScaleAbs(blurred, alpha=steep, beta=127.5 * (1 - steep)), np.uint8)
    line[np.asarray(blurred) < 127.5 * (1 - 1 / steep)] = 0
    edge = np.asarray(cv2.dilate(((levels > 0) & (levels < 255)).astype(np.uint8), np.ones((5, 5))))
    return np.where(edge > 0, levels, line).astype(np.uint8)


@lru_cache(maxsize=64)
def _offsets(
    radius: float, grid: Grid, unit: float
) -> tuple[tuple[float, tuple[tuple[int, int, int], ...]], ...]:
    """Offsets within mm, by how long a pixel along them is in mm, to the nearest unit.

    Each is the columns and rows to either side of a pixel, and how far that is in units.
    """
    rx, ry = math.floor(radius * grid.per_mm_x + 1), math.floor(radius * grid.per_mm_y + 1)
    usual = pixel_side(grid)
    pixels, found = {round(usual / unit): usual}, defaultdict(list)
    found[round(usual / unit)].append((0, 0, 0))
    for dy in range(ry, -1, -1):
        for dx in range(rx, -1, -1):
            length = math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)
            if (dx or dy) and length <= radius + 1.5 * usual:
                pixel = length / math.hypot(dx, dy)
                pixels.setdefault(round(pixel / unit), pixel)
                found[round(pixel / unit)].append((dx, dy, round(length / unit)))
    return tuple((pixels[key], tuple(all_)) for key, all_ in found.items())


def _distances(cover: Plate, cap: float, grid: Grid, unit: float, at_once: float = FAR) -> Units:
    """Distance to the edge in units, positive inside, up to ``cap`` mm; int16 (h, w).

    A pixel that is covered in part holds the edge: seen from a pixel at a distance ``b``, that is
    ``b - 1/2 + cover`` pixels away.
    """
    steps = max(1, math.ceil(cap / (at_once * pixel_side(grid))))
    around = _around(cap / steps, grid)
    # Beyond the plate nothing is covered.
    padded = _padded(cover, around, 0)
    most = cap / unit
    seen = np.empty(padded.shape, np.int16)

    def edges(pixel: float) -> Units:
        return np.asarray(cv2.LUT(padded, _edge(pixel / unit, most), seen), np.int16)

    found = _least(edges, cover.shape, cap / steps, grid, unit)
    for _ in range(steps - 1):
        last = found

        def onwards(pixel: float, last: Units = last) -> Units:
            return _padded(last, around, -(round(pixel / unit) // 2))

        found = _least(onwards, cover.shape, cap / steps, grid, unit)
    return np.minimum(found, np.int16(round(cap / unit)))


@lru_cache(maxsize=512)
def _edge(pixel: float, most: float) -> Units:
    """How far the edge in a pixel is in units, by how far the pixel is covered, int16 (256,)."""
    shares = np.arange(256, dtype=np.float32) / 255.0
    # A pixel that is covered wholly holds no edge.
    table = np.where(shares == 1.0, most, (shares - 0.5) * pixel)
    return np.rint(table).astype(np.int16)


def _around(radius: float, grid: Grid) -> tuple[int, int]:
    """Columns and rows that :func:`_least` needs on either side."""
    return math.floor(radius * grid.per_mm_x + 2), math.floor(radius * grid.per_mm_y + 2)


def _padded(plane: npt.NDArray[Any], around: tuple[int, int], value: int) -> npt.NDArray[Any]:
    rx, ry = around
    return np.asarray(
        cv2.copyMakeBorder(plane, ry, ry, rx, rx, cv2.BORDER_CONSTANT, value=(value,))
    )


def _least(
    of_pixel: Callable[[float], Units],
    shape: tuple[int, ...],
    radius: float,
    grid: Grid,
    unit: float,
) -> Units:
    """The least of a plane's figures and the way to them, over all offsets within ``radius``.

    ``of_pixel`` gives the plane with :func:`_around` more on all sides, as seen along a pixel of
    so many mm, until it is asked for the next one.
    """
    rx, ry = _around(radius, grid)
    wide = shape[1] + 2 * rx
    # The rows are gone through as one line: where its ends meet is cut off with what is around.
    start, count = ry * wide, shape[0] * wide
    result = np.full(count, np.iinfo(np.int16).max, np.int16)
    least = result[rx : count - rx]
    pair, nearest = np.empty_like(result), np.empty_like(least)
    for pixel, offsets in _offsets(radius, grid, unit):
        line, paired = of_pixel(pixel).ravel(), None
        for dx, dy, length in offsets:
            if dy != paired:
                above, below = (line[start + way :][:count] for way in (-dy * wide, dy * wide))
                np.minimum(above, below, out=pair)
                paired = dy
            before, after = (pair[rx + way :][: len(nearest)] for way in (-dx, dx))
            np.minimum(before, after, out=nearest)
            np.add(nearest, np.int16(length), out=nearest)
            np.minimum(least, nearest, out=least)
    return result.reshape(-1, wide)[:, rx : wide - rx]


def _between(
    far: Units, grid: Grid, unit: float, where: npt.NDArray[np.bool_] | None = None
) -> Units:
    """The height of a middle line that runs between a pixel and one of its neighbours.

    It is where the slopes of either side meet. Only pixels in ``where`` are looked at, or all.
    """
    height, width = far.shape
    highest = np.asarray(cv2.dilate(far, np.ones((3, 3), np.uint8)))
    # Only next to a middle line does the distance fall on both sides.
    candidates = (far > -FINE // 2) & (highest - far < FINE)
    candidates[:2] = candidates[-2:] = False
    candidates[:, :2] = candidates[:, -2:] = False
    if where is not None:
        candidates &= where
    at = np.flatnonzero(candidates)
    levels = far.ravel()
    best = levels[at].astype(np.float32)
    for dx, dy in ((1, 0), (0, 1), (1, 1), (1, -1)):
        step = dy * width + dx
        gap = np.float32(math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y) / unit)
        before, first, second, after = (
            levels[at + k * step].astype(np.float32) for k in (-1, 0, 1, 2)
        )
        rise, fall = (first - before) / gap, (second - after) / gap
        both = (rise > 0.05) & (fall > 0.05)
        way = np.clip((second - first + fall * gap) / np.where(both, rise + fall, 1.0), 0.0, gap)
        middle = np.minimum(first + rise * way, (first + second + gap) / 2)
        np.maximum(best, np.where(both, middle, best), out=best)
    result = far.copy().ravel()
    result[at] = best.astype(np.int16)
    return result.reshape(height, width)


def _ways(band: Plate, choked: Plate, far: Units, steps: int, grid: Grid) -> npt.NDArray[np.bool_]:
    """Pixels on the way from the ends of what is spared to what the choke left.

    Where a stroke runs into a broader one, its middle line climbs until the choke leaves it.
    """
    way = np.zeros(band.shape, bool)
    high, wide = band.shape
    heights = np.pad(far, 1, constant_values=np.iinfo(np.int16).min // 2).ravel()
    slopes = [
        (dy * (wide + 2) + dx, np.float32(1.0 / math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y)))
        for dx in (-1, 0, 1) for dy in (-1, 0, 1) if dx or dy
    ]  # fmt: skip
    inside, over, passed = (np.pad(plane, 1).ravel() for plane in (band >= 128, choked >= 128, way))
    at = np.flatnonzero(inside & ~over)
    for _ in range(steps):
        best, to = np.zeros(len(at), np.float32), at.copy()
        for step, per_mm in slopes:
            rise = (heights[at + step] - heights[at]) * per_mm
            more = rise > best
            best[more], to[more] = rise[more], at[more] + step
        at = distinct(to[best > 0])
        # Who climbs within what is spared gets nowhere new.
        at = at[~over[at] & ~passed[at]]
        if not len(at):
            break
        passed[at] = True
    passed &= ~inside
    return passed.reshape(high + 2, wide + 2)[1:-1, 1:-1]


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
    cover, _ = _sharpened(plate, most / 2, grid)
    unit = 1.0 / (FINE * max(grid.per_mm_x, grid.per_mm_y))
    # In short steps, which is a little less exact and much quicker.
    far = _distances(cover, most / 2 + 2 * pixel_side(grid), grid, unit, 4.0)
    widths = _between(far, grid, unit, where).astype(np.float32) * np.float32(2 * unit)
    return np.where(where, widths, np.float32(-1.0))
