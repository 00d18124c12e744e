"""Time from swaths: each crossing of the carriage is counted."""

from __future__ import annotations

import math

from farbe.estimate.runs import Run
from farbe.layout.faced import Faced
from farbe.layout.pockets import used_pockets
from farbe.layout.prints import pocket_size
from farbe.model.printer import Printer

#: Share of its speed at which the carriage moves for exact placing.
SLOW = 0.5


def guide_passes(job: Faced) -> int:
    """Passes of the guide's print: a draft takes a quarter of them."""
    return max(1, job.printer.passes // 4) if job.guide.draft else job.printer.passes


def extent(*jobs: Faced) -> tuple[float, float]:
    """Width and height in mm from the first pocket's edge to the last one's, of all jobs."""
    xs, ys = list[float](), list[float]()
    for job in jobs:
        for pocket in used_pockets(job):
            width, height = pocket_size(job, pocket.number)
            xs += (pocket.x - width / 2, pocket.x + width / 2)
            ys += (pocket.y - height / 2, pocket.y + height / 2)
    return (max(xs) - min(xs), max(ys) - min(ys)) if xs else (0.0, 0.0)


def run_seconds(run: Run) -> float:
    """Seconds of one run, all its hits."""
    job = run.job
    width, height = extent(*run.jobs)
    if job.running.whole_width and width:
        width = job.printer.bed_width if job.roll is None else job.roll.width
    # Each place passes under the head rows in turn: white, colour and varnish have their own.
    rows = 1 if run.is_guide else max(1, len(run.layers))
    reach = height + job.printer.head_rows * (rows - 1) if height else 0.0
    passes = guide_passes(job) if run.is_guide else job.printer.passes
    slow = SLOW if job.running.exact and not run.is_guide else 1.0
    return run.hits * swath_seconds(job.printer, width, reach, passes=passes, slow=slow)


def swath_seconds(
    printer: Printer, width: float, height: float, *, passes: int, slow: float = 1.0
) -> float:
    """Seconds for an area in mm in so many passes.

    Each swath is crossed once a pass; the carriage turns after each crossing, and goes back
    without printing, at full speed, where it does not print both ways. ``slow`` is the share of
    its speed at which it prints.
    """
    if width <= 0 or height <= 0:
        return 0.0
    crossings = math.ceil(height / printer.swath) * passes
    crossing = width / (printer.speed * slow) + printer.turn
    if not printer.both_ways:
        crossing += width / printer.speed + printer.turn
    return crossings * crossing
