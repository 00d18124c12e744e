"""Strips cut to where their artwork lies: what was made of one holds wherever the artwork lies."""

from __future__ import annotations

import cv2
import numpy as np

from farbe.separate.blocks import Block
from farbe.separate.choke import Plate

#: Times its strip that a frame is large, at the most: artwork may reach over the piece.
MOST = 1.25


def frame_of(strip: Plate, lies: Block | None, margin: tuple[int, int]) -> Block | None:
    """Rows and columns of a strip that hold all that it draws, as many wherever its artwork lies.

    Columns may lie beyond the strip, where nothing is; rows do not.

    Parameters
    ----------
    strip : uint8 (rows, width)
    lies : where the artwork lies, in rows and columns of the strip, also beyond it; None if that
        is not told by whole pixels
    margin : columns and rows of nothing that are wanted around it

    Returns
    -------
    None where there is no such frame.
    """
    if lies is None:
        return None
    (rows, width), (across, down) = strip.shape, margin
    frame = Block(
        max(0, lies.top - down), min(rows, lies.bottom + down),
        lies.left - across, lies.right + across,
    )  # fmt: skip
    beside = frame.top >= frame.bottom or frame.left >= width or frame.right <= 0
    if beside or frame.right - frame.left > MOST * width:
        return None
    inside = strip[frame.top : frame.bottom, max(0, frame.left) : max(0, frame.right)]
    return frame if cv2.countNonZero(inside) == cv2.countNonZero(strip) else None


def framed(strip: Plate, frame: Block) -> Plate:
    """What a frame holds of a strip, and nothing beyond it.

    Parameters
    ----------
    strip : uint8 (rows, width)
    frame : of :func:`frame_of`

    Returns
    -------
    uint8, as large as the frame
    """
    left, right = max(0, -frame.left), max(0, frame.right - strip.shape[1])
    inside = strip[frame.top : frame.bottom, max(0, frame.left) : max(0, frame.right)]
    beyond = cv2.copyMakeBorder(inside, 0, 0, left, right, cv2.BORDER_CONSTANT, value=(0,))
    return np.asarray(beyond, np.uint8)


def unframed(made: Plate, frame: Block, shape: tuple[int, ...]) -> Plate:
    """A strip of what was made of a frame, with nothing around it.

    Parameters
    ----------
    made : uint8, as large as the frame
    frame : of :func:`frame_of`
    shape : of the strip

    Returns
    -------
    uint8 (rows, width)
    """
    strip = np.zeros(shape, np.uint8)
    left, right = max(0, frame.left), min(shape[1], frame.right)
    own = made[:, left - frame.left : right - frame.left]
    strip[frame.top : frame.bottom, left:right] = own
    return strip
