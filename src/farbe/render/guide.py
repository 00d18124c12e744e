"""The guide as a print."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from farbe.art.artwork import Pixels
from farbe.layout.frame import BedFrame
from farbe.layout.pockets import used_pockets
from farbe.model.job import Job
from farbe.render.bed import BedRaster, printer_frame
from farbe.render.piece import ring_pixels
from farbe.render.raster import ChannelInfo
from farbe.separate.grid import Grid
from farbe.separate.outline import Ring, rasterise


@dataclass(frozen=True, eq=False)
class GuideTile:
    """One pocket's outline: solid between two rings, hard-edged, one channel."""

    size: tuple[int, int]
    rings: tuple[Ring, Ring]

    def rows(self, start: int, stop: int) -> Pixels:
        return self._all[start:stop]

    @cached_property
    def _all(self) -> Pixels:
        covered = rasterise(self.rings, self.size[0], 0, self.size[1])
        return np.where(covered >= 128, 255, 0).astype(np.uint8)[..., None]


def guide_tile(job: Job, grid: Grid) -> GuideTile:
    """The outline around a piece, centred exactly as the piece's own tile is."""
    shape, guide = job.piece.shape, job.guide
    piece = grid.size(shape.width + 2 * job.bleed, shape.height + 2 * job.bleed)
    room = guide.distance + guide.line_width + 1.0
    # An even number of pixels more keeps the middle where the piece's tile has it.
    size = (
        piece[0] + 2 * math.ceil(room * grid.per_mm_x),
        piece[1] + 2 * math.ceil(room * grid.per_mm_y),
    )
    grow = guide.distance
    outer = ring_pixels(shape, grow + guide.line_width, size, grid)
    return GuideTile(size, (outer, ring_pixels(shape, grow, size, grid)))


def guide_bed(job: Job, *, frame: BedFrame | None = None) -> BedRaster:
    """The guide's run of a job, in the same frame and at the same positions as the artwork's."""
    frame = frame or printer_frame(job)
    ink = next(ink for ink in job.printer.inks if ink.name == job.guide.ink)
    info = ChannelInfo(job.receiver.channel(ink.name), ink.shown, ink.kind.value)
    return BedRaster(frame, guide_tile(job, frame.grid), used_pockets(job), (info,))
