"""Ink from plates, time from swaths."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, replace

import numpy as np

from farbe.art.artwork import MM_PER_INCH
from farbe.layout.frame import sampling_grid
from farbe.layout.pockets import footprint, used_pockets
from farbe.layout.prints import one_print, spread
from farbe.layout.sides import turned_over
from farbe.model.job import Job
from farbe.model.printer import Ink, Printer
from farbe.plan.order import channels, printing_layers
from farbe.render.piece import piece_separation, plate_order
from farbe.render.sources import Sources

#: Different prints from which ink is foretold.
MOST_PRINTS = 24


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

    def plus(self, other: InkUse) -> InkUse:
        """Both together."""
        return replace(self, ml=self.ml + other.ml, cost=self.cost + other.cost)


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


def estimate(job: Job, sources: Sources) -> Estimate:
    """Ink, cost and time of an order, from the same plates as the files but on a coarser grid.

    Both sides of pieces that have two. Where very many pockets differ, so many of them stand for
    the others.
    """
    sides = (job,) if job.back is None else (job, turned_over(job))
    inks: dict[tuple[str, str], InkUse] = {}
    seconds = 0.0
    for side in sides:
        for use in _inks(side, sources):
            known = inks.get((use.channel, use.layer))
            inks[use.channel, use.layer] = use if known is None else known.plus(use)
        hits = max((layer.hits for layer in printing_layers(side.stack)), default=0)
        seconds += run_seconds(side) * hits
    return Estimate(tuple(inks.values()), len(used_pockets(job)), seconds)


def _inks(job: Job, sources: Sources) -> list[InkUse]:
    """What one side takes."""
    found = channels(job)
    printing = printing_layers(job.stack)
    if not found:
        return []
    counted = Counter(spread(job).prints.values())
    standing = list(counted)[:: max(1, len(counted) // MOST_PRINTS)][:MOST_PRINTS]
    share = sum(counted.values()) / max(1, sum(counted[what] for what in standing))
    grid = sampling_grid(job)
    order = plate_order(found, printing)
    totals = np.zeros(len(found))
    for what in standing:
        separation = piece_separation(one_print(job, what), sources, grid)
        plates = separation.plates(0, separation.size[1])
        sums = [float(plates[index].sum(dtype="int64")) for index in order]
        totals += share * counted[what] * np.array(sums)
    inks = []
    for channel, total in zip(found, totals, strict=True):
        ml = ink_ml(float(total), channel.ink, grid.dpi_x, grid.dpi_y, channel.layer.hits)
        inks.append(InkUse(channel.name, channel.layer.name, ml, ml / 1000 * channel.ink.price))
    return inks


def guide_passes(job: Job) -> int:
    """Passes of the guide's print: a draft takes a quarter of them."""
    return max(1, job.printer.passes // 4) if job.guide.draft else job.printer.passes


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
