"""Soft edges without the background that they were mixed with.

A pixel on a soft edge is ``a F + (1 - a) B`` of what is drawn and of the background. Both are found
near by, and ``a`` is where the pixel lies on the way between them (Porter and Duff, "Compositing
Digital Images", 1984, read backwards).
"""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels

#: Pixels on either side of what is cleared that may be mixed.
REACH = 6
#: Levels between drawing and background under which nothing can be told, and that a mixture may
#: be off the straight way between them.
TELLING, OFF = 24.0, 20.0
#: Square of how much more a colour differs farther in that is not solid yet.
RISING = 1.05**2
#: Shares that are noise, and that are all of it.
NOISE, WHOLE = 0.008, 0.992


def unmixed(colours: Pixels, near: Pixels) -> tuple[Pixels, Pixels]:
    """Colours of soft edges as they are drawn, and how far each pixel is covered.

    Parameters
    ----------
    colours : uint8 (h, w, n)
    near : uint8 (h, w), 255 where the background is

    Returns
    -------
    Colours like the given, and coverage uint8 (h, w). Where nothing can be told, colours stay and
    coverage is what ``near`` leaves.
    """
    cover = np.asarray(255 - near, np.uint8)
    cleared = (near == 255).astype(np.uint8)
    if not cleared.any() or cleared.all():
        return colours, cover
    square = np.ones((2 * REACH + 1,) * 2, np.uint8)
    # Background that nothing drawn comes near.
    sure = cv2.erode(cleared, square, borderValue=(1,))
    if not sure.any():
        sure = cleared
    around = cv2.dilate(cleared, square) - sure
    rows, columns = np.nonzero(around)
    if not len(rows):
        return colours, cover
    padded = np.pad(colours.astype(np.float32), ((REACH,) * 2, (REACH,) * 2, (0, 0)), mode="edge")
    behind = _nearest(colours, np.asarray(sure, np.uint8), rows, columns)
    front, solid = _farthest(padded, behind, rows, columns)
    here = padded[rows + REACH, columns + REACH]
    way = front - behind
    length = np.einsum("ij,ij->i", way, way)
    share = np.einsum("ij,ij->i", here - behind, way) / np.maximum(length, 1.0)
    off = np.abs(here - behind - share[:, None] * way).max(axis=1)
    told = (length >= TELLING**2) & (off <= OFF) & solid
    share = np.where(share < NOISE, 0.0, np.where(share > WHOLE, 1.0, share))
    result = colours.copy()
    at = rows[told], columns[told]
    mixed = (share[told] > 0) & (share[told] < 1)
    result[at[0][mixed], at[1][mixed]] = np.rint(front[told][mixed]).astype(np.uint8)
    cover[at] = np.rint(share[told] * 255).astype(np.uint8)
    return result, cover


def _nearest(
    colours: Pixels, sure: Pixels, rows: npt.NDArray[np.int64], columns: npt.NDArray[np.int64]
) -> npt.NDArray[np.float32]:
    """The colour of the background that is nearest to each place, float32 (k, n)."""
    _, labels = cv2.distanceTransformWithLabels(
        1 - sure, cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL
    )
    known_rows, known_columns = np.nonzero(sure)
    table = np.zeros((int(labels.max()) + 1, colours.shape[2]), np.float32)
    table[labels[known_rows, known_columns]] = colours[known_rows, known_columns]
    return np.asarray(table[labels[rows, columns]], np.float32)


def _farthest(
    padded: npt.NDArray[np.float32],
    behind: npt.NDArray[np.float32],
    rows: npt.NDArray[np.int64],
    columns: npt.NDArray[np.int64],
) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.bool_]]:
    """The colour around each place that differs most from the background, float32 (k, n).

    And whether it is solid there, and does not go on to differ more: bool (k,).
    """
    best = np.full(len(rows), -1.0, np.float32)
    found = np.zeros_like(behind)
    at = np.zeros((len(rows), 2), np.int64)
    for down in range(2 * REACH + 1):
        for across in range(2 * REACH + 1):
            other = padded[rows + down, columns + across]
            far = np.square(other - behind).sum(axis=1)
            more = far > best
            best[more], found[more], at[more] = far[more], other[more], (down, across)
    solid = np.ones(len(rows), bool)
    height, width = padded.shape[:2]
    for down, across in ((-3, 0), (3, 0), (0, -3), (0, 3), (-2, -2), (-2, 2), (2, -2), (2, 2)):
        beside = padded[
            np.clip(rows + at[:, 0] + down, 0, height - 1),
            np.clip(columns + at[:, 1] + across, 0, width - 1),
        ]
        solid &= np.square(beside - behind).sum(axis=1) <= RISING * np.maximum(best, 1.0)
    return found, solid
