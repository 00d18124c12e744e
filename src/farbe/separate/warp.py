"""Artwork that is turned or mirrored, on the output grid, any rows at a time."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import CHANNELS, Artwork, Pixels

#: A map of places of a canvas in pixels, float64 (..., 2), to places in pixels of an artwork.
Bend = Callable[[npt.NDArray[np.float64]], npt.NDArray[np.float64]]
#: Channels in floats, 0 to 255, (h, w) or (h, w, 4).
Levels = npt.NDArray[np.float32]
#: Takes pixels of the artwork, (h, w) or (h, w, 4), to the canvas.
Mapped = Callable[[npt.NDArray[Any]], npt.NDArray[Any]]
#: Canvas columns warped at once: bounds what is needed of the artwork, however it is turned, so
#: that it stays in the processor's memory.
TILE = 208


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
    local = matrix.copy()
    local[:, 2] += matrix[:, :2] @ np.asarray(first, np.float64) - (left, top)
    local /= by
    local[:, 2] += (1.0 / by - 1.0) / 2.0

    def mapped(pixels: npt.NDArray[Any]) -> npt.NDArray[Any]:
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        return cv2.warpAffine(
            pixels, local, (width, rows), flags=flags,
            borderMode=cv2.BORDER_CONSTANT, borderValue=(0,) * 4,
        )  # fmt: skip

    inside = low.min() >= 0 and bool((high <= (artwork.width, artwork.height)).all())
    part = artwork.pixels[top:bottom, left:right]
    return _taken(artwork, part, by, mapped, (rows, width), inside=inside)


def _taken(
    artwork: Artwork, part: Pixels, by: int, mapped: Mapped, shape: tuple[int, int], *, inside: bool
) -> Pixels:
    """Part of an artwork, averaged over ``by`` pixels and taken to the canvas, alpha last.

    ``inside`` says that all that is reached is there, ``shape`` how many rows and columns.
    """
    if artwork.looked_at is not None:
        artwork.looked_at(part.nbytes)
    images = _images(artwork, part)
    cover = _last(images[-1])
    if by == 1 and inside:
        # Where all is opaque, nothing need be weighed.
        least, most = cv2.minMaxLoc(cover)[:2]
        if least == 255:
            return np.asarray(cv2.merge([mapped(image) for image in images]), np.uint8)
        if most == 0:
            return np.zeros((*shape, CHANNELS[artwork.space] + 1), np.uint8)
    if len(images) == 1:
        weighted = _averaged(_weighted(images[0], cover), by)
        return _unweighted(np.asarray(mapped(weighted), np.float32))
    return _unweighted_planes([mapped(_averaged(one, by)) for one in _weighted_planes(images)])


def _images(artwork: Artwork, part: Pixels) -> list[Pixels]:
    """Three colours and alpha, with which OpenCV is quickest, or a plane each, alpha last."""
    if CHANNELS[artwork.space] == 3:
        return [part if artwork.has_alpha else np.asarray(cv2.cvtColor(part, cv2.COLOR_RGB2RGBA))]
    planes = [np.asarray(plane, np.uint8) for plane in cv2.split(part)]
    return planes if artwork.has_alpha else [*planes, np.full(part.shape[:2], 255, np.uint8)]


def _last(image: Any) -> Any:
    """The last channel of an image, (h, w)."""
    return image if image.ndim == 2 else cv2.extractChannel(image, image.shape[2] - 1)


def _each(plane: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """A plane for each of three colours, and one of all that there can be: 255, or 1 in floats."""
    return np.asarray(cv2.cvtColor(plane, cv2.COLOR_GRAY2RGBA))


def _weighted(pixels: Pixels, cover: Pixels) -> Levels:
    """Three colours times alpha, and alpha; four channels at once are what OpenCV is best at."""
    found = cv2.multiply(pixels, _each(cover), scale=1.0 / 255.0, dtype=cv2.CV_32F)
    return np.asarray(found, np.float32)


def _unweighted(levels: Levels) -> Pixels:
    """Pixels of what :func:`_weighted` gives: colours are divided by alpha again."""
    weights = _each(_weight(_last(levels)))
    return np.asarray(cv2.convertScaleAbs(cv2.multiply(levels, weights)), np.uint8)


def _weight(cover: Levels) -> Levels:
    """What colours are to be multiplied by; what rounds to nothing has none."""
    divisor = np.where(cover > np.float32(0.5), cover, np.float32(np.inf))
    return np.divide(np.float32(255.0), divisor, out=divisor)


def _weighted_planes(planes: list[Pixels]) -> list[Levels]:
    """The same of other numbers of colours, plane by plane."""
    *colours, cover = (np.asarray(plane, np.float32) for plane in planes)
    share = cover * np.float32(1.0 / 255.0)
    return [*(one * share for one in colours), cover]


def _unweighted_planes(planes: list[Levels]) -> Pixels:
    *colours, cover = planes
    weight = _weight(cover)
    levels = cv2.merge([*(one * weight for one in colours), cover])
    return np.asarray(cv2.convertScaleAbs(levels), np.uint8)


def _averaged(levels: Levels, by: int) -> Levels:
    """Means of ``by`` x ``by`` pixels; a rest at the end is filled up with nothing."""
    if by == 1:
        return levels
    high, wide = (-(-side // by) * by for side in levels.shape[:2])
    padded = np.zeros((high, wide, *levels.shape[2:]), np.float32)
    padded[: levels.shape[0], : levels.shape[1]] = levels
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
    # Middles of pixels lie half a pixel in, before and after the reduction.
    local = ((reached - (left, top)) / by - 0.5).astype(np.float32)

    def mapped(pixels: npt.NDArray[Any]) -> npt.NDArray[Any]:
        return cv2.remap(
            pixels, local[..., 0], local[..., 1], cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT, borderValue=(0,) * 4,
        )  # fmt: skip

    inside = low.min() >= 0 and bool((high <= (artwork.width, artwork.height)).all())
    part = artwork.pixels[top:bottom, left:right]
    return _taken(artwork, part, by, mapped, (len(rows), len(columns)), inside=inside)
