"""What a choke spares: of fine strokes a least width stays.

A stroke of width ``w`` that is choked by ``c`` keeps ``max(w - 2 c, min(w, least))``. What is
kept over the plain choke lies around the stroke's middle line.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from farbe.distinct import distinct
from farbe.kept import Kept
from farbe.separate.blocks import Block, marked_blocks
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid, disc, pixel_side
from farbe.separate.middle import (
    FINE,
    LEAST_COVER,
    Units,
    distances,
    hardened,
    relative,
    ridges,
    seen_around,
    unit_of,
)
from farbe.separate.within import least_within, most_at, most_within

#: Corners of right angles and wider ones are no strokes: there the distance to the edge grows
#: along the middle line by 0.71 at the most.
CORNER = math.sqrt(2.0)
#: The most that the middle line of a stroke rises, as a share of the way.
FLAT = 0.6
#: The same on a longer way, in pixels, so that a middle line between pixels tells: what climbs more
#: all along is a corner, however acute; a stroke climbs where it runs into a broader one.
LONG, CLIMB = 4, 0.22
#: Units that are lower than all, which can be subtracted from one another.
LOWEST = -(2**14)
#: Units that count for nothing.
TIE = 1e-3
#: Pixels that a neighbour of a middle line's pixel is higher at the most; beside it one is as far
#: as the next pixel.
CREST = 0.75
#: Share of pixels up to which to look around each takes less time than to look around blocks.
FEW = 1 / 500
#: Rows and columns that are looked at together, about: fewer hold less of what is no stroke, more
#: of them less of what lies around.
BLOCK = 256
#: Mm to which chokes are rounded up in how far around is seen, and pixels at which blocks of
#: pictures begin, so that a choke that is a little larger asks for the same.
STEP, SNAP = 0.05, 64


def _grown(plate: Plate, radius: float, grid: Grid) -> Plate:
    return most_within(plate, disc(radius, grid))


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
    thin = _near(by, least, grid) + _thin_far(by, least, grid) + by + 2 * _wide(grid)
    return _pixels(max(thin, _strokes_far(by, least, grid) + _ways_far(by, least, grid)), grid)


def _wide(grid: Grid) -> float:
    """The longer side of a pixel in mm."""
    return max(1.0 / grid.per_mm_x, 1.0 / grid.per_mm_y)


def _pixels(far: float, grid: Grid) -> tuple[int, int]:
    """Columns and rows in which so many mm lie."""
    return math.ceil(far * grid.per_mm_x) + 1, math.ceil(far * grid.per_mm_y) + 1


def _thin_far(by: float, least: float, grid: Grid) -> float:
    """Mm of a choked plate beyond which :func:`_thin` sees nothing."""
    return sum(_opened(by, least, grid))


def _opened(by: float, least: float, grid: Grid) -> tuple[float, float]:
    """Mm by which a choked plate is drawn back to see what is thin, and by which it is grown then.

    That is a little more, so that corners are no strokes.
    """
    back = least / 2 + _wide(grid)
    return back, CORNER * (by + back) + pixel_side(grid)


def _strokes_far(by: float, least: float, grid: Grid) -> float:
    """Mm of a plate beyond which :func:`_strokes` sees nothing."""
    by, pixel = _rounded(by), pixel_side(grid)
    rise = max(CORNER * (least / 2 + pixel / 2), 2 * LONG * pixel + _wide(grid))
    band = rise + least / 2 + pixel
    # Edges are smoothed, ridges seen from their neighbours, and bands are of whole pixels.
    return by + least / 2 + pixel + _cap(by, least, grid) + band + 7 * _wide(grid)


def _ways_far(by: float, least: float, grid: Grid) -> float:
    """Mm of strokes beyond which :func:`_middles` sees nothing."""
    return least / 2 + (_steps(_rounded(by), grid) + 2) * _wide(grid)


def _rounded(by: float) -> float:
    return math.ceil(by / STEP - 1e-9) * STEP


def _where(mask: object, plate: object) -> Plate:
    """A plate where a mask is not 0, and nothing elsewhere."""
    return np.asarray(cv2.copyTo(plate, mask), np.uint8)  # type: ignore[call-overload]


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
    plate: Plate,
    choked: Plate,
    by: float,
    least: float,
    grid: Grid,
    *,
    unwanted: int = 0,
    kept: bool = False,
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
    kept : what follows from the plate alone is kept, for the next picture with another choke

    Returns
    -------
    uint8 (rows, width), nowhere less than ``choked`` nor, but for that, more than ``plate``.
    Right but for :func:`spare_reach` rows at either end.
    """
    if by <= 0 or least <= 0 or not cv2.hasNonZero(plate):
        return choked
    near = _near(by, least, grid)
    # What is thin is looked for no farther than something is added around it.
    seen = _thin_reach(by, least, grid) + math.ceil(near * grid.per_mm_y)
    looked = slice(max(0, unwanted - seen), len(plate) - max(0, unwanted - seen))
    thin = _thin(plate[looked], choked[looked], by, least, grid)
    if not cv2.hasNonZero(thin):
        return choked
    there = np.zeros_like(plate)
    there[looked] = _grown_in_blocks(thin, near, grid)
    # At the ends of a strip the choke takes what goes on beyond, which is no stroke.
    there[:unwanted], there[len(there) - unwanted :] = 0, 0
    result, ways = choked.copy(), _ways_far(by, least, grid)
    far, little = _pixels(_strokes_far(by, least, grid) + ways, grid), _pixels(ways, grid)
    # What is looked at around each is to be little of it.
    for block in marked_blocks(there, max(BLOCK, 2 * max(far)), SNAP if kept else 1):
        around, beside = block.around(far, plate.shape), block.around(little, plate.shape)
        strokes = _strokes(np.ascontiguousarray(plate[around.place]), by, least, grid, kept=kept)
        drawn, left = plate[beside.place], choked[beside.place]
        added = _middles(drawn, left, strokes.part(beside.within(around)), by, least, grid)
        own = result[block.place]
        np.maximum(own, _where(there[block.place], added[block.within(beside).place]), out=own)
    return result


