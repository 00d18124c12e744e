"""Masks grown by a disc, 64 pixels of a row at a time.

A mask needs a bit for each pixel. What lies within so many pixels of a row is that of two shorter
stretches, whose length was doubled, as in :mod:`farbe.separate.within`; rows of a disc that are
equally wide share it.
"""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.separate.within import half_widths

Words = npt.NDArray[np.uint64]
#: Bits of a word; the first pixel is the lowest, as in memory.
BITS = 64
#: Pixels of a kernel from which on it is quicker than to look at each.
MANY = 40


def any_within(mask: Pixels, kernel: Pixels) -> Pixels:
    """Whether there is anything around each pixel; nothing lies beyond the mask.

    Parameters
    ----------
    mask : uint8 (h, w), 255 where there is, and 0 elsewhere
    kernel : how far around, uint8 (2 ry + 1, 2 rx + 1), not 0 where it is looked

    Returns
    -------
    uint8 (h, w), as the mask.
    """
    many = np.count_nonzero(kernel) >= MANY
    halves = half_widths(kernel.tobytes(), kernel.shape) if many else None
    if halves is None:
        return np.asarray(cv2.dilate(mask, kernel), np.uint8)
    # Whole bytes to the left, so that what is wanted begins with one.
    room = -(-max(halves) // 8)
    words = _packed(mask, mask.shape[1] + 8 * room)
    grown = _grown(words, halves, 8 * room).view(np.uint8)[:, room:]
    found = np.unpackbits(grown, axis=1, count=mask.shape[1], bitorder="little")
    return np.multiply(found, 255, out=found)


def _packed(mask: Pixels, wide: int) -> Words:
    """Rows of a mask as bits, (h, words), with room for so many pixels."""
    bits = np.packbits(mask, axis=1, bitorder="little")
    words = np.zeros((len(mask), -(-wide // BITS)), np.uint64)
    words.view(np.uint8)[:, : bits.shape[1]] = bits
    return words


def _grown(words: Words, halves: tuple[int, ...], room: int) -> Words:
    """Bits grown by a disc, so many pixels to the right of where they belong."""
    # One line: what leaves a row comes into the room before the next one.
    doubled, length = words.ravel(), 1
    grown = np.zeros_like(words)
    for half in sorted(set(halves) - {-1}):
        wide = 2 * half + 1
        while 2 * length <= wide:
            doubled, length = doubled | _onward(doubled, length), 2 * length
        row = doubled | _onward(doubled, wide - length) if wide > length else doubled
        row = _onward(row, room - half).reshape(words.shape)
        for off in (off for off, other in enumerate(halves) if other == half and off < len(row)):
            for into, of in ((grown[off:], row[: len(row) - off]),
                             (grown[: len(row) - off], row[off:])):  # fmt: skip
                np.bitwise_or(into, of, out=into)
    return grown


def _onward(line: Words, by: int) -> Words:
    """A line of bits, so many farther on."""
    whole, bits = divmod(by, BITS)
    moved = np.empty_like(line)
    moved[:whole] = 0
    into, of = moved[whole:], line[: len(line) - whole]
    np.left_shift(of, bits, out=into)
    if bits:
        into[1:] |= of[:-1] >> (BITS - bits)
    return moved
