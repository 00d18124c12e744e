"""What each kind of source covers."""

from __future__ import annotations

import cv2
import numpy as np

from farbe.model.source import (
    ArtworkShape,
    AsLayer,
    ColourInk,
    Colours,
    End,
    FilePlate,
    OppositeShape,
    Otherwise,
    PickedColours,
    PlateNamed,
    Region,
    Surround,
    Tones,
    WholePiece,
)
from farbe.separate.choke import Plate
from farbe.separate.outline import rasterise
from farbe.separate.plates import Separation, draws
from farbe.separate.tones import nearness_table
from farbe.separate.treat import LIGHTNESS, shared


def _nothing(of: Separation, start: int, stop: int) -> Plate:
    return np.zeros((stop - start, of.size[0]), np.uint8)


@draws(ArtworkShape, Colours)
def _shape(of: Separation, _: object, start: int, stop: int) -> Plate:
    return of.shape(start, stop)


@draws(OppositeShape)
def _opposite(of: Separation, _: object, start: int, stop: int) -> Plate:
    if of.opposite is None:
        return _nothing(of, start, stop)
    return np.asarray(cv2.flip(of.opposite.shape(start, stop), 1), np.uint8)


@draws(ColourInk)
def _colour_ink(of: Separation, source: ColourInk, start: int, stop: int) -> Plate:
    most = of.inks(start, stop).max(axis=2)
    return np.asarray(cv2.convertScaleAbs(most, alpha=100.0 / source.solid), dtype=np.uint8)


@draws(WholePiece)
def _whole(of: Separation, _: object, start: int, stop: int) -> Plate:
    return rasterise(of.piece, of.size[0], start, stop)


@draws(Surround)
def _surround(of: Separation, _: object, start: int, stop: int) -> Plate:
    whole = rasterise(of.piece, of.size[0], start, stop)
    return np.asarray(cv2.subtract(whole, of.shape(start, stop)), dtype=np.uint8)


@draws(PlateNamed)
def _plate(of: Separation, source: PlateNamed, start: int, stop: int) -> Plate:
    return of.plate(source.name, start, stop)


@draws(FilePlate)
def _file_plate(of: Separation, source: FilePlate, start: int, stop: int) -> Plate:
    names = of.meant.get(source.meaning, ())
    found = [of.plate(name, start, stop) for name in names]
    if found:
        return np.asarray(np.max(found, axis=0), np.uint8)
    shape = source.otherwise is Otherwise.SHAPE
    return of.shape(start, stop) if shape else _nothing(of, start, stop)


@draws(AsLayer)
def _as_layer(of: Separation, source: AsLayer, start: int, stop: int) -> Plate:
    return of.as_layer(source.name, start, stop)


@draws(Tones)
def _tones(of: Separation, source: Tones, start: int, stop: int) -> Plate:
    step = source.full - source.start
    if not step:
        step = 1e-6 if source.end is End.LIGHT else -1e-6
    share = np.clip((LIGHTNESS - source.start) / step, 0.0, 1.0)
    return shared(of.shape(start, stop), share, of.lightness(start, stop))


@draws(PickedColours)
def _picked(of: Separation, source: PickedColours, start: int, stop: int) -> Plate:
    table = nearness_table(source.colours, source.tolerance, source.softness)
    near = table(of.screen(start, stop))
    found = cv2.multiply(near, of.shape(start, stop), scale=1.0 / 255.0)
    return np.asarray(found, dtype=np.uint8)


@draws(Region)
def _region(of: Separation, source: Region, start: int, stop: int) -> Plate:
    drawn = tuple(of.pixels(np.asarray(ring, np.float64)) for ring in source.rings)
    return rasterise(drawn, of.size[0], start, stop)