def _grown_in_blocks(mask: Plate, radius: float, grid: Grid) -> Plate:
    """A mask grown by mm; little is looked at where there is little of it."""
    kernel = disc(radius, grid)
    grown = np.zeros_like(mask)
    for block in marked_blocks(mask, BLOCK):
        around = block.around(_reach_of(kernel), mask.shape).place
        np.maximum(grown[around], most_within(mask[around], kernel), out=grown[around])
    return grown


def _reach_of(kernel: Plate) -> tuple[int, int]:
    """Columns and rows that a kernel reaches."""
    return kernel.shape[1] // 2, kernel.shape[0] // 2


def _thin_reach(by: float, least: float, grid: Grid) -> int:
    """Rows beyond which :func:`_thin` sees nothing."""
    return _pixels(_thin_far(by, least, grid), grid)[1] + 1


def _thin(plate: Plate, choked: Plate, by: float, least: float, grid: Grid) -> Plate:
    """Where strokes are thinner than what a choke leaves ``least`` of: not 0."""
    back, far = _opened(by, least, grid)
    return far_from(least_within(choked, disc(back, grid)), plate, disc(far, grid))


def far_from(kept: Plate, plate: Plate, kernel: Plate) -> Plate:
    """Where a plate covers more than twice as much as what is kept within a disc around.

    A square inside the disc is grown much more quickly. It reaches what lies along straight edges,
    so that little is left to look at by the disc: often no more than the tips of some corners.

    Parameters
    ----------
    kept, plate : coverage, uint8 (h, w)
    kernel : of :func:`disc`

    Returns
    -------
    uint8 (h, w), 255 there and 0 elsewhere.
    """
    rx, ry = reach = _reach_of(kernel)
    square = np.ones((2 * int(ry / CORNER) + 1, 2 * int(rx / CORNER) + 1), np.uint8)
    found = _lost(plate, cv2.dilate(kept, square))
    if 0 < cv2.countNonZero(found) <= FEW * found.size:
        # Several times as fast of truths as of numbers.
        at = np.flatnonzero(found != 0)
        # As a column: OpenCV takes a line of up to four for one value.
        most = most_at(kept, kernel, at)[:, None]
        found.ravel()[at] = _lost(plate.take(at)[:, None], most).ravel()
        return found
    for block in marked_blocks(found, BLOCK):
        around = block.around(reach, kept.shape)
        grown = most_within(kept[around.place], kernel)[block.within(around).place]
        found[block.place] = _lost(plate[block.place], grown)
    return found


