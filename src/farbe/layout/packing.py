"""True shapes on a strip of film, with little of it used."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

Mask = npt.NDArray[np.bool_]

#: Cells of the map in which true shapes look for room; more of them pack closer and take longer.
MOST_CELLS = 60_000
#: Side in mm of the cells in which shapes settle.
CELL = 1.0


@dataclass(frozen=True)
class Spot:
    """Where an item lies: its number, its middle in mm, degrees anticlockwise, and the sheet."""

    item: int
    x: float
    y: float
    turned: int
    sheet: int = 0


@dataclass(frozen=True)
class Strip:
    """Film to pack on: width and greatest length in mm, the gap between items."""

    width: float
    longest: float
    gap: float
    turning: bool


class TooLarge(ValueError):
    """An item is larger than a sheet; ``item`` is its number."""

    def __init__(self, item: int) -> None:
        super().__init__(f"item {item} is larger than a sheet")
        self.item = item


def must_fit(number: int, wide: float, high: float, strip: Strip) -> None:
    """See that an item fits a sheet by itself.

    Parameters
    ----------
    number : of the item
    wide, high : of the item, mm
    strip : the film between its margins, in mm

    Raises
    ------
    TooLarge
        If it does not.
    """
    ways = [(wide, high), (high, wide)] if strip.turning else [(wide, high)]
    if not any(w <= strip.width + 1e-9 and h <= strip.longest + 1e-9 for w, h in ways):
        raise TooLarge(number)


@dataclass(frozen=True, eq=False)
class _Shape:
    """A shape in cells, grown by half the gap, y up; its middle from the first cell's corner."""

    cells: Mask
    middle: tuple[float, float]
    turned: int


def pack_shapes(masks: Sequence[Mask], kinds: Sequence[int], strip: Strip) -> list[Spot]:
    """Lay true shapes on sheets, the largest first, each as near to the sheet's start as it goes.

    Parameters
    ----------
    masks : each kind of shape, one bool a square millimetre (h, w), y down, true wherever the
        shape touches it
    kinds : the kind of each item
    strip : the film between its margins, and the gap, in mm

    Returns
    -------
    Where each shape lies, in the order in which they were given.

    Raises
    ------
    TooLarge
        If an item does not fit a sheet at all.

    Notes
    -----
    Room is looked for by correlating the shape with what is taken; where the sum is nought, they
    do not meet. Both are grown by half the gap. What was laid on coarse cells then settles on
    cells of a millimetre.
    """
    for number, kind in enumerate(kinds):
        high, wide = masks[kind].shape
        must_fit(number, wide, high, strip)
    by_area = sorted(range(len(kinds)), key=lambda i: (-int(masks[kinds[i]].sum()), i))
    by_side = sorted(range(len(kinds)), key=lambda i: (-max(masks[kinds[i]].shape), i))
    area = sum(float(masks[kind].sum()) for kind in kinds)
    length = min(strip.longest, 2.0 * area / strip.width + max(max(m.shape) for m in masks))
    coarse = max(1, math.ceil(math.sqrt(strip.width * length / MOST_CELLS)))
    tried = (_sheets(masks, kinds, order, strip, coarse) for order in (by_area, by_side))
    return min(tried, key=lambda spots: _film_of(spots, masks, kinds))


def _film_of(spots: list[Spot], masks: Sequence[Mask], kinds: Sequence[int]) -> tuple[int, float]:
    """Number of sheets, and where the last one ends."""
    last = max((spot.sheet for spot in spots), default=0)
    ends = (
        s.y + masks[kinds[s.item]].shape[1 if s.turned % 180 else 0] / 2
        for s in spots if s.sheet == last
    )  # fmt: skip
    return last, max(ends, default=0.0)


def _sheets(
    masks: Sequence[Mask], kinds: Sequence[int], order: list[int], strip: Strip, coarse: int
) -> list[Spot]:
    """Sheet after sheet, the items in an order."""
    spots: list[Spot] = []
    left, sheet = order, 0
    while left:
        laid, left = _fill_sheet(masks, kinds, left, strip, coarse)
        laid = _settled(masks, kinds, laid, strip)
        spots += [Spot(s.item, s.x, s.y, s.turned, sheet) for s in laid]
        sheet += 1
    return spots


def _turns(strip: Strip) -> tuple[int, ...]:
    return (0, 90, 180, 270) if strip.turning else (0,)


