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
class Separation:
    """One piece's plates, ready to be asked for rows.

    Attributes
    ----------
    layers : the layers that print, substrate up; colour gives four plates, every other one
    piece : outline of the piece in pixels of the canvas, for layers over the whole of it
    mirrored : whether the plates are turned left to right
    """

    placed: PlacedArtwork
    layers: tuple[Layer, ...]
    converter: Converter
    grid: Grid
    piece: tuple[Ring, ...]
    mirrored: bool = False

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
        return [np.ascontiguousarray(inks[..., i]) for i in range(4)]

    def _source(self, layer: Layer, start: int, stop: int) -> Plate:
        if layer.source is Source.WHOLE_PIECE:
            return rasterise(self.piece, self.size[0], start, stop)
        return self.placed.alpha(start, stop)

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
