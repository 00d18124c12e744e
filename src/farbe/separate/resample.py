"""Pictures at another size: filters along rows and columns, as products of matrices."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Artwork, Pixels

Floats = npt.NDArray[np.float64]
Figures = npt.NDArray[np.float32]
#: Is added before rounding, so that halves, which even edges have along all of their length, go up
#: whatever was lost in the last places of their sums.
HALVES = 0.001
#: Pixels of a line, about, of which new ones are made in one product.
PART = 16
#: Pixels of the artwork, about, of which new rows are made in one go.
AT_ONCE = 1 << 22


def _cubic(x: Floats) -> Floats:
    """The cubic of Keys, "Cubic convolution interpolation", IEEE Trans. ASSP 29 (6), 1981."""
    far = np.abs(x)
    near = (1.5 * far - 2.5) * far * far + 1
    return np.where(far < 1, near, np.where(far < 2, ((2.5 - 0.5 * far) * far - 4) * far + 2, 0.0))


def _windowed(x: Floats) -> Floats:
    """A sinc under the window of Hamming, from -1 to 1."""
    far = np.abs(x)
    return np.where(far < 1, np.sinc(far) * (0.54 + 0.46 * np.cos(np.pi * far)), 0.0)


@dataclass(frozen=True)
class _Filter:
    """What is seen of a pixel so many pixels away, up to ``reach``."""

    of: Callable[[Floats], Floats]
    reach: float


@dataclass(frozen=True, eq=False)
class _Part:
    """New pixels of a line, the old ones that they are made of, and the weights (new, old)."""

    new: slice
    seen: slice
    weights: Figures


_ENLARGING, _REDUCING = _Filter(_cubic, 2.0), _Filter(_windowed, 1.0)


def resampled_rows(
    artwork: Artwork,
    size: tuple[int, int],
    start: int,
    stop: int,
    columns: tuple[int, int] | None = None,
) -> Pixels:
    """Rows of an artwork at another size; colours are weighted by alpha, so that nothing fringes.

    Parameters
    ----------
    artwork : any
    size : (width, height) of all of it in new pixels
    start, stop : first new row, and the one after the last
    columns : first new column, and the one after the last; None for all

    Returns
    -------
    uint8 (stop - start, columns, channels), alpha (if any) last.
    """
    width, height = size
    columns = columns or (0, width)
    by = _ENLARGING if width * height >= artwork.width * artwork.height else _REDUCING
    # Of a much larger artwork so few rows at a time that what they are made of is little.
    seen = artwork.height / height * artwork.width
    step = max(1, min(stop - start, int(AT_ONCE / seen)))
    parts = [
        _rows(artwork, size, at, min(at + step, stop), columns, by)
        for at in range(start, stop, step)
    ]
    return parts[0] if len(parts) == 1 else np.concatenate(parts)


def _rows(
    artwork: Artwork,
    size: tuple[int, int],
    start: int,
    stop: int,
    columns: tuple[int, int],
    by: _Filter,
) -> Pixels:
    width, height = size
    low, high, down = _weighed(artwork.height, height, start, stop, by)
    left, right, across = _weighed(artwork.width, width, *columns, by)
    seen = artwork.rows(low, high)[:, left:right]
    planes = [np.asarray(plane, np.uint8) for plane in cv2.split(seen)]
    cover = planes[-1] if artwork.has_alpha else None
    made = stop - start, columns[1] - columns[0]
    # Most rows cover all or nothing.
    if cover is not None and not cover.any():
        return np.zeros((*made, len(planes)), np.uint8)
    if cover is not None and cover.min() == 255:
        opaque = np.full(made, 255, np.uint8)
        return _levels([*_filtered(planes[:-1], None, made, (down, across), by), opaque])
    return _levels(list(_filtered(planes, cover, made, (down, across), by)))


def _filtered(
    planes: list[Pixels],
    cover: Pixels | None,
    made: tuple[int, int],
    parts: tuple[list[_Part], list[_Part]],
    by: _Filter,
) -> Figures:
    """Planes at another size; all but the last one are weighted by how far they cover."""
    bands = np.empty((len(planes), *planes[0].shape), np.float32)
    for band, plane in zip(bands, planes, strict=True):
        band[:] = plane
    if cover is not None:
        bands[:-1] *= bands[-1]
    (count, width), (down, across) = made, parts
    # First what makes fewer pixels.
    if by is _ENLARGING:
        found = _down(_across(bands, width, across), count, down)
    else:
        found = _across(_down(bands, count, down), width, across)
    if cover is not None:
        seen = found[-1]
        # What rounds to nothing has no colour.
        found[:-1] *= np.float32(1.0) / np.where(seen < 0.5 - HALVES, np.float32(np.inf), seen)
    return found


def _levels(bands: list[npt.NDArray[Any]]) -> Pixels:
    """Bands in whole levels, what overshoots cut off, as one picture (h, w, n)."""
    levels = [cv2.addWeighted(band, 1.0, band, 0.0, HALVES, dtype=cv2.CV_8U) for band in bands]
    return np.asarray(cv2.merge(levels), np.uint8).reshape(*bands[0].shape, len(bands))


def _down(bands: Figures, count: int, parts: list[_Part]) -> Figures:
    """Bands (n, h, w) with so many new rows."""
    found = np.empty((len(bands), count, bands.shape[2]), np.float32)
    for part in parts:
        np.matmul(part.weights, bands[:, part.seen], out=found[:, part.new])
    return found


def _across(bands: Figures, width: int, parts: list[_Part]) -> Figures:
    """Bands (n, h, w) with so many new columns."""
    count, high, wide = bands.shape
    lines = bands.reshape(count * high, wide)
    found = np.empty((count * high, width), np.float32)
    for part in parts:
        np.matmul(lines[:, part.seen], part.weights.T, out=found[:, part.new])
    return found.reshape(count, high, width)


@lru_cache(maxsize=64)
def _weighed(
    source: int, size: int, start: int, stop: int, by: _Filter
) -> tuple[int, int, list[_Part]]:
    """The first pixel of a line that new ones are made of, the one after the last, and by parts.

    Parts are so short that few of their weights are 0.
    """
    scale = source / size
    parts = max(1, round((stop - start) / min(max(PART / scale, 4.0), 64.0)))
    ends = [start + (stop - start) * number // parts for number in range(parts + 1)]
    made = [_weights(source, size, *one, by) for one in pairwise(ends)]
    low, high = made[0][0], max(first + weights.shape[1] for first, weights in made)
    found = []
    for (first, last), (seen, weights) in zip(pairwise(ends), made, strict=True):
        own = slice(seen - low, seen - low + weights.shape[1])
        found.append(_Part(slice(first - start, last - start), own, weights))
    return low, high, found


def _weights(source: int, size: int, start: int, stop: int, by: _Filter) -> tuple[int, Figures]:
    """The first pixel of a line that is used for new ones, and weights (new, used) of each."""
    scale = source / size
    wide = max(1.0, scale)
    middles = (np.arange(start, stop) + 0.5) * scale
    reach = by.reach * wide
    low = max(0, int(middles[0] - reach + 0.5))
    high = min(source, int(middles[-1] + reach + 0.5) + 1)
    away = np.arange(low, high) + 0.5 - middles[:, None]
    found = by.of(away / wide)
    return low, (found / found.sum(axis=1, keepdims=True)).astype(np.float32)
