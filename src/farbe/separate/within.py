"""The least or the most of a plate within a disc around each pixel.

OpenCV looks at every pixel of a kernel, which is quick for small ones. A disc of many pixels is
taken row by row: the least of a row within any number of pixels is that of two shorter stretches,
whose length was doubled (chords: Urbach and Wilkinson, "Efficient 2-D grayscale morphological
transformations with arbitrary flat structuring elements", IEEE Transactions on Image Processing 17,
2008). So the time grows with the radius, not with its square.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from itertools import pairwise

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels

Places = npt.NDArray[np.intp]
#: Pixels of a kernel from which on its rows are taken one by one.
MANY = 500
#: Pixels around others that are looked at together.
LOOKS = 1 << 20
#: Rows and columns that are made together: the processor's own memory holds what lies around them.
ROWS, COLUMNS = 128, 2048


def least_within(plate: Pixels, kernel: Pixels, *, outside: int = 255) -> Pixels:
    """The least around each pixel.

    Parameters
    ----------
    plate : uint8 (h, w)
    kernel : how far around, uint8 (2 ry + 1, 2 rx + 1), not 0 where it is looked
    outside : what lies beyond the plate

    Returns
    -------
    uint8 (h, w)
    """
    many = np.count_nonzero(kernel) >= MANY
    halves = half_widths(kernel.tobytes(), kernel.shape) if many else None
    if halves is not None:
        return least_within_each(plate, [halves], outside=outside)[0]
    eroded = cv2.erode(plate, kernel, borderType=cv2.BORDER_CONSTANT, borderValue=(outside,))
    return np.asarray(eroded, np.uint8)


def most_within(plate: Pixels, kernel: Pixels) -> Pixels:
    """The most around each pixel; nothing lies beyond the plate.

    Parameters
    ----------
    plate : uint8 (h, w)
    kernel : how far around, uint8 (2 ry + 1, 2 rx + 1), not 0 where it is looked

    Returns
    -------
    uint8 (h, w)
    """
    if np.count_nonzero(kernel) < MANY:
        return np.asarray(cv2.dilate(plate, kernel), np.uint8)
    return np.invert(least_within(np.invert(plate), kernel))


def most_at(plate: Pixels, disc: Pixels, at: Places) -> Pixels:
    """The most around some pixels.

    Parameters
    ----------
    plate : uint8 (h, w)
    disc : how far around, uint8 (2 ry + 1, 2 rx + 1), not 0 where it is looked, without dents
    at : the pixels, (n,), counted row by row

    Returns
    -------
    uint8 (n,), as :func:`most_within` has it there.
    """
    down, right = np.nonzero(disc)
    some = max(1, LOOKS // len(down))
    parts = [at[first : first + some] for first in range(0, len(at), some)]
    found = [_most_around(plate, down - disc.shape[0] // 2, right - disc.shape[1] // 2, part)
             for part in parts]  # fmt: skip
    return np.concatenate(found) if found else np.empty(0, np.uint8)


def _most_around(plate: Pixels, down: Places, right: Places, at: Places) -> Pixels:
    high, wide = plate.shape
    rows, columns = np.divmod(at, wide)
    # What lies beyond the plate stands for a pixel at its edge that is nearer, and seen anyway.
    rows = np.clip(rows + down[:, None], 0, high - 1)
    columns = np.clip(columns + right[:, None], 0, wide - 1)
    return np.asarray(plate.take(rows * wide + columns).max(axis=0), np.uint8)


@lru_cache(maxsize=256)
def half_widths(kernel: bytes, shape: tuple[int, int]) -> tuple[int, ...] | None:
    """How far a kernel reaches left and right, in its middle row and in each one farther off.

    Parameters
    ----------
    kernel : its bytes
    shape : its rows and columns

    Returns
    -------
    Pixels, -1 for a row without any; None of a kernel that is not as far to all four sides, or has
    gaps in its rows.
    """
    there = np.frombuffer(kernel, np.uint8).reshape(shape) != 0
    if not (np.array_equal(there, there[::-1]) and np.array_equal(there, there[:, ::-1])):
        return None
    halves = []
    for row in there[shape[0] // 2 :]:
        columns = np.flatnonzero(row)
        if len(columns) and columns[-1] - columns[0] + 1 != len(columns):
            return None
        halves.append(len(columns) // 2 if len(columns) else -1)
    return tuple(halves)


def least_within_each(
    plate: Pixels, discs: Sequence[tuple[int, ...]], *, outside: int
) -> list[Pixels]:
    """The least around each pixel within several discs, each of which holds the one before.

    Parameters
    ----------
    plate : uint8 (h, w)
    discs : as :func:`half_widths` tells of each
    outside : what lies beyond the plate

    Returns
    -------
    uint8 (h, w) for each disc
    """
    ry, rx = max(map(len, discs)) - 1, max(map(max, discs))
    around = cv2.copyMakeBorder(plate, ry, ry, rx, rx, cv2.BORDER_CONSTANT, value=(outside,))
    found = np.empty((len(discs), *plate.shape), np.uint8)
    steps = _steps(discs)
    for top in range(0, plate.shape[0], ROWS):
        for left in range(0, plate.shape[1], COLUMNS):
            own = found[:, top : top + ROWS, left : left + COLUMNS]
            _, high, wide = own.shape
            part = np.asarray(around, np.uint8)[top : top + high + 2 * ry]
            own[...] = _least_of_rows(part[:, left : left + wide + 2 * rx], steps, own.shape)
    return list(found)


#: Half a width; for each disc that has it, which one, and how many rows off the middle.
_Step = tuple[int, list[tuple[int, int]]]


def _steps(discs: Sequence[tuple[int, ...]]) -> list[_Step]:
    """What is to be done, from the narrowest rows to the widest: rows that a disc adds."""
    steps: dict[int, list[tuple[int, int]]] = {}
    before: tuple[int, ...] = ()
    for number, halves in enumerate(discs):
        for off, half in enumerate(halves):
            if half > (before[off] if off < len(before) else -1):
                steps.setdefault(half, []).append((number, off))
        before = halves
    return sorted(steps.items())


def _least_of_rows(around: Pixels, steps: list[_Step], shape: tuple[int, int, int]) -> Pixels:
    """Parts of plates, uint8 (discs, rows, columns), from all that lies around them."""
    made = np.full(shape, 255, np.uint8)
    _, high, wide = shape
    ry, rx = (around.shape[0] - high) // 2, (around.shape[1] - wide) // 2
    stretches = _stretches(around, [half for half, _ in steps], rx, wide)
    for (_, added), stretch in zip(steps, stretches, strict=True):
        for number, off in added:
            for row in {ry - off, ry + off}:
                np.minimum(made[number], stretch[row : row + high], out=made[number])
    for smaller, larger in pairwise(made):
        np.minimum(larger, smaller, out=larger)
    return made


def _stretches(around: Pixels, halves: list[int], rx: int, wide: int) -> Iterator[Pixels]:
    """The least in each row within so many pixels to the left and right, which grow."""
    doubled, length = around, 1
    for half in halves:
        while 2 * length <= 2 * half + 1:
            doubled, length = np.minimum(doubled[:, :-length], doubled[:, length:]), 2 * length
        first, last = rx - half, rx + half + 1 - length
        left, right = doubled[:, first : first + wide], doubled[:, last : last + wide]
        yield left if first == last else np.minimum(left, right)
