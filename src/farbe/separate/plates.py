"""Layers to plates."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from farbe.art.artwork import Pixels
from farbe.model.layer import Choke, Layer, Limit, Source
from farbe.model.printer import LayerKind
from farbe.separate.choke import Plate, choke, reach
from farbe.separate.colour import Converter
from farbe.separate.grid import Grid
from farbe.separate.outline import Ring, rasterise
from farbe.separate.place import PlacedArtwork


@dataclass(frozen=True, eq=False)
class Lettering:
    """A line of type over the artwork.

    Attributes
    ----------
    glyphs : closed rings of each glyph in pixels of the canvas
    inks : CMYK coverage of its colour, 0 to 255
    clip : the outline it may not leave, in pixels
    """

    glyphs: tuple[tuple[Ring, ...], ...]
    inks: tuple[int, int, int, int]
    clip: tuple[Ring, ...]

    def cover(self, width: int, start: int, stop: int) -> tuple[slice, Plate] | None:
        """Columns that it reaches and its coverage there, uint8 (rows, columns)."""
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


@dataclass(frozen=True, eq=False)
class Separation:
    """One piece's plates, ready to be asked for rows.

    Attributes
    ----------
    layers : the layers that print, substrate up; colour gives four plates, every other one
    piece : outline of the piece in pixels of the canvas, for layers over the whole of it
    mirrored : whether the plates are turned left to right
    lettering : lines of type over the artwork; they knock out what is under them
    """

    placed: PlacedArtwork
    layers: tuple[Layer, ...]
    converter: Converter
    grid: Grid
    piece: tuple[Ring, ...]
    mirrored: bool = False
    lettering: tuple[Lettering, ...] = ()

    @property
    def size(self) -> tuple[int, int]:
        """(width, height) in pixels."""
        return self.placed.canvas

    @property
    def count(self) -> int:
        """Number of plates."""
        return sum(4 if layer.kind is LayerKind.COLOUR else 1 for layer in self.layers)

    def plates(self, start: int, stop: int) -> list[Plate]:
        """Coverage of rows, each plate uint8 (rows, width), in the order of ``layers``.

        Any two calls agree on the rows that they share.
        """
        plates: list[Plate] = []
        for layer in self.layers:
            if layer.source is Source.COLOURS:
                found = self._colour(start, stop)
                for treatment in layer.treatments:
                    if isinstance(treatment, Limit):
                        found = [_scaled(plate, treatment.percent / 100.0) for plate in found]
                plates += found
            else:
                plates.append(self._coverage(layer, start, stop))
        return [np.ascontiguousarray(p[:, ::-1]) for p in plates] if self.mirrored else plates

    def _colour(self, start: int, stop: int) -> list[Plate]:
        alpha = self.placed.alpha(start, stop)
        inks = np.zeros((*alpha.shape, 4), np.uint8)
        # Nothing is converted where the artwork is transparent.
        used = np.flatnonzero(alpha.any(axis=0))
        if len(used):
            columns = slice(int(used[0]), int(used[-1]) + 1)
            colours = self.placed.colours(start, stop)[:, columns]
            inks[:, columns] = under_alpha(self.converter(colours), alpha[:, columns])
        for line in self.lettering:
            covered = line.cover(self.size[0], start, stop)
            if covered is not None:
                columns, cover = covered
                share = cover[..., None].astype(np.float32) / 255.0
                under = inks[:, columns].astype(np.float32)
                mixed = under + share * (np.array(line.inks, np.float32) - under)
                inks[:, columns] = np.rint(mixed).astype(np.uint8)
        return [np.ascontiguousarray(inks[..., i]) for i in range(4)]

    def _source(self, layer: Layer, start: int, stop: int) -> Plate:
        if layer.source is Source.WHOLE_PIECE:
            return rasterise(self.piece, self.size[0], start, stop)
        return self.shape(start, stop)

    def shape(self, start: int, stop: int) -> Plate:
        """Where artwork or lettering lies, uint8 (rows, width); not mirrored."""
        found = self.placed.alpha(start, stop)
        for line in self.lettering:
            covered = line.cover(self.size[0], start, stop)
            if covered is not None:
                columns, cover = covered
                np.maximum(found[:, columns], cover, out=found[:, columns])
        return found

    def _coverage(self, layer: Layer, start: int, stop: int) -> Plate:
        halo = sum(reach(t.by, self.grid)[1] for t in layer.treatments if isinstance(t, Choke))
        plate = self._source(layer, start - halo, stop + halo)
        for treatment in layer.treatments:
            match treatment:
                case Choke(by=distance):
                    plate = choke(plate, distance, self.grid)
                case Limit(percent=percent):
                    plate = _scaled(plate, percent / 100.0)
        return plate[halo : halo + stop - start]


def under_alpha(inks: Pixels, alpha: Plate) -> Pixels:
    """Coverage uint8 (rows, width, 4) times alpha uint8 (rows, width)."""
    lowest = int(alpha.min(initial=255))
    if lowest == 255:
        return inks
    cover = cv2.merge([alpha] * 4)
    return np.asarray(cv2.multiply(inks, cover, scale=1.0 / 255.0), dtype=np.uint8)


def _scaled(plate: Plate, share: float) -> Plate:
    return np.asarray(cv2.convertScaleAbs(plate, alpha=share), dtype=np.uint8)