def _lost(plate: Plate, grown: object) -> Plate:
    left = cv2.subtract(plate, cv2.add(grown, grown))  # type: ignore[call-overload]
    return np.asarray(cv2.threshold(left, LEAST_COVER, 255, cv2.THRESH_BINARY)[1], np.uint8)


@dataclass(frozen=True, eq=False)
class Spine:
    """What of the strokes of a plate no choke changes.

    Attributes
    ----------
    cover : how far pixels are covered by what the plate draws, uint8 (h, w)
    far : distance to its edge, int16 (h, w), in parts of :func:`unit_of`
    share : how far pixels lie in a band around middle lines of strokes, uint8 (h, w)
    joints : 255 where strokes may meet, whose height makes them look thinner than they are, uint8
    """

    cover: Plate
    far: Units
    share: Plate
    joints: Plate

    @property
    def nbytes(self) -> int:
        """Bytes that it takes, with what it is known by."""
        return 2 * self.cover.nbytes + self.far.nbytes + self.share.nbytes + self.joints.nbytes

    def part(self, block: Block) -> Spine:
        """A block of it.

        Parameters
        ----------
        block : rows and columns
        """
        at = block.place
        return Spine(self.cover[at], self.far[at], self.share[at], self.joints[at])


#: Those of pictures, by what is drawn.
_SPINES: Kept[tuple[bytes, tuple[int, ...], float, float, Grid], Spine] = Kept(
    400, most=96 << 20, weigh=lambda spine: spine.nbytes
)


def _spine(levels: Plate, cap: float, least: float, grid: Grid) -> Spine:
    """Of coverage in terms of the most around it; the band is ``least`` mm wide."""
    cover, unit, pixel = hardened(levels), unit_of(grid), pixel_side(grid)
    far = distances(cover, cap, grid)
    ridge = ridges(far, grid)
    # Whole pixels, so that the way is as long along rows and columns as across.
    side = _wide(grid)
    reach = math.ceil(CORNER * (least / 2 + pixel / 2) / side) * side
    highest = np.asarray(cv2.dilate(ridge, disc(reach, grid)), np.int16)
    # A pixel lies in the band as far as its distance to the middle line says.
    share = (highest - far).astype(np.float32)
    share *= np.float32(-255.0 * unit / pixel)
    share += np.float32(255.0 * (least / 2 + pixel / 2) / pixel)
    band = cv2.convertScaleAbs(np.maximum(share, np.float32(0.0)))
    # At corners the distance grows along the middle line, which is no stroke's.
    rise = highest - ridge
    level = (rise <= FLAT * reach / unit + TIE) & _near_strokes(far, ridge, cap, grid)
    near = most_within(level.view(np.uint8), disc(least / 2 + pixel, grid))
    crest = np.asarray(cv2.dilate(ridge, np.ones((3, 3), np.uint8))) - ridge < CREST * FINE
    joints = crest & level & (rise > FLAT / 3 * reach / unit + TIE)
    return Spine(cover, far, _where(near, band), joints.view(np.uint8) * np.uint8(255))


