"""Time from swaths: each crossing of the carriage is counted."""

from __future__ import annotations

import math

from farbe.estimate.runs import Run
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.register import extent
from farbe.model.printer import Printer

#: Share of its speed at which the carriage moves for exact placing.
SLOW = 0.5


def guide_passes(job: Faced) -> int:
    """Passes of the guide's print: a draft takes a quarter of them.

    Parameters
    ----------
    job : the job as one of its faces has it
    """
    return max(1, job.printer.passes // 4) if job.guide.draft else job.printer.passes


def run_seconds(run: Run) -> float:
    """Seconds of one run, all its hits.

    Parameters
    ----------
    run : all its hits are counted

    Returns
    -------
    Seconds.
    """
    job = run.job
    width, height = extent(*run.jobs)
    if job.running.whole_width and width:
        width = carrier_of(job).size(job)[0]
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

    Parameters
    ----------
    printer : whose bed and inks are meant
    width : mm across which it prints
    height : mm along which it prints
    passes : crossings of each swath
    slow : share of its speed at which the carriage prints
    """
    if width <= 0 or height <= 0:
        return 0.0
    crossings = math.ceil(height / printer.swath) * passes
    crossing = width / (printer.speed * slow) + printer.turn
    if not printer.both_ways:
        crossing += width / printer.speed + printer.turn
    return crossings * crossing