def _shape(mask: Mask, gap: float, turned: int, cell: int) -> _Shape:
    """A shape as it is laid, grown by half the gap, on cells of so many mm."""
    upright = np.rot90(mask, turned // 90)[::-1]
    grow = math.ceil(gap / 2 / CELL - 1e-9)
    padded = np.pad(upright, grow).astype(np.uint8)
    if gap > 0:
        # A cell is taken if any of it lies within half the gap of any taken cell.
        reach = gap / 2 / CELL
        y, x = np.mgrid[-grow : grow + 1, -grow : grow + 1]
        disc = (np.maximum(np.abs(x) - 1, 0) ** 2 + np.maximum(np.abs(y) - 1, 0) ** 2) < reach**2
        padded = np.asarray(cv2.dilate(padded, disc.astype(np.uint8)), np.uint8)
    high, wide = (-(-side // cell) * cell for side in padded.shape)
    whole = np.zeros((high, wide), np.uint8)
    whole[: padded.shape[0], : padded.shape[1]] = padded
    cells = whole.reshape(high // cell, cell, wide // cell, cell).any(axis=(1, 3))
    middle = (padded.shape[1] / 2 * CELL, padded.shape[0] / 2 * CELL)
    return _Shape(np.asarray(cells, np.bool_), middle, turned)


def _fill_sheet(
    masks: Sequence[Mask], kinds: Sequence[int], order: list[int], strip: Strip, cell: int
) -> tuple[list[Spot], list[int]]:
    """What finds room on a sheet, and what is left for the next one."""
    # Items may hang over the sheet's edges by their own half of the gap.
    over = 2 * math.ceil(strip.gap / 2)
    wide = int((strip.width + over) // cell)
    high = int((strip.longest + over) // cell)
    taken = np.zeros((high, wide), np.float32)
    shapes: dict[int, list[_Shape]] = {}
    first: dict[tuple[int, int], int] = {}
    spots, left, top = list[Spot](), list[int](), 0
    for item in order:
        kind = kinds[item]
        if kind not in shapes:
            shapes[kind] = [_shape(masks[kind], strip.gap, t, cell) for t in _turns(strip)]
        best: tuple[int, int, int, _Shape] | None = None
        for shape in shapes[kind]:
            # What found no room further down will find none there later.
            start = first.get((kind, shape.turned), 0)
            place = _lowest(taken, shape.cells, start, top)
            if place is None:
                continue
            row, column = place
            first[kind, shape.turned] = row
            end = row + shape.cells.shape[0]
            if best is None or (end, row, column) < best[:3]:
                best = (end, row, column, shape)
        if best is None:
            left.append(item)
            continue
        end, row, column, shape = best
        part = taken[row:end, column : column + shape.cells.shape[1]]
        np.maximum(part, shape.cells, out=part)
        top = max(top, end)
        spots.append(_spot(item, shape, row * cell, column * cell, over))
    return spots, left


def _spot(item: int, shape: _Shape, row: float, column: float, over: int) -> Spot:
    x, y = column + shape.middle[0] - over / 2, row + shape.middle[1] - over / 2
    return Spot(item, x, y, shape.turned)


def _lowest(
    taken: npt.NDArray[np.float32], cells: Mask, start: int, top: int
) -> tuple[int, int] | None:
    """The first row and column where cells meet nothing; None if there is no room."""
    high, wide = cells.shape
    if wide > taken.shape[1] or high > taken.shape[0]:
        return None
    # Nothing lies above the top, so there is room there if the sheet is long enough.
    stop = min(taken.shape[0], top + high)
    window = taken[start:stop]
    if len(window) < high:
        return None
    met = cv2.matchTemplate(window, cells.astype(np.float32), cv2.TM_CCORR)
    free = np.asarray(met) < 0.5
    place = int(np.argmax(free))
    if not free.flat[place]:
        return None
    return start + place // free.shape[1], place % free.shape[1]


def _settled(
    masks: Sequence[Mask], kinds: Sequence[int], spots: list[Spot], strip: Strip
) -> list[Spot]:
    """The same items moved towards the start, cell by cell of a millimetre, twice over."""
    over = 2 * math.ceil(strip.gap / 2)
    wide, high = int(strip.width + over), int(strip.longest + over)
    shapes: dict[tuple[int, int], _Shape] = {}
    at: list[tuple[int, int]] = []
    taken = np.zeros((high, wide), np.int16)
    for spot in spots:
        key = kinds[spot.item], spot.turned
        if key not in shapes:
            shapes[key] = _shape(masks[key[0]], strip.gap, spot.turned, 1)
        shape = shapes[key]
        row = min(round(spot.y + over / 2 - shape.middle[1]), high - shape.cells.shape[0])
        column = min(round(spot.x + over / 2 - shape.middle[0]), wide - shape.cells.shape[1])
        at.append((max(0, row), max(0, column)))
        _add(taken, shape.cells, at[-1], 1)
    for _ in range(2):
        for index in sorted(range(len(spots)), key=lambda i: at[i]):
            cells = shapes[kinds[spots[index].item], spots[index].turned].cells
            _add(taken, cells, at[index], -1)
            at[index] = _moved(taken, cells, at[index])
            _add(taken, cells, at[index], 1)
    return [
        _spot(spot.item, shapes[kinds[spot.item], spot.turned], row, column, over)
        for spot, (row, column) in zip(spots, at, strict=True)
    ]


def _add(taken: npt.NDArray[np.int16], cells: Mask, at: tuple[int, int], by: int) -> None:
    row, column = at
    part = taken[row : row + cells.shape[0], column : column + cells.shape[1]]
    part += by * cells.astype(np.int16)


#: How far items settle in one go, in mm.
_FALL, _ASIDE = 24, 6


def _moved(taken: npt.NDArray[np.int16], cells: Mask, at: tuple[int, int]) -> tuple[int, int]:
    """The lowest free place near another one; that itself, if there is none lower."""
    row, column = at
    low, left = max(0, row - _FALL), max(0, column - _ASIDE)
    right = min(taken.shape[1], column + cells.shape[1] + _ASIDE)
    window = (taken[low : row + cells.shape[0], left:right] > 0).astype(np.float32)
    met = np.asarray(cv2.matchTemplate(window, cells.astype(np.float32), cv2.TM_CCORR))
    free = met < 0.5
    place = int(np.argmax(free))
    if not free.flat[place]:
        return at
    return low + place // free.shape[1], left + place % free.shape[1]
