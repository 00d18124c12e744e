"""Light as linear sRGB, from and to what screens show; worked on by tiles."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache

import cv2
import numpy as np

from farbe.art.artwork import Pixels
from farbe.model.base import rgb
from farbe.optics.films import FilmFigure, Light

#: A part of a picture: its rows and its columns.
Patch = tuple[slice, slice]
#: Columns and pixels that are worked on at once: few enough for the processor's own memory.
WIDE, TILE = 1024, 64 * 1024
#: Pixels that are worth a thread of their own.
LEAST = 64 * 1024


def in_tiles(shape: tuple[int, ...], work: Callable[[Patch], None]) -> None:
    """Do work on tiles of a picture (h, w), in a thread for each processor if that is worth it.

    Parameters
    ----------
    shape : (h, w) of the picture
    work : done on a slice of rows and one of columns
    """
    high, wide = shape[:2]
    threads = max(1, min(8, os.cpu_count() or 1, high * wide // LEAST))
    # Tiles for each thread, however few pixels there are.
    rows = max(1, min(TILE // max(1, min(wide, WIDE)), -(-high // threads)))
    tiles = [
        (slice(top, top + rows), slice(left, left + WIDE))
        for top in range(0, high, rows)
        for left in range(0, wide, WIDE)
    ]
    if threads == 1:
        for tile in tiles:
            work(tile)
        return
    with ThreadPoolExecutor(threads) as pool:
        # Asking for the results hands on what went wrong.
        list(pool.map(work, tiles))


def to_linear(colour: str) -> tuple[float, float, float]:
    """Linear sRGB, 0 to 1, of ``#rrggbb`` (IEC 61966-2-1).

    Parameters
    ----------
    colour : ``#rrggbb``
    """
    table = linear_table()
    r, g, b = (float(table[level]) for level in rgb(colour))
    return r, g, b


@lru_cache(maxsize=1)
def linear_table() -> Light:
    """Linear light, 0 to 1, of each sRGB level."""
    v = np.arange(256) / 255.0
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4).astype(np.float32)


#: Steps of linear light that are told apart on the way to the screen.
LEVELS = 65536


@lru_cache(maxsize=1)
def _encode_table() -> Pixels:
    """sRGB level of the middle of each step of linear light."""
    v = (np.arange(LEVELS) + 0.5) / LEVELS
    shown = np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(shown * 255.0), dtype=np.uint8)


def to_screen(light: Callable[[Patch], Sequence[FilmFigure]], size: tuple[int, ...]) -> Pixels:
    """sRGB uint8 (h, w, 3) of linear light, clipped to 0 to 1.

    Parameters
    ----------
    light : of each tile three bands, float32 (h, w) or a number
    size : (h, w) of the picture

    Returns
    -------
    sRGB, uint8 (h, w, 3)
    """
    shown = np.empty((*size, 3), np.uint8)

    def show(tile: Patch) -> None:
        size = shown[tile].shape[:2]
        bands = []
        for level in light(tile):
            steps = np.broadcast_to(level, size) * np.float32(LEVELS)
            np.clip(steps, 0.0, LEVELS - 1, out=steps)
            bands.append(cv2.LUT(steps.astype(np.uint16), _encode_table()))
        cv2.merge(bands, dst=shown[tile])

    in_tiles(shown.shape, show)
    return shown
