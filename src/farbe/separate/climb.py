"""Ways up a plane of heights, from each pixel to the neighbour to which it is steepest."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from farbe.distinct import distinct
from farbe.separate.grid import Grid
from farbe.separate.middle import Units, padded

Places = npt.NDArray[np.intp]
#: Units that are lower than all, which can be subtracted from one another.
LOWEST = -(2**14)
#: Steps from a pixel to its neighbours, columns and rows.
_NEIGHBOURS = [(dx, dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1) if dx or dy]
#: Of what :attr:`Climb.onward` holds: a pixel that was not looked at, and one with none higher.
_UNKNOWN, _TOP = 0, len(_NEIGHBOURS) + 1


@dataclass(frozen=True, eq=False)
class Climb:
    """The steepest ways up a plane's heights. Safe to share between threads: all find the same.

    Attributes
    ----------
    heights : of pixels with a rim, row by row, int16 (n,)
    offsets : to the neighbours of a pixel, by what ``onward`` holds
    per_mm : one by how far each neighbour is
    onward : to which of its neighbours one climbs from a pixel, as far as that is known, uint8 (n,)
    """

    heights: Units
    offsets: Places
    per_mm: npt.NDArray[np.float32]
    onward: npt.NDArray[np.uint8]

    @classmethod
    def of(cls, far: Units, grid: Grid) -> Climb:
        """Of heights.

        Parameters
        ----------
        far : over which it goes, int16 (h, w)
        grid : resolution
        """
        wide = far.shape[1] + 2
        heights = rimmed(far, LOWEST)
        steps = [dy * wide + dx for dx, dy in _NEIGHBOURS]
        lengths = [math.hypot(dx / grid.per_mm_x, dy / grid.per_mm_y) for dx, dy in _NEIGHBOURS]
        return cls(
            heights, np.array([0, *steps, 0]),
            np.array([1.0 / length for length in lengths], np.float32),
            np.zeros(heights.shape, np.uint8),
        )  # fmt: skip

    def higher(self, at: Places) -> Places:
        """Where one gets by a step from some pixels; from those on top, nowhere.

        Parameters
        ----------
        at : pixels as ``heights`` has them, (n,)

        Returns
        -------
        Each once, in their order.
        """
        onward = self.onward.take(at)
        new = at[onward == _UNKNOWN]
        if len(new):
            self.onward[new] = self._steepest(new)
            onward = self.onward.take(at)
        return distinct((at + self.offsets.take(onward))[onward != _TOP])

    def _steepest(self, at: Places) -> Places:
        around = self.heights.take(at[:, None] + self.offsets[1:_TOP])
        # Not as whole numbers of 16 bits: what is lowest lies too far below what is high.
        rises = (around.astype(np.float32) - self.heights.take(at)[:, None]) * self.per_mm
        steepest = rises.argmax(axis=1)
        return np.where(rises[np.arange(len(at)), steepest] > 0, steepest + 1, _TOP)


def rimmed(plane: Any, value: int) -> npt.NDArray[Any]:
    """The pixels of a plane with one more on all sides, row by row.

    Parameters
    ----------
    plane : (h, w)
    value : of those around it

    Returns
    -------
    ((h + 2) (w + 2),), of the plane's type.
    """
    return padded(plane, (1, 1), value).ravel()
