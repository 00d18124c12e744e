"""Checks of how the printer is set and how the job is run."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.register import extent
from farbe.model.printer import Mode, Throw
from farbe.plan.stations import Station


@rule("relief-over-height", "relief-over-gap")
def relief_within_gap(facts: Facts) -> Iterator[Check]:
    """The surface rises and falls no more than the head's gap."""
    piece, printer = facts.job.piece, facts.job.printer
    if piece.relief > piece.height:
        yield Check(
            "relief-over-height",
            Weight.STOP,
            f"The relief of {measure(piece.relief)} is deeper than the piece is high,"
            f" {measure(piece.height)}; measure both again.",
            Station.PIECE,
        )
    elif piece.relief > printer.gap:
        far = next((mode for mode in printer.modes if mode.throw is Throw.FAR), None)
        bridged = far is not None and piece.relief <= printer.far_gap
        yield Check(
            "relief-over-gap",
            Weight.CAUTION,
            f"The surface falls {measure(piece.relief)}, more than the head's gap of"
            f" {measure(printer.gap)}: print slowly, or fine detail blurs.",
            Station.PIECE,
            Fix(f"Mode {far.name}", _in_mode(far)) if far is not None and bridged else None,
        )


def _in_mode(mode: Mode) -> Callable[[Faced], Faced]:
    return lambda job: job.replace(printer=job.printer.in_mode(mode))


@rule("separate-runs-long")
def separate_runs_keep_register(facts: Facts) -> Iterator[Check]:
    """Work that is run in several trips is short enough to keep its register."""
    job = facts.job
    length = extent(job)[1]
    if job.running.separate and length > job.running.register_length:
        yield Check(
            "separate-runs-long",
            Weight.CAUTION,
            f"Separate runs over {measure(round(length))} lose register; over"
            f" {measure(job.running.register_length)} print in one run.",
            Station.RUN,
            Fix(
                "One run for all layers",
                lambda j: j.replace(running=j.running.replace(separate=False)),
            ),
        )
