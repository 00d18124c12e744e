"""The whole bed: tiles laid at the pockets, any rows at a time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from farbe.art.artwork import Artwork, Pixels
from farbe.layout.frame import BedFrame
from farbe.layout.pockets import used_pockets
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.plan.order import channels, mirrored
from farbe.render.piece import channel_infos, job_tile
from farbe.render.raster import ChannelInfo
from farbe.separate.grid import Grid


class Tile(Protocol):
    """What is laid on a bed."""

    @property
    def size(self) -> tuple[int, int]: ...

    def rows(self, start: int, stop: int) -> Pixels: ...


@dataclass(frozen=True)
class Laid:
    """A tile with its middle at a place of the bed in mm."""

    tile: Tile
    x: float
    y: float


@dataclass(frozen=True)
class BedRaster:
    """Tiles on a bed; where they overlap, the more ink stays.

    Attributes
    ----------
    turned : the whole bed turned by half a turn, as the board was loaded
    flipped : the whole bed turned left to right, for a receiver that turns it back
    """

    frame: BedFrame
    laid: tuple[Laid, ...]
    channels: tuple[ChannelInfo, ...]
    turned: bool = False
    flipped: bool = False

    @property
    def size(self) -> tuple[int, int]:
        return self.frame.size

    @property
    def grid(self) -> Grid:
        return self.frame.grid

    def rows(self, start: int, stop: int) -> Pixels | None:
        """Rows of the bed; what lies beyond its edges is cut off (a check stops such a job)."""
        height = self.size[1]
        if self.turned:
            rows = self._straight(height - stop, height - start)
            rows = None if rows is None else rows[::-1, ::-1]
        else:
            rows = self._straight(start, stop)
        if rows is not None and self.flipped:
            rows = rows[:, ::-1]
        return None if rows is None else np.ascontiguousarray(rows)

    def _straight(self, start: int, stop: int) -> Pixels | None:
        result: Pixels | None = None
        for one in self.laid:
            width, height = one.tile.size
            column, row = self.frame.corner(one.x, one.y, (width, height))
            top, bottom = max(start, row), min(stop, row + height)
            left, right = max(0, column), min(self.size[0], column + width)
            if top >= bottom or left >= right:
                continue
            if result is None:
                result = np.zeros((stop - start, self.size[0], len(self.channels)), np.uint8)
            part = one.tile.rows(top - row, bottom - row)[:, left - column : right - column]
            target = result[top - start : bottom - start, left:right]
            np.maximum(target, part, out=target)
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
    tile = job_tile(job, artwork, profile, frame.grid, times=len(used))
    return BedRaster(
        frame=frame,
        laid=tuple(Laid(tile, pocket.x, pocket.y) for pocket in used),
        channels=channel_infos(channels(job)),
        turned=job.bed_turned,
        flipped=mirrored(job.reader) and job.receiver.mirrors,
    )
