"""Checks of how the printer is set and how the job is run."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from farbe.checks.check import Check, Facts, Fix, rule, with_part
from farbe.checks.weight import Weight
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.register import extent
from farbe.model.printer import Mode, Throw
from farbe.plan.receivers import no_files
from farbe.plan.stations import Station
from farbe.said import say


@rule("relief-over-height", "relief-over-gap")
def relief_within_gap(facts: Facts) -> Iterator[Check]:
    """The surface rises and falls no more than the head's gap."""
    piece, printer = facts.job.piece, facts.job.printer
    if piece.relief > piece.height:
        yield Check(
            "relief-over-height",
            Weight.STOP,
            say(
                "The relief of {relief} is deeper than the piece is high, {height}; measure "
                "both again.",
                relief=measure(piece.relief),
                height=measure(piece.height),
            ),
            Station.PIECE,
        )
    elif piece.relief > printer.gap:
        far = next((mode for mode in printer.modes if mode.throw is Throw.FAR), None)
        bridged = far is not None and piece.relief <= printer.far_gap
        yield Check(
            "relief-over-gap",
            Weight.CAUTION,
            say(
                "The surface falls {relief}, more than the head's gap of {gap}: print slowly, "
                "or fine detail blurs.",
                relief=measure(piece.relief),
                gap=measure(printer.gap),
            ),
            Station.PIECE,
            Fix(say("Mode {far}", far=far.name), partial(_in_mode, mode=far))
            if far is not None and bridged
            else None,
        )


def _in_mode(job: Faced, mode: Mode) -> Faced:
    return job.replace(printer=job.printer.in_mode(mode))


@rule("no-files")
def receiver_takes_files(facts: Facts) -> Iterator[Check]:
    """The receiver takes files of some format."""
    if refused := no_files(facts.job.receiver):
        yield Check("no-files", Weight.STOP, refused, Station.RUN)


@rule("separate-runs-long")
def separate_runs_keep_register(facts: Facts) -> Iterator[Check]:
    """Work that is run in several trips is short enough to keep its register."""
    job = facts.job
    length = extent(job)[1]
    if job.running.separate and length > job.running.register_length:
        yield Check(
            "separate-runs-long",
            Weight.CAUTION,
            say(
                "Separate runs over {length} lose register; over {register_length} print in "
                "one run.",
                length=measure(round(length)),
                register_length=measure(job.running.register_length),
            ),
            Station.RUN,
            Fix(
                say("One run for all layers"),
                partial(with_part, part="running", separate=False),
            ),
        )
