"""The run list: what happens at the printer, in time order."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.estimate.estimate import run_seconds
from farbe.layout.guide import guide_ink, jig_code
from farbe.layout.pockets import used_pockets
from farbe.model.jig import GuideStyle
from farbe.model.job import Job
from farbe.plan.order import printing_layers
from farbe.plan.sentence import number

#: Seconds that an operator needs for one piece, and for the head's height.
PLACE_SECONDS = 4.0
HEIGHT_SECONDS = 30.0
#: Drafts take so much of the passes of a print.
GUIDE_PASSES = 2


_GUIDES = {
    GuideStyle.OUTLINE: "outlines",
    GuideStyle.TICKS: "corner ticks",
    GuideStyle.KERB: "a kerb",
}


@dataclass(frozen=True)
class Step:
    """One step; ``run`` is what the press is asked for, where it is a print."""

    text: str
    detail: str
    seconds: float
    run: str | None = None


def steps(job: Job) -> tuple[Step, ...]:
    """Guide, pieces, height, then the layers in printing order, all in one run."""
    count = len(used_pockets(job))
    guide = run_seconds(job) * GUIDE_PASSES / job.printer.passes
    layers = printing_layers(job.stack)
    hits = max((layer.hits for layer in layers), default=0)
    names = ", ".join(
        layer.name.lower() + (f" × {layer.hits}" if layer.hits > 1 else "") for layer in layers
    )
    return (
        Step(
            "Print the guide",
            f"{_GUIDES[job.guide.style]} in {guide_ink(job).name.lower()}, code {jig_code(job)}",
            guide,
            "guide",
        ),
        Step("Put in the pieces", f"{count} × {job.piece.name}", count * PLACE_SECONDS, "place"),
        Step("Set the height", f"head over {number(job.piece.height)} mm", HEIGHT_SECONDS),
        Step("Print the layers", names, run_seconds(job) * hits, "artwork"),
        Step("Take out the pieces", "when the ink is dry", count * PLACE_SECONDS / 2),
    )
