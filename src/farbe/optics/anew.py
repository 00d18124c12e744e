"""Pictures of plates of which others were made before: only what differs is made anew."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import reduce

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.separate.choke import Plate

#: Share of a picture's pixels up to which they are looked at one by one, and so many in a line.
FEW, LINE = 0.25, 512


def anew(
    plates: Sequence[Plate],
    before: tuple[Sequence[Plate], Pixels] | None,
    make: Callable[[Sequence[Plate]], Pixels],
    *,
    moved: tuple[int, int] = (0, 0),
) -> Pixels:
    """A picture in which each pixel follows from what plates have there.

    Parameters
    ----------
    plates : uint8 (h, w) each
    before : others, and the picture that was made of them, which is not written to
    make : makes a picture of plates of any size, uint8 (rows, columns, 3)
    moved : pixels to the right and down by which what is on plates lies elsewhere than before, as
        far as is known

    Returns
    -------
    uint8 (h, w, 3); the very same as before if no plate differs.
    """
    if before is None or [one.shape for one in plates] != [one.shape for one in before[0]]:
        return make(plates)
    if not plates:
        return before[1]
    (right, down), (high, wide) = moved, plates[0].shape
    if abs(right) >= wide or abs(down) >= high:
        return make(plates)
    into, out = zip(_both(high, down), _both(wide, right), strict=True)
    at = _differing(plates, before[0], into, out)
    if len(at) >= FEW * plates[0].size:
        return make(plates)
    picture = before[1]
    if any(moved):
        picture = np.empty_like(picture)
        picture[into] = before[1][out]
    elif len(at):
        picture = picture.copy()
    if len(at):
        # In lines of a few hundred pixels, the last one filled up.
        rows = np.resize(at, (-(-len(at) // LINE), LINE)) if len(at) > LINE else at[None]
        made = make([plate.ravel().take(rows) for plate in plates])
        _in_line(picture)[rows.ravel()] = _in_line(made)
    return picture


#: Rows and columns of a picture.
_Place = tuple[slice, slice]


def _both(size: int, by: int) -> tuple[slice, slice]:
    """Of so many rows or columns those where others lie that were moved, and which of these do."""
    return slice(max(0, by), size + min(0, by)), slice(max(0, -by), size - max(0, by))


def _differing(
    plates: Sequence[Plate], before: Sequence[Plate], into: _Place, out: _Place
) -> npt.NDArray[np.int64]:
    """Numbers of the pixels in which plates differ, and of those that others do not have."""
    pairs = [
        (one[into], other[out]) for one, other in zip(plates, before, strict=True)
        if one.ctypes.data != other.ctypes.data or into != out
    ]  # fmt: skip
    if not pairs:
        return np.empty(0, np.int64)
    differ = np.ones(plates[0].shape, bool)
    differ[into] = reduce(cv2.bitwise_or, (cv2.compare(*two, cv2.CMP_NE) for two in pairs))
    return np.flatnonzero(differ)


def _in_line(picture: Pixels) -> npt.NDArray[np.void]:
    """The pixels of a picture, each as one thing, which is put in place much sooner."""
    return np.ascontiguousarray(picture).reshape(-1, 3).view("V3")[:, 0]
