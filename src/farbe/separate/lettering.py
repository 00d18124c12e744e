"""Lines of type over artwork, as coverage."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from farbe.kept import Kept, once
from farbe.separate.choke import Plate
from farbe.separate.outline import PixelRing, covers_all, rasterise

#: Pixels up to which the coverage of a line is kept as a whole.
SMALL = 1 << 20
#: How many covers of a line are kept.
COVERS = 6
#: The first pixel (x, y), and the one after the last.
_Box = tuple[tuple[int, int], tuple[int, int]]


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

    def cover(self, width: int, start: int, stop: int) -> tuple[tuple[slice, slice], Plate] | None:
        """Where it lies in canvas rows, and its coverage there.

        Parameters
        ----------
        width : pixels
        start : first row
        stop : row after the last

        Returns
        -------
        Rows, from ``start`` on, and columns; uint8 (rows, columns), not to be written to. None
        where it reaches none of the rows.
        """
        (left, top), (right, bottom) = self._box
        left, right = max(0, left), min(width, right)
        first, last = max(start, top), min(stop, bottom)
        if left >= right or first >= last:
            return None
        place = slice(first - start, last - start), slice(left, right)
        # Strips and layers that overlap ask for the same: all of what is small is made at once.
        small = (right - left) * (bottom - top) <= SMALL
        rows = (top, bottom) if small else (first, last)
        made = self._made.get((right, *rows), lambda: self._cover((left, right), rows))
        return place, made[first - rows[0] : last - rows[0]]

    @once
    def _box(self) -> _Box:
        # Spaces of some widths are glyphs without an outline.
        return _box_of(self.glyphs) if self.glyphs else ((0, 0), (0, 0))

    @once
    def _made(self) -> Kept[tuple[int, int, int], Plate]:
        """Covers that were asked for last; several layers ask for the same."""
        return Kept(COVERS)

    @property
    def nbytes(self) -> int:
        """Bytes that it takes, with as many covers of all of it as may be kept."""
        (left, top), (right, bottom) = self._box
        outlines = sum(ring.nbytes for rings in self.glyphs for ring in rings)
        return outlines + COVERS * (right - left) * (bottom - top)

    def _cover(self, columns: tuple[int, int], rows: tuple[int, int]) -> Plate:
        """Coverage of these columns and rows, uint8."""
        found = np.zeros((rows[1] - rows[0], columns[1] - columns[0]), np.uint8)
        for rings in _apart(self.glyphs):
            (left, top), (right, bottom) = _box_of((rings,))
            left, right = max(columns[0], left), min(columns[1], right)
            top, bottom = max(rows[0], top), min(rows[1], bottom)
            if left < right and top < bottom:
                drawn = rasterise(_moved(rings, left), right - left, top, bottom)
                own = found[top - rows[0] : bottom - rows[0], left - columns[0] :]
                np.maximum(own[:, : right - left], drawn, out=own[:, : right - left])
        inside, wide = _moved(self.clip, columns[0]), found.shape[1]
        if covers_all(inside, wide, *rows):
            return found
        return np.asarray(cv2.multiply(found, rasterise(inside, wide, *rows), scale=1.0 / 255.0))


def _apart(glyphs: tuple[tuple[PixelRing, ...], ...]) -> list[tuple[PixelRing, ...]]:
    """Rings of glyphs that do not touch, together: those that do would cut holes into each other.

    Mostly there are one or two groups, which are drawn much more quickly than each by itself.
    """
    groups: list[tuple[list[_Box], list[PixelRing]]] = []
    for rings in glyphs:
        box = _box_of((rings,))
        for boxes, together in groups:
            if all(_clear(box, other) for other in boxes):
                boxes.append(box)
                together += rings
                break
        else:
            groups.append(([box], list(rings)))
    return [tuple(together) for _, together in groups]


def _clear(one: _Box, other: _Box) -> bool:
    return any(one[1][axis] < other[0][axis] or other[1][axis] < one[0][axis] for axis in (0, 1))


def _box_of(glyphs: tuple[tuple[PixelRing, ...], ...]) -> _Box:
    """The first pixel (x, y) of glyphs, and the one after the last."""
    ends = np.concatenate([ring for rings in glyphs for ring in rings])
    (left, top), (right, bottom) = np.floor(ends.min(axis=0)), np.ceil(ends.max(axis=0))
    return (int(left), int(top)), (int(right), int(bottom))


def _moved(rings: tuple[PixelRing, ...], left: int) -> tuple[PixelRing, ...]:
    return tuple(ring - (left, 0) for ring in rings)
