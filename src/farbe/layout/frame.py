"""The bed in output pixels: the one frame for guide and artwork."""

from __future__ import annotations

import math
from dataclasses import dataclass

from farbe.art.artwork import MM_PER_INCH
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.separate.grid import Grid

#: Pixels along the longer side of a piece from which ink and findings are foretold.
SAMPLED = 500


@dataclass(frozen=True)
class BedFrame:
    """A bed of ``width`` x ``height`` mm; pixel rows run down from the side far from the datum."""

    width: float
    height: float
    grid: Grid

    @property
    def size(self) -> tuple[int, int]:
        """(width, height) in pixels; the last pixel of either may reach over the bed's edge."""
        # A hair less than a whole pixel over is the rounding of mm, not bed.
        return (
            math.ceil(self.width * self.grid.per_mm_x - 1e-6),
            math.ceil(self.height * self.grid.per_mm_y - 1e-6),
        )

    def corner(
        self,
        x: float,
        y: float,
        size: tuple[int, int],
        middle: tuple[float, float] | None = None,
    ) -> tuple[int, int]:
        """Column and row of the first pixel of a tile of ``size`` pixels laid on a place.

        ``middle`` is what of it lies there, in its pixels; None is its own middle.

        Rounded from the place's own millimetres. Tiles whose sizes differ by even numbers of
        pixels keep the same centre, which ties the guide to the artwork.

        Parameters
        ----------
        x : mm to the right
        y : mm away
        size : width and height in pixels
        middle : of the tile, in its pixels; None is its own
        """
        across, down = middle or (size[0] / 2, size[1] / 2)
        column = x * self.grid.per_mm_x - across
        row = (self.height - y) * self.grid.per_mm_y - down
        return math.floor(column + 0.5), math.floor(row + 0.5)


def printer_frame(job: Faced) -> BedFrame:
    """What passes under the heads at the printer's resolution: its bed, or as much film.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    Size in mm, and the printer's resolution.
    """
    return BedFrame(*carrier_of(job).size(job), Grid(job.printer.dpi_x, job.printer.dpi_y))


def sampling_grid(job: Faced, pixels: int = SAMPLED) -> Grid:
    """A grid on which the piece's longer side has about so many pixels.

    Parameters
    ----------
    job : whose piece is looked at
    pixels : along its longer side

    Returns
    -------
    Never finer than the printer's resolution.
    """
    longest = max(job.piece.shape.width, job.piece.shape.height) + 2 * job.bleed
    dpi = pixels / longest * MM_PER_INCH
    return Grid(min(dpi, job.printer.dpi_x), min(dpi, job.printer.dpi_y))
