"""Checks of round bodies."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial
from itertools import pairwise

from farbe.checks.check import Check, Facts, Fix, rule, with_part
from farbe.checks.weight import Weight
from farbe.layout.body import on_rollers
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal, measure, number
from farbe.layout.rollers import bodies_on_bed
from farbe.model.piece import RoundBody
from farbe.plan.stations import Station
from farbe.said import say

#: A taper, as half the apex angle in degrees, over which rollers need a wedge.
LEVEL = 1.0
#: Bodies that turn beside each other, in mm.
APART = 2.0


@rule("rollers-hold-a-row", "along-the-rollers")
def bodies_lie_side_by_side(facts: Facts) -> Iterator[Check]:
    """Round bodies lie in one row along the rollers."""
    job = facts.job
    if not on_rollers(job):
        return
    if job.jig.rows > 1:
        yield Check(
            "rollers-hold-a-row",
            Weight.STOP,
            say("Bodies on rollers lie side by side in one row."),
            Station.BED,
            Fix(say("One row"), _one_row),
        )
    if job.jig.turned not in (90, 270):
        yield Check(
            "along-the-rollers",
            Weight.STOP,
            say("The rollers turn a body along the bed: its print lies a quarter turned."),
            Station.BED,
            Fix(say("Turn it"), partial(with_part, part="jig", turned=90)),
        )


def _one_row(job: Faced) -> Faced:
    return job.replace(jig=job.jig.replace(rows=1))


@rule("bodies-meet", "bodies-beyond-rollers", "length-of-body", "print-off-body")
def bodies_have_room(facts: Facts) -> Iterator[Check]:
    """The print lies on the body, and bodies lie clear of each other and of the rollers' ends."""
    job = facts.job
    body, lying = job.piece.shape, bodies_on_bed(job)
    if not isinstance(body, RoundBody):
        return
    if body.rest < -1e-6:
        zone = body.zone + body.rest
        yield Check(
            "print-off-body",
            Weight.STOP,
            say(
                "The print ends {by} beyond the body, which is {length} long; it begins {base} "
                "from the base. Print less, or measure again.",
                by=measure(-body.rest), length=measure(body.whole), base=measure(body.base),
            ),
            Station.PIECE,
            Fix(say("Print {zone}", zone=measure(zone)), partial(_with_zone, zone=zone))
            if zone > 0
            else None,
        )  # fmt: skip
    if body.length is None and len(lying) > 1:
        yield Check(
            "length-of-body",
            Weight.NOTE,
            say(
                "How long a body is was not said: neighbours on the rollers may strike each other."
            ),
            Station.PIECE,
        )
    gaps = [(after[1] - one[2], one[0], after[0]) for one, after in pairwise(lying)]
    if gaps and min(gaps)[0] < APART - 1e-6:
        gap, one, other = min(gaps)
        yield Check(
            "bodies-meet",
            Weight.STOP if gap < -1e-6 else Weight.CAUTION,
            say(
                "Bodies {one} and {other} lie into each other by {gap} on the rollers; leave "
                "more room.",
                one=one, other=other, gap=measure(-gap),
            )
            if gap < -1e-6
            else say(
                "Bodies {one} and {other} are {gap} apart on the rollers and may rub; leave "
                "{apart}.",
                one=one, other=other, gap=measure(gap), apart=measure(APART),
            ),
            Station.BED,
            None
            if job.jig.places
            else Fix(say("Leave {gap}", gap=measure(APART)), _apart),
        )  # fmt: skip
    base = carrier_of(job).base(job)
    off = max((max(base.x - left, right - base.x - base.width) for _, left, right in lying),
              default=0.0)  # fmt: skip
    if off > 1e-6:
        yield Check(
            "bodies-beyond-rollers",
            Weight.CAUTION,
            say("Bodies reach {off} beyond the rollers; lay fewer of them, or nearer.",
                off=measure(off)),
            Station.BED,
        )  # fmt: skip


def _with_zone(job: Faced, zone: float) -> Faced:
    return job.replace(piece=job.piece.replace(shape=job.piece.shape.replace(zone=zone)))


def _apart(job: Faced) -> Faced:
    return job.replace(jig=job.jig.replace(gap_x=APART))


@rule("wrap", "height-of-body", "level-the-body")
def body_is_told_true(facts: Facts) -> Iterator[Check]:
    """How far the print goes around, and whether height and level fit the body."""
    body = facts.job.piece.shape
    if not isinstance(body, RoundBody):
        return
    if on_rollers(facts.job) and facts.job.piece.height < body.head_height - 1e-6:
        yield Check(
            "height-of-body",
            Weight.STOP,
            say(
                "The body stands {widest} high on the rollers and its height is {height}: the "
                "head would strike it.",
                widest=measure(body.head_height),
                height=measure(facts.job.piece.height),
            ),
            Station.PIECE,
            Fix(
                say("Height {widest}", widest=measure(body.head_height)),
                partial(with_part, part="piece", height=body.head_height),
            ),
        )
    taper = math.degrees(math.asin(abs(body.slope)))
    if on_rollers(facts.job) and taper > LEVEL:
        yield Check(
            "level-the-body",
            Weight.NOTE,
            say(
                "The body tapers by {taper}°: raise its thin end until its upper line is level.",
                taper=decimal(taper, 1),
            ),
            Station.BED,
        )
    turns = math.degrees(body.wrap_angle)
    over = say("; the ends overlap") if body.seam < 0 else ""
    yield Check(
        "wrap",
        Weight.NOTE,
        say(
            "The print goes {turns}° around, {wrap} of {circumference}{over}.",
            turns=f"{turns:.0f}",
            wrap=number(body.wrap),
            circumference=measure(body.circumference),
            over=over,
        ),
        Station.PIECE,
    )
