"""An estimate as plain values, for files and other programs."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from farbe.estimate.cost import Cost, order_cost
from farbe.estimate.estimate import Estimate, estimate
from farbe.estimate.steps import Busy, Step, seconds_of, steps
from farbe.layout.faced import Faced
from farbe.layout.register import register_of
from farbe.render.sources import Sources


def estimate_report(job: Faced, sources: Sources) -> dict[str, Any]:
    """What an order takes, as ``farbe estimate --json`` writes it; see docs/formats.md.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels, fonts and profile
    """
    found, listed = estimate(job, sources), steps(job)
    cost = order_cost(found, listed, job.prices)
    return {
        "format": "farbe-estimate",
        "version": 1,
        "job": job.name,
        "pieces": found.pieces,
        "ink_ml": {ink: round(ml, 4) for ink, ml in ml_by_ink(job, found).items()},
        "layers_ml": {
            f"{use.layer}: {use.channel}": round(use.ml, 4) for use in found.inks
        },
        "seconds": round(sum(step.seconds for step in listed), 1),
        "seconds_by": {kind.name.lower(): round(seconds_of(listed, kind), 1) for kind in Busy},
        "steps": [
            {"text": s.text, "detail": s.detail, "seconds": round(s.seconds, 1)} for s in listed
        ],
        "cost": {name: round(value, 4) for name, value in cost_parts(cost)},
    }  # fmt: skip


def cost_parts(cost: Cost) -> Iterator[tuple[str, float]]:
    """Names and amounts, in the job's currency, of what a cost is made of, then its sums.

    Parameters
    ----------
    cost : of an order
    """
    for name in ("ink", "material", "work", "machine", "waste", "total", "margin", "price"):
        yield name, getattr(cost, name)
    yield "price_each", cost.each


def ml_by_ink(job: Faced, found: Estimate) -> dict[str, float]:
    """ml of each of the printer's inks, all layers and hits.

    Parameters
    ----------
    job : any face of it
    found : its estimate

    Returns
    -------
    Millilitres by ink.
    """
    totals: dict[str, float] = {}
    for use in found.inks:
        totals[use.ink] = totals.get(use.ink, 0.0) + use.ml
    return totals


def report_csv(report: dict[str, Any]) -> str:
    """An estimate as lines of group, name, amount and unit.

    Parameters
    ----------
    report : of :func:`estimate_report`
    """
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(("group", "name", "amount", "unit"))
    table.writerow(("order", "pieces", report["pieces"], ""))
    for ink, ml in report["ink_ml"].items():
        table.writerow(("ink", ink, ml, "ml"))
    for step in report["steps"]:
        table.writerow(("step", step["text"], step["seconds"], "s"))
    for name, amount in report["cost"].items():
        table.writerow(("cost", name, amount, "currency"))
    return out.getvalue()


@dataclass(frozen=True)
class Way:
    """A way to run a job: its words, its run list, and mm within which its layers meet."""

    words: str
    steps: tuple[Step, ...]
    register: float


def compared(job: Faced) -> tuple[Way, ...]:
    """One run for all layers, and separate ones.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return tuple(
        Way(
            words,
            steps(job.replace(running=job.running.replace(separate=apart))),
            register_of(job, apart=apart),
        )
        for words, apart in (("one run", False), ("separate runs", True))
    )
