"""Lines of type over artwork, as coverage."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from farbe.kept import Kept, once
from farbe.separate.choke import Plate
from farbe.separate.outline import PixelRing, rasterise


@dataclass(frozen=True, eq=False)
class Lettering:
    """A line of type over the artwork.

    Attributes
    ----------
    glyphs : closed rings of each glyph in pixels of the canvas
    inks : CMYK coverage of its colour, 0 to 255
    colour : the colour itself, sRGB
    into : the layer that alone prints it; empty if process inks do
    clip : the outline it may not leave, in pixels
    """

    glyphs: tuple[tuple[PixelRing, ...], ...]
    inks: tuple[int, int, int, int]
    clip: tuple[PixelRing, ...]
    colour: tuple[int, int, int] = (0, 0, 0)
    into: str = ""

    def cover(self, width: int, start: int, stop: int) -> tuple[slice, Plate] | None:
        """Columns that it reaches and its coverage there, uint8 (rows, columns), not to be written.

        Parameters
        ----------
        width : pixels
        start : first row
        stop : row after the last

        Returns
        -------
        None where it reaches none of the rows.
        """
        key = width, start, stop
        return self._made.get(key, lambda: self._cover(*key))

    @once
    def _made(self) -> Kept[tuple[int, int, int], tuple[slice, Plate] | None]:
        """Covers that were asked for last; several layers ask for the same."""
        return Kept(6)

    def _cover(self, width: int, start: int, stop: int) -> tuple[slice, Plate] | None:
        ends = np.concatenate([ring for rings in self.glyphs for ring in rings])
        left, top = np.floor(ends.min(axis=0)).astype(int)
        right, bottom = np.ceil(ends.max(axis=0)).astype(int)
        left, right = max(0, int(left)), min(width, int(right))
        if left >= right or bottom <= start or top >= stop:
            return None
        found = np.zeros((stop - start, right - left), np.uint8)
        for rings in self.glyphs:
            # Glyphs that touch must not cut holes into each other.
            moved = tuple(ring - (left, 0) for ring in rings)
            np.maximum(found, rasterise(moved, right - left, start, stop), out=found)
        inside = tuple(ring - (left, 0) for ring in self.clip)
        mask = rasterise(inside, right - left, start, stop)
        found = np.asarray(cv2.multiply(found, mask, scale=1.0 / 255.0), dtype=np.uint8)
        return slice(left, right), found
