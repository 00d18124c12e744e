"""Checks of what is known of the printer."""

from __future__ import annotations

from collections.abc import Iterator

from farbe.checks.check import Check, Facts, rule
from farbe.checks.weight import Weight
from farbe.layout.figures import decimal
from farbe.model.condition import Origin
from farbe.plan.stations import Station
from farbe.said import inside, say, spoken


@rule("condition-missing", "condition-estimated")
def printer_was_measured(facts: Facts) -> Iterator[Check]:
    """The printer was measured in this mode, with these inks, on this kind of surface."""
    job, condition = facts.job, facts.job.condition
    printer, surface = spoken(job.printer.name), inside(job.piece.surface.material.words)
    mode = job.printer.mode
    set_to = say("settings of its own") if mode is None else spoken(mode.name)
    if condition is None:
        yield Check(
            "condition-missing",
            Weight.CAUTION,
            say(
                "Nobody has measured {printer} on a surface that is {surface} (mode: {mode}): "
                "colours, white and limits are guesses. Print a chart and measure it.",
                printer=printer,
                surface=surface,
                mode=set_to,
            ),
            Station.RUN,
        )
    elif condition.origin is Origin.ESTIMATED:
        yield Check(
            "condition-estimated",
            Weight.CAUTION,
            say(
                "What is known of {printer} on a surface that is {surface} (mode: {mode}) was "
                "estimated, not measured. Print a chart and measure it.",
                printer=printer,
                surface=surface,
                mode=set_to,
            ),
            Station.RUN,
        )


@rule("condition-drifted")
def printer_has_not_drifted(facts: Facts) -> Iterator[Check]:
    """The last control strip was as the condition says."""
    condition = facts.job.condition
    if condition is None or not condition.drifts:
        return
    last = condition.drifts[-1]
    if last.mean > condition.most_drift:
        yield Check(
            "condition-drifted",
            Weight.CAUTION,
            say(
                "{printer} has drifted by ΔE00 {far} since it was measured ({most} is allowed). "
                "Measure it anew, or mend it.",
                printer=spoken(facts.job.printer.name),
                far=decimal(last.mean, 1),
                most=decimal(condition.most_drift, 1),
            ),
            Station.RUN,
            figure=last.mean,
            unit="ΔE00",
        )
