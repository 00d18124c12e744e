"""The run list: what happens at the printer, in time order."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.estimate.estimate import guide_passes, run_seconds
from farbe.layout.guide import guide_ink, jig_code
from farbe.layout.pockets import used_pockets
from farbe.layout.sides import needs_own_guide, turned_over
from farbe.model.jig import GuideStyle
from farbe.model.job import Job
from farbe.plan.order import printing_layers
from farbe.plan.sentence import number

#: Seconds that an operator needs for one piece, and for the head's height.
PLACE_SECONDS = 4.0
HEIGHT_SECONDS = 30.0
#: For turning one piece over, and for a whole board.
TURN_SECONDS, TURN_BOARD_SECONDS = 5.0, 60.0


_GUIDES = {
    GuideStyle.OUTLINE: "outlines",
    GuideStyle.TICKS: "corner ticks",
    GuideStyle.KERB: "a kerb",
}


@dataclass(frozen=True)
class Step:
    """One step; ``run`` is what the press is asked for: a run of the ticket, place or turn."""

    text: str
    detail: str
    seconds: float
    run: str | None = None


def _guide_step(job: Job, run: str) -> Step:
    seconds = run_seconds(job) * guide_passes(job) / job.printer.passes
    hits = job.guide.kerb_hits if job.guide.style is GuideStyle.KERB else 1
    return Step(
        "Print the guide" if run == "guide" else "Print the other guide",
        f"{_GUIDES[job.guide.style]} in {guide_ink(job).name.lower()}, code {jig_code(job)}",
        seconds * hits,
        run,
    )


def _layers_step(job: Job, run: str) -> Step:
    layers = printing_layers(job.stack)
    hits = max((layer.hits for layer in layers), default=0)
    names = ", ".join(
        layer.name.lower() + (f" × {layer.hits}" if layer.hits > 1 else "") for layer in layers
    )
    words = "Print the layers" if run == "artwork" else "Print the other side"
    return Step(words, names, run_seconds(job) * hits, run)


def _back_steps(job: Job) -> tuple[Step, ...]:
    """Turning over and the other side, as far as there is one."""
    if job.back is None:
        return ()
    turning, count = job.back.turning, len(used_pockets(job))
    what = "the board" if turning.board else "each piece"
    seconds = TURN_BOARD_SECONDS if turning.board else count * TURN_SECONDS
    other = turned_over(job)
    own = needs_own_guide(job)
    turn = Step("Turn the pieces over", f"{what}, {turning.turn.value}", seconds, "turn")
    guide = (_guide_step(other, "guide-back"),) if own else ()
    placed = (Step("Put in the pieces", f"{count}, turned over", 0.0, "place"),) if own else ()
    return (turn, *guide, *placed, _layers_step(other, "artwork-back"))


def steps(job: Job) -> tuple[Step, ...]:
    """Guide, pieces, height, then the layers in printing order, all in one run a side."""
    count = len(used_pockets(job))
    return (
        _guide_step(job, "guide"),
        Step("Put in the pieces", f"{count} × {job.piece.name}", count * PLACE_SECONDS, "place"),
        Step("Set the height", f"head over {number(job.piece.height)} mm", HEIGHT_SECONDS),
        _layers_step(job, "artwork"),
        *_back_steps(job),
        Step("Take out the pieces", "when the ink is dry", count * PLACE_SECONDS / 2),
    )
