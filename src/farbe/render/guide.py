"""The guide as a print."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from importlib.resources import as_file, files

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from shapely.geometry import MultiPolygon

from farbe.art.artwork import Pixels
from farbe.layout.bedframe import board_on_bed
from farbe.layout.frame import BedFrame
from farbe.layout.guide import guide_ink, guide_reach, guide_shape, jig_code
from farbe.layout.pockets import footprint, piece_on_bed, used_pockets
from farbe.model.job import Job
from farbe.render.bed import BedRaster, Laid, printer_frame
from farbe.render.raster import ChannelInfo
from farbe.separate.grid import Grid
from farbe.separate.outline import Ring, rasterise

#: Height of figures, and how far they stand off from the pocket, in mm.
FIGURES = 3.2
CODE_FIGURES = 4.0
STAND_OFF = 0.8


@dataclass(frozen=True, eq=False)
class GuideTile:
    """Areas of ink, hard-edged, one channel."""

    size: tuple[int, int]
    rings: tuple[Ring, ...]

    def rows(self, start: int, stop: int) -> Pixels:
        return self._all[start:stop]

    @cached_property
    def _all(self) -> Pixels:
        covered = rasterise(self.rings, self.size[0], 0, self.size[1])
        return np.where(covered >= 128, 255, 0).astype(np.uint8)[..., None]


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

    @cached_property
    def _all(self) -> Pixels:
        # Drawn at the finer resolution, then brought to pixels that may not be square.
        fine = max(self.grid.per_mm_x, self.grid.per_mm_y)
        with as_file(files("farbe") / "data" / "fonts" / "Inter-Medium.otf") as path:
            # Figures are about 0.73 of the type's size.
            font = ImageFont.truetype(str(path), max(4, round(self.height * fine / 0.73)))
        left, top, right, bottom = font.getbbox(self.text)
        drawn = Image.new("L", (math.ceil(right - left), math.ceil(bottom - top)), 0)
        ImageDraw.Draw(drawn).text((-left, -top), self.text, font=font, fill=255)
        size = (
            max(1, round(drawn.width * self.grid.per_mm_x / fine)),
            max(1, round(drawn.height * self.grid.per_mm_y / fine)),
        )
        shown = np.asarray(drawn.resize(size, Image.Resampling.BOX))
        return np.where(shown >= 128, 255, 0).astype(np.uint8)[..., None]


def _rings(shape: MultiPolygon, size: tuple[int, int], grid: Grid) -> tuple[Ring, ...]:
    """Outer and inner rings of areas around (0, 0) in mm, in pixels around the tile's middle."""
    lines = [ring for part in shape.geoms for ring in (part.exterior, *part.interiors)]
    middle = (size[0] / 2, size[1] / 2)
    return tuple(
        np.asarray(line.coords, dtype=np.float64)[:-1] * (grid.per_mm_x, -grid.per_mm_y) + middle
        for line in lines
    )


def guide_tile(job: Job, grid: Grid) -> GuideTile:
    """What is printed around one piece, centred exactly as the piece's own tile is."""
    width, height = footprint(job.jig, job.piece.shape)
    piece = grid.size(width + 2 * job.bleed, height + 2 * job.bleed)
    room = guide_reach(job.guide) + 1.0
    # An even number of pixels more keeps the middle where the piece's tile has it.
    size = (
        piece[0] + 2 * math.ceil(room * grid.per_mm_x),
        piece[1] + 2 * math.ceil(room * grid.per_mm_y),
    )
    shape = guide_shape(job.guide, piece_on_bed(job))
    return GuideTile(size, _rings(shape, size, grid))


def _numbers(job: Job, grid: Grid) -> list[Laid]:
    """Each pocket's number at the far left of it, outside the guide's lines."""
    width, height = footprint(job.jig, job.piece.shape)
    off = guide_reach(job.guide) + STAND_OFF
    laid = []
    for pocket in used_pockets(job):
        tile = TextTile(str(pocket.number), FIGURES, grid)
        wide = tile.size[0] / grid.per_mm_x
        x = pocket.x - width / 2 - off + wide / 2
        laid.append(Laid(tile, x, pocket.y + height / 2 + off - FIGURES / 2))
    return laid


def _code(job: Job, grid: Grid) -> Laid:
    """The jig's code at the board's near right corner."""
    tile = TextTile(jig_code(job), CODE_FIGURES, grid)
    wide, high = tile.size[0] / grid.per_mm_x, tile.size[1] / grid.per_mm_y
    _, bottom, right, _ = board_on_bed(job.jig.board, job.jig.datum, job.printer)
    return Laid(tile, right - 3.0 - wide / 2, bottom + 2.0 + high / 2)


def guide_bed(job: Job, *, frame: BedFrame | None = None) -> BedRaster:
    """The guide's run of a job, in the same frame and at the same positions as the artwork's."""
    frame = frame or printer_frame(job)
    ink = guide_ink(job)
    info = ChannelInfo(job.receiver.channel(ink.name), ink.shown, ink.kind.value)
    tile = guide_tile(job, frame.grid)
    laid = [Laid(tile, pocket.x, pocket.y) for pocket in used_pockets(job)]
    if job.guide.numbers:
        laid += [*_numbers(job, frame.grid), _code(job, frame.grid)]
    return BedRaster(frame, tuple(laid), (info,), turned=job.bed_turned)
