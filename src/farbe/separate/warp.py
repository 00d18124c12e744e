"""Artwork that is turned or mirrored, on the output grid, any rows at a time."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import CHANNELS, Artwork, Pixels

#: A map of places of a canvas in pixels, float64 (..., 2), to places in pixels of an artwork.
Bend = Callable[[npt.NDArray[np.float64]], npt.NDArray[np.float64]]
#: One channel in floats, (h, w).
FloatPlane = npt.NDArray[np.float32]
#: Canvas columns warped at once: bounds what is needed of the artwork, however it is turned.
TILE = 416


def source_matrix(
    artwork: Artwork,
    *,
    middle: tuple[float, float],
    size: tuple[float, float],
    per_mm: tuple[float, float],
    rotation: float,
    mirror: bool,
) -> npt.NDArray[np.float64]:
    """The map from canvas pixels to artwork pixels, float64 (2, 3), y down in both.

    Parameters
    ----------
    artwork : its pixels
    middle : of the artwork on the canvas, in pixels
    size : of the artwork before it is turned, in mm
    per_mm : canvas pixels per mm along x and y
    rotation : degrees, anticlockwise as seen
    mirror : left to right, after it is turned

    Returns
    -------
    float64
    """
    turn = math.radians(rotation)
    c, s = math.cos(turn), math.sin(turn)
    # Canvas pixels to mm, turned back, mirrored back, to artwork pixels.
    to_mm = np.diag([1 / per_mm[0], 1 / per_mm[1]])
    back = np.array([[c, -s], [s, c]])
    flip = np.diag([-1.0 if mirror else 1.0, 1.0])
    to_art = np.diag([artwork.width / size[0], artwork.height / size[1]])
    linear = to_art @ flip @ back @ to_mm
    # The middle of a pixel is half a pixel in from its corner, on both sides.
    centre = np.array([artwork.width / 2, artwork.height / 2])
    shift = centre - 0.5 - linear @ (np.asarray(middle) - 0.5)
    return np.hstack([linear, shift[:, None]])


def warped(
    artwork: Artwork, matrix: npt.NDArray[np.float64], width: int, start: int, stop: int
) -> Pixels:
    """Canvas rows through ``matrix``, uint8 (stop - start, width, channels), alpha always last.

    Colours are weighted by alpha; where the artwork is reduced, it is averaged first.

    Parameters
    ----------
    artwork : its pixels
    matrix : float64 (2, 3)
    width : pixels
    start : first row
    stop : row after the last

    Returns
    -------
    uint8 (h, w, n)
    """
    tiles = [
        _tile(artwork, matrix, (left, start), (min(left + TILE, width), stop))
        for left in range(0, width, TILE)
    ]
    return np.concatenate(tiles, axis=1)


def _tile(
    artwork: Artwork,
    matrix: npt.NDArray[np.float64],
    first: tuple[int, int],
    last: tuple[int, int],
) -> Pixels:
    """Canvas pixels from ``first`` up to ``last`` (x, y)."""
    width, rows = last[0] - first[0], last[1] - first[1]
    corners = np.array([(x, y) for x in (first[0], last[0]) for y in (first[1], last[1])]) - 0.5
    reached = corners @ matrix[:, :2].T + matrix[:, 2]
    step = max(float(np.linalg.norm(matrix[:, 0])), float(np.linalg.norm(matrix[:, 1])))
    by = max(1, int(step + 1e-6))
    low = np.floor(reached.min(axis=0)).astype(int) - 3 * by
    high = np.ceil(reached.max(axis=0)).astype(int) + 3 * by
    # Aligned to the reduction, so that a pixel is averaged from the same ones in every tile.
    left, top = (max(0, int(v)) // by * by for v in low)
    right, bottom = min(artwork.width, int(high[0])), min(artwork.height, int(high[1]))
    channels = CHANNELS[artwork.space] + 1
    if right <= left or bottom <= top:
        return np.zeros((rows, width, channels), np.uint8)
    planes = _weighted(artwork, slice(top, bottom), slice(left, right))
    if by > 1:
        planes = [_averaged(one, by) for one in planes]
    local = matrix.copy()
    local[:, 2] += matrix[:, :2] @ np.asarray(first, np.float64) - (left, top)
    local /= by
    local[:, 2] += (1.0 / by - 1.0) / 2.0

    def plane(of: FloatPlane) -> FloatPlane:
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        made = cv2.warpAffine(
            of, local, (width, rows), flags=flags, borderMode=cv2.BORDER_CONSTANT, borderValue=(0,)
        )
        return np.asarray(made, np.float32)

    return _unweighted([plane(one) for one in planes])


def _unweighted(planes: list[FloatPlane]) -> Pixels:
    """Pixels (h, w, n) of planes as of :func:`_weighted`: colours are divided by alpha again."""
    *colours, cover = planes
    weight = 255.0 / np.maximum(cover, np.float32(0.5))
    weight[cover < 0.5] = 0.0
    levels = cv2.merge([*(one * weight for one in colours), cover])
    return np.asarray(cv2.convertScaleAbs(levels), dtype=np.uint8)


def _weighted(artwork: Artwork, rows: slice, columns: slice) -> list[FloatPlane]:
    """Planes of colours times alpha, and of alpha."""
    part = artwork.pixels[rows, columns]
    planes = [np.asarray(p, np.float32) for p in cv2.split(part)]
    if artwork.looked_at is not None:
        artwork.looked_at(part.nbytes)
    if not artwork.has_alpha:
        return [*planes, np.full_like(planes[0], 255.0)]
    *colours, cover = planes
    share = cover * np.float32(1.0 / 255.0)
    return [*(one * share for one in colours), cover]


def _averaged(plane: FloatPlane, by: int) -> FloatPlane:
    """Means of ``by`` x ``by`` pixels; a rest at the end is filled up with nothing."""
    high, wide = (-(-side // by) * by for side in plane.shape)
    padded = np.zeros((high, wide), np.float32)
    padded[: plane.shape[0], : plane.shape[1]] = plane
    size = (wide // by, high // by)
    return np.asarray(cv2.resize(padded, size, interpolation=cv2.INTER_AREA), np.float32)


def bent_rows(artwork: Artwork, bend: Bend, width: int, start: int, stop: int) -> Pixels:
    """Canvas rows through any smooth map, uint8 (stop - start, width, channels), alpha last.

    Colours are weighted by alpha; where the artwork is reduced, it is averaged first.

    Parameters
    ----------
    artwork : its pixels
    bend : from canvas to artwork
    width : pixels
    start : first row
    stop : row after the last

    Returns
    -------
    uint8 (h, w, n)
    """
    tiles = [
        _bent_tile(artwork, bend, (left, start), (min(left + TILE, width), stop))
        for left in range(0, width, TILE)
    ]
    return np.concatenate(tiles, axis=1)


def _bent_tile(
    artwork: Artwork, bend: Bend, first: tuple[int, int], last: tuple[int, int]
) -> Pixels:
    """Canvas pixels from ``first`` up to ``last`` (x, y)."""
    columns = np.arange(first[0], last[0]) + 0.5
    rows = np.arange(first[1], last[1]) + 0.5
    places = np.stack(np.meshgrid(columns, rows), axis=-1)
    reached = bend(places)
    channels = CHANNELS[artwork.space] + 1
    # How many pixels of the artwork a step of the canvas takes, in the middle of the tile.
    middle = places[len(rows) // 2, len(columns) // 2]
    step = max(float(np.linalg.norm(bend(middle + by) - bend(middle))) for by in np.eye(2))
    by = max(1, int(step + 1e-6))
    low, high = (np.array([end(reached[..., axis]) for axis in (0, 1)]) for end in (np.min, np.max))
    low = np.floor(low).astype(int) - 3 * by
    high = np.ceil(high).astype(int) + 3 * by
    left, top = (max(0, int(v)) // by * by for v in low)
    right, bottom = min(artwork.width, int(high[0])), min(artwork.height, int(high[1]))
    if right <= left or bottom <= top:
        return np.zeros((len(rows), len(columns), channels), np.uint8)
    planes = _weighted(artwork, slice(top, bottom), slice(left, right))
    if by > 1:
        planes = [_averaged(one, by) for one in planes]
    # Middles of pixels lie half a pixel in, before and after the reduction.
    local = ((reached - (left, top)) / by - 0.5).astype(np.float32)

    def plane(of: FloatPlane) -> FloatPlane:
        made = cv2.remap(
            of, local[..., 0], local[..., 1], cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT, borderValue=(0,),
        )  # fmt: skip
        return np.asarray(made, np.float32)

    return _unweighted([plane(one) for one in planes])
