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
#: Canvas columns warped at once: bounds what is needed of the artwork, however it is turned.
TILE = 1024


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
    middle : of the artwork on the canvas, in pixels
    size : of the artwork before it is turned, in mm
    per_mm : canvas pixels per mm along x and y
    rotation : degrees, anticlockwise as seen
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
    part = _weighted(artwork, slice(top, bottom), slice(left, right))
    if by > 1:
        part = _averaged(part, by)
    local = matrix.copy()
    local[:, 2] += matrix[:, :2] @ np.asarray(first, np.float64) - (left, top)
    local /= by
    local[:, 2] += (1.0 / by - 1.0) / 2.0

    def plane(of: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        made = cv2.warpAffine(
            of, local, (width, rows), flags=flags, borderMode=cv2.BORDER_CONSTANT, borderValue=(0,)
        )
        return np.asarray(made, np.float32)

    return _unweighted(part, plane)


def _unweighted(
    part: npt.NDArray[np.float32],
    plane: Callable[[npt.NDArray[np.float32]], npt.NDArray[np.float32]],
) -> Pixels:
    """Planes of :func:`_weighted`, each warped, with the colours divided by alpha again."""
    planes = [plane(np.ascontiguousarray(part[..., i])) for i in range(part.shape[2])]
    cover = planes.pop()
    weight = 255.0 / np.where(cover < 0.5, np.inf, cover)
    levels = np.dstack([*(one * weight for one in planes), cover])
    return np.asarray(np.clip(np.rint(levels), 0, 255), dtype=np.uint8)


def _weighted(artwork: Artwork, rows: slice, columns: slice) -> npt.NDArray[np.float32]:
    """Colours times alpha, and alpha, float32."""
    part = artwork.pixels[rows, columns].astype(np.float32)
    if not artwork.has_alpha:
        return np.dstack([part, np.full(part.shape[:2], 255.0, np.float32)])
    part[..., :-1] *= part[..., -1:] / 255.0
    return part


def _averaged(part: npt.NDArray[np.float32], by: int) -> npt.NDArray[np.float32]:
    """Means of ``by`` x ``by`` pixels; a rest at the end is filled up with nothing."""
    high, wide = (-(-side // by) * by for side in part.shape[:2])
    padded = np.zeros((high, wide, part.shape[2]), np.float32)
    padded[: part.shape[0], : part.shape[1]] = part
    blocks = padded.reshape(high // by, by, wide // by, by, part.shape[2])
    return np.asarray(blocks.mean(axis=(1, 3)), dtype=np.float32)


def bent_rows(artwork: Artwork, bend: Bend, width: int, start: int, stop: int) -> Pixels:
    """Canvas rows through any smooth map, uint8 (stop - start, width, channels), alpha last.

    Colours are weighted by alpha; where the artwork is reduced, it is averaged first.
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
    low = np.floor(reached.reshape(-1, 2).min(axis=0)).astype(int) - 3 * by
    high = np.ceil(reached.reshape(-1, 2).max(axis=0)).astype(int) + 3 * by
    left, top = (max(0, int(v)) // by * by for v in low)
    right, bottom = min(artwork.width, int(high[0])), min(artwork.height, int(high[1]))
    if right <= left or bottom <= top:
        return np.zeros((len(rows), len(columns), channels), np.uint8)
    part = _weighted(artwork, slice(top, bottom), slice(left, right))
    if by > 1:
        part = _averaged(part, by)
    # Middles of pixels lie half a pixel in, before and after the reduction.
    local = ((reached - (left, top)) / by - 0.5).astype(np.float32)

    def plane(of: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
        made = cv2.remap(
            of, local[..., 0], local[..., 1], cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT, borderValue=(0,),
        )  # fmt: skip
        return np.asarray(made, np.float32)

    return _unweighted(part, plane)
