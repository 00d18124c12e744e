"""Very large pictures, unpacked once into a file of plain pixels beside a small copy of them.

The pixels are mapped into memory and not read into it: any rows are had at once, and what was
looked at is let go again. The small copy is for pictures on the screen.
"""

from __future__ import annotations

import math
import mmap
import os
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np

from farbe.art.artwork import Pixels, RowSource

#: Pixels from which on a picture is unpacked, and about how many its small copy has.
UNPACKED, SMALL = 150_000_000, 12_000_000
#: Bytes of mapped pixels that are looked at before they are let go.
HELD = 256 << 20
_ROWS = 256


def unpack(source: RowSource, shape: tuple[int, int, int], target: Path, *, alpha: bool) -> None:
    """Write a picture's pixels and its small copy, unless they are there.

    Parameters
    ----------
    source : of the rows, which are asked for from top to bottom
    shape : (height, width, channels)
    target : of the pixels; the small copy lies beside it
    alpha : whether the last channel is straight alpha

    Raises
    ------
    BadInput
        If the picture is damaged.
    OSError
        If there is no room.
    """
    if target.exists() and small_path(target).exists():
        return
    by = reduction(shape)
    part = target.with_name(target.name + ".part")
    small: list[Pixels] = []
    try:
        with part.open("wb") as file:
            for rows in _parts(source, shape[0], by):
                file.write(np.ascontiguousarray(rows).data)
                small.append(_reduced(rows, by, alpha=alpha))
        np.save(small_path(target), np.concatenate(small))
        os.replace(part, target)
    finally:
        part.unlink(missing_ok=True)


def small_path(target: Path) -> Path:
    """Where the small copy of unpacked pixels lies.

    Parameters
    ----------
    target : where the unpacked pixels lie
    """
    return target.with_name(target.name + ".small.npy")


def reduction(shape: tuple[int, int, int]) -> int:
    """Pixels of a picture along a side of one of its small copy.

    Parameters
    ----------
    shape : (height, width, channels)
    """
    return max(1, round(math.sqrt(shape[0] * shape[1] / SMALL)))


def _parts(source: RowSource, height: int, by: int) -> Iterator[Pixels]:
    step = by * max(1, _ROWS // by)
    for start in range(0, height, step):
        yield source.rows(start, min(height, start + step))


def _reduced(rows: Pixels, by: int, *, alpha: bool) -> Pixels:
    """Means of squares; colours are weighted by alpha."""
    high, wide = -(-rows.shape[0] // by), -(-rows.shape[1] // by)

    def mean(plane: np.ndarray) -> np.ndarray:
        return np.asarray(cv2.resize(plane, (wide, high), interpolation=cv2.INTER_AREA))

    if not alpha:
        return np.asarray(mean(rows), np.uint8).reshape(high, wide, -1)
    cover = rows[..., -1].astype(np.float32)
    seen = mean(cover)
    weight = 1.0 / np.where(seen < 0.5, np.inf, seen)
    colours = [mean(rows[..., i] * cover) * weight for i in range(rows.shape[2] - 1)]
    return np.asarray(np.clip(np.rint(np.dstack([*colours, seen])), 0, 255), np.uint8)


class Mapped:
    """Unpacked pixels, mapped; they are let go after some were looked at.

    Parameters
    ----------
    target : as :func:`unpack` wrote it
    shape : (height, width, channels)
    """

    def __init__(self, target: Path, shape: tuple[int, int, int]) -> None:
        with target.open("rb") as file:
            self._map = mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ)
        self.pixels: Pixels = np.frombuffer(self._map, np.uint8).reshape(shape)
        self._looked_at = 0

    def looked_at(self, count: int) -> None:
        """Say how many bytes were looked at; those of long ago are let go.

        Parameters
        ----------
        count : bytes
        """
        self._looked_at += count
        if self._looked_at > HELD:
            self._looked_at = 0
            self._map.madvise(mmap.MADV_DONTNEED)
