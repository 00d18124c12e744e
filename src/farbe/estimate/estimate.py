"""Ink from plates, time from swaths."""

from __future__ import annotations

import math
from dataclasses import dataclass

from farbe.art.artwork import MM_PER_INCH, Artwork
from farbe.layout.pockets import footprint, used_pockets
from farbe.model.job import Job
from farbe.model.printer import Ink, Printer
from farbe.plan.order import channels, printing_layers
from farbe.render.piece import piece_separation, plate_order
from farbe.separate.colour import Converter
from farbe.separate.grid import Grid

#: Pixels along the longer side of a piece from which ink is foretold.
SAMPLED = 500


def ink_ml(coverage_sum: float, ink: Ink, dpi_x: float, dpi_y: float, hits: int = 1) -> float:
    """Ink in ml: sum of coverage (0 to 255 a pixel) × pixel area × laydown × hits."""
    square_metre = (MM_PER_INCH / 1000.0) ** 2 / (dpi_x * dpi_y)
    return coverage_sum / 255.0 * square_metre * ink.laydown * hits


@dataclass(frozen=True)
class InkUse:
    """Ink of one channel for the whole order, and the layer it belongs to."""

    channel: str
    layer: str
    ml: float
    cost: float


@dataclass(frozen=True)
class Estimate:
    """What an order takes; seconds of printing, without placing and drying."""

    inks: tuple[InkUse, ...]
    pieces: int
    seconds: float

    @property
    def cost(self) -> float:
        """Cost of all ink."""
        return sum(ink.cost for ink in self.inks)


def sampling_grid(job: Job, pixels: int = SAMPLED) -> Grid:
    """A grid on which the piece's longer side has about so many pixels."""
    longest = max(job.piece.shape.width, job.piece.shape.height) + 2 * job.bleed
    dpi = pixels / longest * MM_PER_INCH
    return Grid(min(dpi, job.printer.dpi_x), min(dpi, job.printer.dpi_y))


def estimate(
    job: Job, artwork: Artwork | None, profile: bytes, *, converter: Converter | None = None
) -> Estimate:
    """Ink, cost and time of an order, from the same plates as the files but on a coarser grid."""
    found = channels(job)
    layers = tuple(c.layer for c in found)
    printing = tuple(layer for layer in printing_layers(job.stack) if layer in layers)
    grid = sampling_grid(job)
    count = len(used_pockets(job))
    inks: list[InkUse] = []
    if printing:
        separation = piece_separation(
            job, artwork, profile, grid, layers=printing, converter=converter
        )
        plates = separation.plates(0, separation.size[1])
        for channel, index in zip(found, plate_order(found, printing), strict=True):
            total = float(plates[index].sum(dtype="int64"))
            ml = count * ink_ml(total, channel.ink, grid.dpi_x, grid.dpi_y, channel.layer.hits)
            inks.append(InkUse(channel.name, channel.layer.name, ml, ml / 1000 * channel.ink.price))
    hits = max((layer.hits for layer in printing), default=0)
    return Estimate(tuple(inks), count, run_seconds(job) * hits)


def run_seconds(job: Job) -> float:
    """Seconds for one hit of all inks over the pockets that are on."""
    return swath_seconds(job.printer, *_extent(job))


def _extent(job: Job) -> tuple[float, float]:
    """Width and height in mm of what the carriage crosses."""
    used = used_pockets(job)
    if not used:
        return 0.0, 0.0
    (width, height), xs, ys = (
        footprint(job.jig, job.piece.shape),
        [p.x for p in used],
        [p.y for p in used],
    )
    return max(xs) - min(xs) + width, max(ys) - min(ys) + height


def swath_seconds(printer: Printer, width: float, height: float) -> float:
    """Seconds for an area in mm, all its inks in one go.

    Each swath is crossed once a pass; the carriage turns after each crossing.
    """
    if width <= 0 or height <= 0:
        return 0.0
    crossings = math.ceil(height / printer.swath) * printer.passes
    return crossings * (width / printer.speed + printer.turn)
