"""The whole bed: tiles laid at the pockets, any rows at a time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from farbe.art.artwork import Artwork, Pixels
from farbe.layout.frame import BedFrame
from farbe.layout.pockets import Pocket, used_pockets
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.plan.order import channels, mirrored
from farbe.render.piece import channel_infos, job_tile
from farbe.render.raster import ChannelInfo
from farbe.separate.grid import Grid


class Tile(Protocol):
    """What is laid into a pocket."""

    @property
    def size(self) -> tuple[int, int]: ...

    def rows(self, start: int, stop: int) -> Pixels: ...


@dataclass(frozen=True)
class BedRaster:
    """Tiles on a bed.

    Attributes
    ----------
    tile : laid with its middle on each of ``pockets``; where tiles overlap, the more ink stays
    flipped : the whole bed turned left to right, for a receiver that turns it back
    """

    frame: BedFrame
    tile: Tile
    pockets: tuple[Pocket, ...]
    channels: tuple[ChannelInfo, ...]
    flipped: bool = False

    @property
    def size(self) -> tuple[int, int]:
        return self.frame.size

    @property
    def grid(self) -> Grid:
        return self.frame.grid

    def rows(self, start: int, stop: int) -> Pixels | None:
        """Rows of the bed; what lies beyond its edges is cut off (a check stops such a job)."""
        width, height = self.tile.size
        result: Pixels | None = None
        for pocket in self.pockets:
            column, row = self.frame.corner(pocket, (width, height))
            top, bottom = max(start, row), min(stop, row + height)
            left, right = max(0, column), min(self.size[0], column + width)
            if top >= bottom or left >= right:
                continue
            if result is None:
                result = np.zeros((stop - start, self.size[0], len(self.channels)), np.uint8)
            part = self.tile.rows(top - row, bottom - row)[:, left - column : right - column]
            target = result[top - start : bottom - start, left:right]
            np.maximum(target, part, out=target)
        if self.flipped and result is not None:
            return np.ascontiguousarray(result[:, ::-1])
        return result


def printer_frame(job: Job) -> BedFrame:
    printer = job.printer
    return BedFrame(printer.bed_width, printer.bed_height, Grid(printer.dpi_x, printer.dpi_y))


def job_bed(
    job: Job, artwork: Artwork | None, profile: bytes, *, frame: BedFrame | None = None
) -> BedRaster:
    """The artwork's run of a job.

    Raises
    ------
    BadInput
        If nothing would print: no pocket on, no layer on, or an ink that the printer lacks.
    """
    frame = frame or printer_frame(job)
    used = used_pockets(job)
    if not used:
        raise BadInput("All pockets are switched off; switch one on at the station Bed.")
    return BedRaster(
        frame=frame,
        tile=job_tile(job, artwork, profile, frame.grid, times=len(used)),
        pockets=used,
        channels=channel_infos(channels(job)),
        flipped=mirrored(job.reader) and job.receiver.mirrors,
    )
