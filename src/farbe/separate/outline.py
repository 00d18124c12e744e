"""Outlines to coverage, antialiased, any rows at a time."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.distinct import distinct
from farbe.kept import Kept

#: Corners of a closed line, float64 (n, 2), x and y in pixels; the last joins the first.
PixelRing = npt.NDArray[np.float64]
#: Scan lines in a pixel row; along a line the coverage is exact.
LINES = 8
#: Pixels up to which a cover is made by bands of so many rows: pictures ask for any rows of it.
NARROW, BAND = 2048, 256
#: Share of a pixel that no level shows.
UNSEEN = 5e-4


#: Covers of outlines that several pieces share, which lie side by side on a bed, or that are drawn
#: again at the next edit.
_COVERS: Kept[tuple[tuple[bytes, ...], int, int, int], Pixels] = Kept(
    400, most=48 << 20, weigh=lambda cover: cover.nbytes
)


def covered(rings: tuple[PixelRing, ...], width: int, start: int, stop: int) -> Pixels:
    """What :func:`rasterise` gives, not to be written to, once for all who ask.

    Parameters
    ----------
    rings : closed, in pixels
    width : pixels
    start : first row
    stop : row after the last

    Returns
    -------
    uint8 (h, w, n)
    """
    outlines = tuple(ring.tobytes() for ring in rings)

    def kept(first: int, last: int) -> Pixels:
        key = outlines, width, first, last
        return _COVERS.get(key, lambda: rasterise(rings, width, first, last))

    if width > NARROW or start >= stop:
        return kept(start, stop)
    tops = range(start - start % BAND, stop, BAND)
    bands = [kept(top, top + BAND)[max(0, start - top) : stop - top] for top in tops]
    return bands[0] if len(bands) == 1 else np.concatenate(bands)


def covers_all(rings: tuple[PixelRing, ...], width: int, start: int, stop: int) -> bool:
    """Whether :func:`rasterise` gives 255 everywhere, as for an upright rectangle around rows.

    Parameters
    ----------
    rings : closed, in pixels
    width : pixels
    start : first row
    stop : row after the last

    Returns
    -------
    False where it is not seen at a glance.
    """
    if len(rings) != 1 or len(rings[0]) != 4:
        return False
    left, top = rings[0].min(axis=0)
    right, bottom = rings[0].max(axis=0)
    at_bounds = (rings[0] == (left, top)) | (rings[0] == (right, bottom))
    sides = np.abs(np.diff(rings[0], axis=0, append=rings[0][:1])) > 0
    return bool(
        at_bounds.all() and (sides.sum(axis=1) == 1).all()
        and left <= UNSEEN and right >= width - UNSEEN
        and top <= start + UNSEEN and bottom >= stop - UNSEEN
    )  # fmt: skip


def rasterise(rings: tuple[PixelRing, ...], width: int, start: int, stop: int) -> Pixels:
    """Area covered inside rings (even-odd), for some rows.

    Parameters
    ----------
    rings : closed lines in pixels, x right, y down, from the canvas's corner
    width : canvas width in pixels
    start, stop : rows wanted; rows outside the outline are empty

    Returns
    -------
    uint8 array, shape (stop - start, width)
    """
    rows = stop - start
    lines, crossings = _crossings(rings, start, rows * LINES)
    order = np.lexsort((crossings, lines))
    lines, crossings = lines[order], np.clip(crossings[order], 0.0, width)
    sign = np.where(np.arange(len(lines)) % 2 == 0, 1.0, -1.0)
    column = np.floor(crossings).astype(np.int64)
    inside = crossings - column
    row = lines // LINES
    # Steps: from a crossing on, the running sum along the row is the coverage.
    used = distinct(np.concatenate([column, column + 1]))
    at = np.searchsorted(used, column)
    flat = np.concatenate([row * len(used) + at, row * len(used) + at + 1])
    amount = np.concatenate([sign * (1.0 - inside), sign * inside])
    steps = np.bincount(flat, amount, minlength=rows * len(used)).reshape(rows, len(used))
    sums = np.cumsum(steps, axis=1, dtype=np.float32)
    levels = np.clip(np.rint(sums * (255.0 / LINES)), 0, 255).astype(np.uint8)
    return _spread(levels, used, width)


def _spread(levels: Pixels, used: npt.NDArray[np.int64], width: int) -> Pixels:
    """Levels of some columns in all columns: from one of them on they stay until the next."""
    result = np.zeros((len(levels), width), np.uint8)
    breaks = np.flatnonzero(np.diff(used) > 1) + 1
    firsts = np.concatenate([[0], breaks])
    lasts = np.concatenate([breaks, [len(used)]])
    for first, last in zip(firsts.tolist(), lasts.tolist(), strict=True):
        if first == last or used[first] >= width:
            break
        left, right = int(used[first]), min(width, int(used[last - 1]) + 1)
        result[:, left:right] = levels[:, first : first + right - left]
        until = int(used[last]) if last < len(used) else width
        result[:, right:until] = levels[:, last - 1 : last]
    return result


def _crossings(
    rings: tuple[PixelRing, ...], start: int, count: int
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.float64]]:
    """Scan line numbers and x where edges cross them."""
    ends = np.concatenate([np.hstack([ring, np.roll(ring, -1, axis=0)]) for ring in rings])
    x0, y0, x1, y1 = ends.T
    # Scan line k lies at y = start + (k + 1/2) / LINES.
    first = np.ceil((np.minimum(y0, y1) - start) * LINES - 0.5).astype(np.int64)
    last = np.ceil((np.maximum(y0, y1) - start) * LINES - 0.5).astype(np.int64)
    first, last = np.clip(first, 0, count), np.clip(last, 0, count)
    number = last - first
    edge = np.repeat(np.arange(len(number)), number)
    line = first[edge] + np.arange(number.sum()) - np.repeat(np.cumsum(number) - number, number)
    y = start + (line + 0.5) / LINES
    x = x0[edge] + (y - y0[edge]) * (x1 - x0)[edge] / (y1 - y0)[edge]
    return line, x
