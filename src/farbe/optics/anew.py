"""Pictures of plates of which others were made before: only what differs is made anew."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import reduce

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
    if before is not None and any(moved):
        # Round the ends, so that there, too, each pixel is that of the plates.
        before = [_rolled(plate, moved) for plate in before[0]], _rolled(before[1], moved)
    at = None if before is None else _differing(plates, before[0])
    if before is None or at is None:
        return make(plates)
    picture = before[1]
    if len(at):
        picture = picture if any(moved) else picture.copy()
        # In lines of a few hundred pixels, the last one filled up.
        rows = np.resize(at, (-(-len(at) // LINE), LINE)) if len(at) > LINE else at[None]
        made = make([plate.ravel().take(rows) for plate in plates])
        _in_line(picture)[rows.ravel()] = _in_line(made)
    return picture


def _rolled(pixels: Pixels, by: tuple[int, int]) -> Pixels:
    return np.roll(pixels, by, (1, 0))


def _differing(plates: Sequence[Plate], before: Sequence[Plate]) -> npt.NDArray[np.int64] | None:
    """Numbers of the pixels in which plates differ; None if all do, or very many."""
    if [plate.shape for plate in plates] != [plate.shape for plate in before]:
        return None
    pairs = [
        (one, other) for one, other in zip(plates, before, strict=True)
        if one.ctypes.data != other.ctypes.data
    ]  # fmt: skip
    if not pairs:
        return np.empty(0, np.int64)
    at = np.flatnonzero(reduce(np.logical_or, (one != other for one, other in pairs)))
    return at if len(at) < FEW * plates[0].size else None


def _in_line(picture: Pixels) -> npt.NDArray[np.void]:
    """The pixels of a picture, each as one thing, which is put in place much sooner."""
    return np.ascontiguousarray(picture).reshape(-1, 3).view("V3")[:, 0]
