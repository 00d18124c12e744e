"""Ink from plates, time from swaths."""

from __future__ import annotations

import datetime
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from farbe.estimate.ink import ink_ml
from farbe.estimate.runs import runs
from farbe.estimate.swaths import run_seconds
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced, printed_faces
from farbe.layout.guide import guide_ink
from farbe.layout.laid import allotted, laid
from farbe.layout.sides import needs_own_guide
from farbe.model.printer import Ink
from farbe.plan.order import channels, printing_layers
from farbe.render.guide import guide_bed
from farbe.render.marks import job_marks
from farbe.render.piecetile import plate_order
from farbe.render.raster import Report, unwatched
from farbe.render.sources import Sources
from farbe.render.tile import Laid
from farbe.separate.grid import Grid
from farbe.survey.prints import surveys

#: The layer of what guides take.
GUIDE = "Guide"


@dataclass(frozen=True)
class InkUse:
    """Ink of one channel for the whole order, the layer it belongs to, and the ink's name."""

    channel: str
    layer: str
    ml: float
    cost: float
    ink: str = ""

    def plus(self, other: InkUse) -> InkUse:
        """Both together.

        Parameters
        ----------
        other : of another run or print
        """
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
        """Cost of all ink, in the job's currency."""
        return sum(ink.cost for ink in self.inks)


def estimate(
    job: Faced, sources: Sources, report: Report = unwatched, *, exact: bool = True
) -> Estimate:
    """Ink, cost and time of an order, from the very plates that are printed.

    Both sides of pieces that have two, marks and guides included.

    Parameters
    ----------
    job : any face of it
    sources : pixels, fonts and profile
    report : told the share that is done, 0 to 1
    exact : from the resolution that prints, rather than from a coarse grid

    Returns
    -------
    Millilitres, cost and seconds of the whole order.

    Raises
    ------
    BadInput
        If a file cannot be read.
    Cancelled
        If ``report`` does.
    """
    inks: dict[tuple[str, str], InkUse] = {}
    for side in printed_faces(job.job):
        for use in (*_inks(side, sources, report, exact=exact), *_guides(side)):
            known = inks.get((use.channel, use.layer))
            inks[use.channel, use.layer] = use if known is None else known.plus(use)
    seconds = sum(run_seconds(run) for run in runs(job) if not run.is_guide)
    film = carrier_of(job).material_cost(job)
    return Estimate(tuple(inks.values()), len(laid(job)), seconds, film)


def _inks(job: Faced, sources: Sources, report: Report, *, exact: bool) -> list[InkUse]:
    """What one side takes."""
    found = channels(job)
    if not found or not allotted(job).prints:
        return []
    order = plate_order(found, printing_layers(job.stack))
    # Ink of one ml/m², as pixels may differ from print to print.
    totals = np.zeros(len(found))
    looked = surveys(job, sources, report, exact=exact)
    # Those that were not looked at yet take as much as the others.
    share = len(allotted(job).prints) / max(1, sum(len(one.pockets) for one in looked))
    for one in looked:
        grid = one.survey.grid
        each = [ink_ml(one.survey.sums[index], 1.0, grid.dpi_x, grid.dpi_y) for index in order]
        totals += share * len(one.pockets) * np.array(each)
    grid = Grid(job.printer.dpi_x, job.printer.dpi_y)
    marks = job_marks(job, grid, datetime.date.today())
    totals += _thin(marks, grid, len(found))
    return [
        _use(job, channel.name, channel.layer.name, channel.ink, float(total), channel.layer.hits)
        for channel, total in zip(found, totals, strict=True)
    ]


def _guides(job: Faced) -> list[InkUse]:
    """What the guide of a side takes, if it has one of its own."""
    one = carrier_of(job)
    if not one.has_guide or not laid(job) or (job.number == 1 and not needs_own_guide(job)):
        return []
    bed = guide_bed(job)
    total = float(_thin(bed.laid, bed.grid, 1)[0])
    return [_use(job, bed.channels[0].name, GUIDE, guide_ink(job), total, job.guide.hits)]


def _use(job: Faced, channel: str, layer: str, ink: Ink, thin: float, hits: int) -> InkUse:
    ml = thin * job.machine.laid(ink) * hits
    return InkUse(channel, layer, ml, ml / 1000 * ink.price, ink.name)


def _thin(tiles: Sequence[Laid], grid: Grid, count: int) -> npt.NDArray[np.float64]:
    """Ml of each channel in tiles, if a solid hit were one ml/m²; those laid often made once."""
    often = Counter(id(one.tile) for one in tiles)
    total = np.zeros(count)
    for tile in {id(one.tile): one.tile for one in tiles}.values():
        sums = tile.rows(0, tile.size[1]).sum(axis=(0, 1), dtype="int64")
        total += often[id(tile)] * np.array(
            [ink_ml(float(each), 1.0, grid.dpi_x, grid.dpi_y) for each in sums]
        )
    return total
