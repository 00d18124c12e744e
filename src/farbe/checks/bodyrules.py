"""Checks of round bodies."""

from __future__ import annotations

import math
from collections.abc import Iterator

from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.layout.body import on_rollers
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal, measure, number
from farbe.model.piece import RoundBody
from farbe.plan.stations import Station
from farbe.said import say

#: A taper, as half the apex angle in degrees, over which rollers need a wedge.
LEVEL = 1.0


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
            Fix(say("Turn it"), lambda j: j.replace(jig=j.jig.replace(turned=90))),
        )


def _one_row(job: Faced) -> Faced:
    return job.replace(jig=job.jig.replace(rows=1))


@rule("wrap", "height-of-body", "level-the-body")
def body_is_told_true(facts: Facts) -> Iterator[Check]:
    """How far the print goes around, and whether height and level fit the body."""
    body = facts.job.piece.shape
    if not isinstance(body, RoundBody):
        return
    if on_rollers(facts.job) and facts.job.piece.height < body.widest - 1e-6:
        yield Check(
            "height-of-body",
            Weight.STOP,
            say(
                "The body is {widest} thick and its height is {height}: the head would strike it.",
                widest=measure(body.widest),
                height=measure(facts.job.piece.height),
            ),
            Station.PIECE,
            Fix(
                say("Height {widest}", widest=measure(body.widest)),
                lambda j: j.replace(piece=j.piece.replace(height=body.widest)),
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
