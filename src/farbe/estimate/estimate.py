"""Ink from plates, time from swaths."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace

import numpy as np

from farbe.art.artwork import MM_PER_INCH
from farbe.estimate.runs import runs
from farbe.estimate.swaths import run_seconds
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced, printed_faces
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import allotted, laid
from farbe.layout.prints import one_print
from farbe.plan.order import channels, printing_layers
from farbe.render.piece import piece_separation
from farbe.render.piecetile import plate_order
from farbe.render.sources import Sources

#: Different prints from which ink is foretold.
MOST_PRINTS = 24


def ink_ml(coverage_sum: float, laydown: float, dpi_x: float, dpi_y: float, hits: int = 1) -> float:
    """Ink in ml: sum of coverage (0 to 255 a pixel) × pixel area × laydown (ml/m²) × hits.

    Parameters
    ----------
    coverage_sum : sum of coverage, 0 to 255 each
    laydown : ml/m² of a solid hit
    dpi_x : dots per inch along x
    dpi_y : dots per inch along y
    hits : how often it is laid down, 1 or more
    """
    square_metre = (MM_PER_INCH / 1000.0) ** 2 / (dpi_x * dpi_y)
    return coverage_sum / 255.0 * square_metre * laydown * hits


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
    """What an order takes; seconds of printing, without placing and drying; cost of the film."""

    inks: tuple[InkUse, ...]
    pieces: int
    seconds: float
    film: float = 0.0

    @property
    def cost(self) -> float:
        """Cost of all ink."""
        return sum(ink.cost for ink in self.inks)


def estimate(job: Faced, sources: Sources) -> Estimate:
    """Ink, cost and time of an order, from the same plates as the files but on a coarser grid.

    Both sides of pieces that have two. Where very many pockets differ, so many of them stand for
    the others.

    Parameters
    ----------
    job : any face of it
    sources : pixels, fonts and profile

    Returns
    -------
    Millilitres, cost and seconds of the whole order.

    Raises
    ------
    BadInput
        If a file cannot be read.
    """
    sides = printed_faces(job.job)
    inks: dict[tuple[str, str], InkUse] = {}
    for side in sides:
        for use in _inks(side, sources):
            known = inks.get((use.channel, use.layer))
            inks[use.channel, use.layer] = use if known is None else known.plus(use)
    seconds = sum(run_seconds(run) for run in runs(job) if not run.is_guide)
    film = carrier_of(job).material_cost(job)
    return Estimate(tuple(inks.values()), len(laid(job)), seconds, film)


def _inks(job: Faced, sources: Sources) -> list[InkUse]:
    """What one side takes."""
    found = channels(job)
    printing = printing_layers(job.stack)
    if not found:
        return []
    counted = Counter(allotted(job).prints.values())
    standing = list(counted)[:: max(1, len(counted) // MOST_PRINTS)][:MOST_PRINTS]
    share = sum(counted.values()) / max(1, sum(counted[what] for what in standing))
    order = plate_order(found, printing)
    totals = np.zeros(len(found))
    for what in standing:
        of = one_print(job, what)
        grid = sampling_grid(of)
        separation = piece_separation(of, sources, grid)
        plates = separation.plates(0, separation.size[1])
        sums = [float(plates[index].sum(dtype="int64")) for index in order]
        # Ink of one ml/m², as pixels may differ from print to print.
        thin = [ink_ml(total, 1.0, grid.dpi_x, grid.dpi_y) for total in sums]
        totals += share * counted[what] * np.array(thin)
    inks = []
    for channel, total in zip(found, totals, strict=True):
        ml = float(total) * job.printer.laid(channel.ink) * channel.layer.hits
        inks.append(InkUse(channel.name, channel.layer.name, ml, ml / 1000 * channel.ink.price))
    return inks
