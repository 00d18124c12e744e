"""What is laid on a bed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import as_file, files
from typing import Protocol

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont
from shapely.geometry import MultiPolygon

from farbe.art.artwork import Pixels
from farbe.kept import once
from farbe.separate.grid import Grid
from farbe.separate.outline import PixelRing, rasterise

#: Pixels up to which areas are drawn once and kept; larger ones are drawn by rows.
KEPT_PIXELS = 8_000_000


class Tile(Protocol):
    """A rectangle of many-channel pixels."""

    @property
    def size(self) -> tuple[int, int]: ...

    def rows(self, start: int, stop: int) -> Pixels: ...


@dataclass(frozen=True)
class Laid:
    """A tile at a place of the bed in mm.

    ``middle`` is what of the tile lies there, in its pixels; None is its own middle.
    """

    tile: Tile
    x: float
    y: float
    middle: tuple[float, float] | None = None


@dataclass(frozen=True, eq=False)
class AreaTile:
    """Areas of ink, hard-edged, one channel."""

    size: tuple[int, int]
    rings: tuple[PixelRing, ...]

    def rows(self, start: int, stop: int) -> Pixels:
        if self.size[0] * self.size[1] > KEPT_PIXELS:
            return self._drawn(start, stop)
        return self._all[start:stop]

    @once
    def _all(self) -> Pixels:
        return self._drawn(0, self.size[1])

    def _drawn(self, start: int, stop: int) -> Pixels:
        covered = rasterise(self.rings, self.size[0], start, stop)
        solid = cv2.threshold(covered, 127, 255, cv2.THRESH_BINARY)[1]
        return np.asarray(solid, np.uint8)[..., None]


@dataclass(frozen=True, eq=False)
class TextTile:
    """A line of type, hard-edged, one channel; ``height`` is that of its figures in mm."""

    text: str
    height: float
    grid: Grid

    @property
    def size(self) -> tuple[int, int]:
        return self._all.shape[1], self._all.shape[0]

    def rows(self, start: int, stop: int) -> Pixels:
        return self._all[start:stop]

    @once
    def _all(self) -> Pixels:
        return _typed(self.text, self.height, (self.grid.per_mm_x, self.grid.per_mm_y))


@dataclass(frozen=True, eq=False)
class BlackOnly:
    """A tile of one channel as the process black of many; nothing in all others."""

    tile: Tile
    channel: int
    count: int
    mirrored: bool = False

    @property
    def size(self) -> tuple[int, int]:
        return self.tile.size

    def rows(self, start: int, stop: int) -> Pixels:
        made = np.zeros((stop - start, self.size[0], self.count), np.uint8)
        rows = self.tile.rows(start, stop)[..., 0]
        made[..., self.channel] = rows[:, ::-1] if self.mirrored else rows
        return made


@lru_cache(maxsize=4)
def _type(size: int) -> ImageFont.FreeTypeFont:
    with as_file(files("farbe") / "data" / "fonts" / "Inter-Medium.otf") as path:
        return ImageFont.truetype(str(path), size)


# The numbers of a large board are asked for again at each edit of its jig.
@lru_cache(maxsize=4096)
def _typed(text: str, height: float, per_mm: tuple[float, float]) -> Pixels:
    # Drawn at the finer resolution, then brought to pixels that may not be square.
    fine = max(per_mm)
    # Figures are about 0.73 of the type's size.
    font = _type(max(4, round(height * fine / 0.73)))
    left, top, right, bottom = font.getbbox(text)
    drawn = Image.new("L", (math.ceil(right - left), math.ceil(bottom - top)), 0)
    ImageDraw.Draw(drawn).text((-left, -top), text, font=font, fill=255)
    size = (
        max(1, round(drawn.width * per_mm[0] / fine)),
        max(1, round(drawn.height * per_mm[1] / fine)),
    )
    shown = np.asarray(drawn.resize(size, Image.Resampling.BOX))
    return np.where(shown >= 128, 255, 0).astype(np.uint8)[..., None]


def shape_rings(shape: MultiPolygon, size: tuple[int, int], grid: Grid) -> tuple[PixelRing, ...]:
    """Outer and inner rings of areas around (0, 0) in mm, in pixels around the tile's middle.

    Parameters
    ----------
    shape : areas in mm around (0, 0)
    size : width and height in pixels
    grid : resolution along x and y

    Returns
    -------
    Closed rings, float64 (n, 2).
    """
    lines = [ring for part in shape.geoms for ring in (part.exterior, *part.interiors)]
    middle = (size[0] / 2, size[1] / 2)
    return tuple(
        np.asarray(line.coords, dtype=np.float64)[:-1] * (grid.per_mm_x, -grid.per_mm_y) + middle
        for line in lines
    )
