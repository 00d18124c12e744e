"""What a choke spares: of fine strokes a least width stays.

A stroke of width ``w`` that is choked by ``c`` keeps ``max(w - 2 c, min(w, least))``. What is
kept over the plain choke lies around the stroke's middle line.
"""

from __future__ import annotations

import math

import cv2
import numpy as np

from farbe.separate.blocks import marked_blocks
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid, disc, pixel_length, pixel_side, pixels_in
from farbe.separate.masks import any_within
from farbe.separate.middle import LEAST_COVER, padded
from farbe.separate.strokes import (
    CORNER,
    EDGES,
    ahead,
    middles_reach,
    rounded,
    strokes_in,
    strokes_reach,
    where,
)
from farbe.separate.within import least_within, most_at, most_within

#: Looks at pixels around others, as a share of all pixels, up to which to look around each is
#: quicker than to look around blocks.
FEW = 1 / 3
#: Rows and columns that are looked at together, about: fewer hold less of what is no stroke, more
#: of them less of what lies around.
BLOCK = 256
#: The same of pictures, where what is found in a block is kept, and of masks, which take little.
WHOLE = 1024


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
    by = rounded(by)
    thin = _near(by, least, grid) + _thin_far(by, least, grid) + by + 2 * pixel_length(grid)
    return pixels_in(
        max(thin, strokes_reach(by, least, grid) + middles_reach(by, least, grid)), grid
    )


def rim(least: float, grid: Grid) -> tuple[int, int]:
    """Pixels (x, y) of nothing with which a plate ends as if nothing lay beyond them.

    Parameters
    ----------
    least : width in mm that is spared, 0 or more
    grid : resolution

    Returns
    -------
    Columns and rows.
    """
    # What is thin is told as if all lay beyond; edges are smoothed by a few pixels.
    return pixels_in(least / 2 + EDGES * pixel_length(grid), grid)


def _thin_far(by: float, least: float, grid: Grid) -> float:
    """Mm of a choked plate beyond which :func:`_thin` sees nothing."""
    return sum(_opened(by, least, grid))


def _opened(by: float, least: float, grid: Grid) -> tuple[float, float]:
    """Mm by which a choked plate is drawn back to see what is thin, and by which it is grown then.

    That is a little more, so that corners are no strokes.
    """
    back = least / 2 + pixel_length(grid)
    return back, CORNER * (by + back) + pixel_side(grid)


def _near(by: float, least: float, grid: Grid) -> float:
    """Mm around a thin place within which anything is added."""
    return 2 * by + least + 2 * pixel_side(grid)


def spared(
    plate: Plate,
    choked: Plate,
    by: float,
    least: float,
    grid: Grid,
    *,
    unwanted: tuple[int, int] = (0, 0),
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
    unwanted : rows at the first and at the last end in which nothing need be spared
    kept : what follows from the plate alone is kept, for the next picture with another choke

    Returns
    -------
    uint8 (rows, width), nowhere less than ``choked`` nor, but for that, more than ``plate``.
    Right but for :func:`spare_reach` rows at either end.
    """
    first, last = unwanted[0], len(plate) - unwanted[1]
    if by <= 0 or least <= 0 or first >= last or not cv2.hasNonZero(plate):
        return choked
    near = _near(by, least, grid)
    # What is thin is looked for no farther than something is added around it.
    seen = _thin_reach(by, least, grid) + math.ceil(near * grid.per_mm_y)
    looked = slice(max(0, first - seen), min(len(plate), last + seen))
    thin = _thin(plate[looked], choked[looked], by, least, grid)
    if not cv2.hasNonZero(thin):
        return choked
    there = np.zeros_like(plate)
    there[looked] = _grown_in_blocks(thin, near, grid)
    # At the ends of a strip the choke takes what goes on beyond, which is no stroke.
    there[:first], there[last:] = 0, 0
    across = rim(least, grid)[0]
    if not _reaches_sides(plate, across):
        return _with_strokes(plate, choked, there, by, least, grid, kept=kept)
    # Beyond its first and last column there is nothing, as beyond the rows of a print.
    wider = [padded(one, (across, 0), 0) for one in (plate, choked, there)]
    made = _with_strokes(wider[0], wider[1], wider[2], by, least, grid, kept=kept)
    return np.ascontiguousarray(made[:, across:-across])


def _reaches_sides(plate: Plate, across: int) -> bool:
    """Whether there is anything in so many of the first or the last columns."""
    return across > 0 and bool(plate[:, :across].any() or plate[:, -across:].any())


def _with_strokes(
    plate: Plate, choked: Plate, there: Plate, by: float, least: float, grid: Grid, *, kept: bool
) -> Plate:
    """A choked plate with what is to stay of strokes where ``there`` is not 0."""
    # Of pictures, a choke that is a little larger is to ask for the same blocks.
    result, looked = choked.copy(), ahead(by, grid) if kept else by
    ways = middles_reach(looked, least, grid)
    far, little = pixels_in(strokes_reach(looked, least, grid) + ways, grid), pixels_in(ways, grid)
    # What is looked at around each is to be little of it.
    about = WHOLE if kept else BLOCK
    for block in marked_blocks(there, max(about, 2 * max(far)), whole=kept):
        around, beside = block.around(far, plate.shape), block.around(little, plate.shape)
        drawn, own = np.ascontiguousarray(plate[around.place]), beside.within(around)
        strokes = strokes_in(drawn, own, by, least, grid, kept=kept)
        added = strokes.middles(drawn[own.place], choked[beside.place], by)
        into, added = result[block.place], added[block.within(beside).place]
        np.maximum(into, where(there[block.place], added), out=into)
    return result


def _grown_in_blocks(mask: Plate, radius: float, grid: Grid) -> Plate:
    """A mask grown by mm; little is looked at where there is little of it."""
    kernel = disc(radius, grid)
    grown, reach = np.zeros_like(mask), _reach_of(kernel)
    for block in marked_blocks(mask, max(WHOLE, 2 * max(reach))):
        around = block.around(reach, mask.shape).place
        np.maximum(grown[around], any_within(mask[around], kernel), out=grown[around])
    return grown


def _reach_of(kernel: Plate) -> tuple[int, int]:
    """Columns and rows that a kernel reaches."""
    return kernel.shape[1] // 2, kernel.shape[0] // 2


def _thin_reach(by: float, least: float, grid: Grid) -> int:
    """Rows beyond which :func:`_thin` sees nothing."""
    return pixels_in(_thin_far(by, least, grid), grid)[1] + 1


def _thin(plate: Plate, choked: Plate, by: float, least: float, grid: Grid) -> Plate:
    """Where strokes are thinner than what a choke leaves ``least`` of: not 0."""
    back, far = (disc(radius, grid) for radius in _opened(by, least, grid))
    # At its sides a print ends; at the ends of a strip it goes on.
    across = _reach_of(back)[0] if _reaches_sides(choked, _reach_of(back)[0]) else 0
    left = least_within(padded(choked, (across, 0), 0) if across else choked, back)
    return far_from(np.ascontiguousarray(left[:, across : across + choked.shape[1]]), plate, far)


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
    if 0 < cv2.countNonZero(found) * cv2.countNonZero(kernel) <= FEW * found.size:
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
