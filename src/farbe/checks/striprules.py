"""Checks of a job's control strip."""

from __future__ import annotations

from collections.abc import Iterator

from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.layout.bedframe import from_bed
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import measure, sizes
from farbe.layout.strip import LaidStrip, laid_strips, no_strip
from farbe.model.piece import Reader
from farbe.plan.stations import Station
from farbe.said import say


@rule("strip-not-printed", "strip-off-board", "strip-reads-through")
def strip_has_room(facts: Facts) -> Iterator[Check]:
    """A control strip that is wanted is printed, on what it can be read of."""
    job = facts.job
    if not job.marks.strip or job.number != 0:
        return
    strips = laid_strips(job)
    if not strips:
        why = no_strip(job) or say("the bed is full; switch off a pocket in its favour")
        yield Check(
            "strip-not-printed",
            Weight.CAUTION,
            say("The control strip is not printed: {why}.", why=why),
            Station.BED,
            Fix(say("Leave it out"), _without),
        )
    elif not strips[0].on_board:
        yield Check(
            "strip-off-board",
            Weight.CAUTION,
            say(
                "The board is full, so the control strip is printed beside it: lay an off-cut of "
                "the pieces' material there, {place}.",
                place=_where(job, strips[0]),
            ),
            Station.BED,
            Fix(say("Leave it out"), _without),
        )
    elif job.reader is not Reader.FACE and not carrier_of(job).one_sheet:
        yield Check(
            "strip-reads-through",
            Weight.NOTE,
            say(
                "The control strip is printed to be read as the pieces are: lay an off-cut of "
                "their material under it, {place}.",
                place=_where(job, strips[0]),
            ),
            Station.BED,
        )


def _where(job: Faced, strip: LaidStrip) -> str:
    """Where a strip lies, measured as all of the job is."""
    (wide, high), jig = strip.size, job.jig
    x, y = from_bed(jig.datum, job.printer, strip.x, strip.y)
    far_x, far_y = from_bed(jig.datum, job.printer, strip.x + wide, strip.y + high)
    return say(
        "{size} from {x} and {y} off the datum", size=sizes(wide, high, digits=0),
        x=measure(min(x, far_x), 0), y=measure(min(y, far_y), 0),
    )  # fmt: skip


def _without(job: Faced) -> Faced:
    return job.replace(marks=job.marks.replace(strip=False))