def _near_strokes(far: Units, ridge: Units, cap: float, grid: Grid) -> npt.NDArray[np.bool_]:
    """Where middle lines that climb little on a long way are near, bool (h, w).

    The lines of corners climb all along. Those of strokes do where these end in broader ones, but
    not farther off.
    """
    unit, pixel = unit_of(grid), pixel_side(grid)
    way = LONG * pixel
    highest = np.asarray(cv2.dilate(ridge, disc(way, grid)), np.int16)
    # What is as high as distances are told may be higher.
    told = (far > -FINE // 2) & (highest <= (cap - pixel / 2) / unit)
    runs = told & (highest - ridge <= CLIMB * way / unit)
    return most_within(runs.view(np.uint8), disc(way + _wide(grid), grid)) > 0


@dataclass(frozen=True, eq=False)
class _Strokes:
    """The spine of strokes, and the most that a plate covers around each pixel, uint8 (h, w)."""

    spine: Spine
    full: Plate

    @property
    def nbytes(self) -> int:
        """Bytes that they take, with what they are known by."""
        return 2 * self.full.nbytes + self.spine.nbytes

    def part(self, block: Block) -> _Strokes:
        return _Strokes(self.spine.part(block), self.full[block.place])


#: Those of pictures, by the plate and all that is seen around a pixel: of most chokes that differ
#: by little it is the same.
_STROKES: Kept[tuple[bytes, tuple[int, ...], bytes, float, float, Grid], _Strokes] = Kept(
    400, most=64 << 20, weigh=lambda strokes: strokes.nbytes
)


def _strokes(plate: Plate, by: float, least: float, grid: Grid, *, kept: bool) -> _Strokes:
    radius, cap = by + least / 2, _cap(_rounded(by), least, grid)

    def spine_of(levels: Plate) -> Spine:
        key = levels.tobytes(), levels.shape, cap, least, grid
        return _SPINES.get(key, lambda: _spine(levels, cap, least, grid))

    def made() -> _Strokes:
        levels, full = relative(plate, radius, grid)
        return _Strokes(spine_of(levels) if kept else _spine(levels, cap, least, grid), full)

    if not kept:
        return made()
    key = plate.tobytes(), plate.shape, seen_around(radius, grid).tobytes(), cap, least, grid
    return _STROKES.get(key, made)


def _middles(
    plate: Plate, choked: Plate, strokes: _Strokes, by: float, least: float, grid: Grid
) -> Plate:
    """A band of ``least`` mm around the middle lines of strokes, uint8 (h, w)."""
    spine, full = strokes.spine, strokes.full
    band = cv2.min(cv2.multiply(spine.share, full, scale=1.0 / 255.0), plate)
    # What lies outside is no stroke, and has no middle.
    faint = cv2.compare(cv2.add(plate, plate), full, cv2.CMP_LT)
    outside = cv2.bitwise_and(faint, cv2.inRange(spine.cover, (0,), (0,)))
    band = _where(cv2.bitwise_not(outside), band)
    way = _ways(band, choked, spine.far, _steps(by, grid), grid)
    weak = cv2.bitwise_and(cv2.inRange(band, (0,), (199,)), cv2.inRange(plate, (128,), (255,)))
    way = np.bitwise_or(way, cv2.bitwise_and(weak, spine.joints))
    if not cv2.hasNonZero(way):
        return band
    return np.maximum(band, np.minimum(_grown(way, least / 2, grid), plate))


def _rimmed(plane: Any, value: int) -> npt.NDArray[Any]:
    """The pixels of a plane with one more on all sides, row by row."""
    rimmed = cv2.copyMakeBorder(plane, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=(value,))
    return np.asarray(rimmed).ravel()


def _ways(band: Plate, choked: Plate, far: Units, steps: int, grid: Grid) -> Plate:
    """Pixels on the way from the ends of what is spared to what the choke left: 255 there.

    Where a stroke runs into a broader one, its middle line climbs until the choke leaves it.
    """
    high, wide = band.shape
    band, choked = (
        np.asarray(cv2.threshold(plane, 127, 255, cv2.THRESH_BINARY)[1], np.uint8)
        for plane in (band, choked)
    )
    # Who climbs within what is spared gets nowhere new: each pixel there begins by itself, and
    # goes where it is higher outside.
    beyond = cv2.copyTo(far, cv2.bitwise_not(band), np.full_like(far, LOWEST))
    climbs = np.asarray(cv2.dilate(beyond, np.ones((3, 3), np.uint8))) > far
    begun = cv2.bitwise_and(climbs.view(np.uint8), cv2.subtract(band, choked))
    if not cv2.hasNonZero(begun):
        return np.zeros_like(band)
    ways = [(dx, dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1) if dx or dy]
    offsets = np.array([dy * (wide + 2) + dx for dx, dy in ways])
    lengths = [math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y) for dx, dy in ways]
    per_mm = np.array([1.0 / length for length in lengths], np.float32)
    # Each pixel has a neighbour on all sides in planes with a rim.
    at = np.flatnonzero(begun.view(bool))
    at += 2 * (at // wide) + wide + 3
    heights, ends = _rimmed(far, LOWEST), _rimmed(cv2.bitwise_or(band, choked), 0)
    passed = np.zeros(heights.shape, np.uint8)
    for _ in range(steps):
        rises = (heights.take(at[:, None] + offsets) - heights.take(at)[:, None]) * per_mm
        steepest = rises.argmax(axis=1)
        climbs = rises[np.arange(len(at)), steepest] > 0
        at = distinct((at + offsets.take(steepest))[climbs])
        at = at[ends.take(at) == 0]
        if not len(at):
            break
        ends[at] = passed[at] = 255
    return passed.reshape(high + 2, wide + 2)[1:-1, 1:-1]
