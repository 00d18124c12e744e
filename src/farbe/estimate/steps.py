"""The run list: what happens at the printer, in time order."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from farbe.estimate.runs import Run, runs
from farbe.estimate.swaths import run_seconds
from farbe.layout.body import on_rollers
from farbe.layout.faced import Faced
from farbe.layout.guide import guide_ink, shared_code
from farbe.layout.pockets import used_pockets
from farbe.layout.rolls import film_length
from farbe.layout.sides import needs_own_guide
from farbe.model.jig import GuideStyle
from farbe.model.piece import Reader
from farbe.plan.sentence import number

#: Seconds that an operator needs for one piece, and for the head's height.
PLACE_SECONDS = 4.0
HEIGHT_SECONDS = 30.0
#: For turning one piece over, and for a whole board.
TURN_SECONDS, TURN_BOARD_SECONDS = 5.0, 60.0
#: For cutting a printed film off, turning and loading it.
TURN_FILM_SECONDS = 180.0
#: For sending the bed back to the datum between separate runs.
RETURN_SECONDS = 20.0
#: For putting a roll in.
LOAD_SECONDS = 90.0
#: For cutting one piece off a film.
CUT_SECONDS = 8.0
#: For each transfer: powder and melting, then pressing, cooling and peeling.
POWDER_SECONDS, PRESS_SECONDS = 90.0, 35.0


_GUIDES = {
    GuideStyle.OUTLINE: "outlines",
    GuideStyle.TICKS: "corner ticks",
    GuideStyle.KERB: "a kerb",
}


class Kind(StrEnum):
    """Who is busy in a step."""

    PRINTING = "the printer"
    HANDWORK = "the operator"
    WAITING = "drying"


@dataclass(frozen=True)
class Step:
    """One step.

    ``run`` is what the press is asked for: the name of a run of the ticket, ``place`` or
    ``turn``; ``height`` is what its head is set to. A step that is to be ``confirmed`` waits for
    the operator.
    """

    text: str
    detail: str
    seconds: float
    kind: Kind = Kind.HANDWORK
    run: str | None = None
    height: float | None = None
    confirmed: bool = False


def steps(job: Faced, *others: Faced) -> tuple[Step, ...]:
    """Guide, pieces, height, the runs with drying between, the other side, what comes after.

    Other jobs may share the bed.
    """
    count, found = len(used_pockets(job)), list(runs(job, *others))
    listed: list[Step] = []
    if job.roll is not None:
        listed = _film(job)
    elif on_rollers(job):
        listed = _on_rollers(job, count)
    before: Run | None = None
    for run in found:
        if run.what.endswith("-back") and (before is None or not before.what.endswith("-back")):
            listed += _turn(job)
        elif before is not None and before.what == run.what:
            listed += _between(job)
        listed.append(_printing(run))
        if run.what == "guide":
            listed += _placing((job, *others))
        elif run.what == "guide-back":
            listed.append(Step("Put in the pieces", f"{count}, turned over", 0.0, run="place"))
        before = run
    return (*listed, *(step for one in (job, *others) for step in _after(one)))


def _film(job: Faced) -> list[Step]:
    """Loading the film of a roll."""
    if job.roll is None:
        return []
    words = f"{number(job.roll.width)} mm wide, {number(film_length(job) / 1000)} m of it"
    return [Step("Load the film", words, LOAD_SECONDS)]


def _on_rollers(job: Faced, count: int) -> list[Step]:
    """Putting round bodies on the rollers."""
    words = f"{count} × {job.piece.name}, the print's middle up"
    height = Step(
        "Set the height", f"head over {number(job.piece.height)} mm, surface level",
        HEIGHT_SECONDS, height=job.piece.height,
    )  # fmt: skip
    return [Step("Put them on the rollers", words, count * PLACE_SECONDS, run="place"), height]


def _printing(run: Run) -> Step:
    job = run.job
    if run.is_guide:
        words = "Print the guide" if run.what == "guide" else "Print the other guide"
        detail = (
            f"{_GUIDES[job.guide.style]} in {guide_ink(job).name.lower()},"
            f" code {shared_code(run.jobs)}"
        )
    else:
        names = [
            layer.name.lower() + (f" × {layer.hits}" if layer.hits > 1 else "")
            for layer in run.layers
        ]
        back = run.what == "artwork-back"
        words = "Print the other side" if back else "Print the layers"
        detail = ", ".join(names)
        if job.running.separate and len(run.layers) == 1:
            words, detail = f"Print {detail}", "the other side" if back else "a run of its own"
    return Step(words, detail, run_seconds(run), Kind.PRINTING, run.name)


def _placing(jobs: tuple[Faced, ...]) -> list[Step]:
    counts = [(len(used_pockets(job)), job.piece.name) for job in jobs]
    words = ", ".join(f"{count} × {name}" for count, name in counts)
    seconds = sum(count for count, _ in counts) * PLACE_SECONDS
    placing = Step("Put in the pieces", words, seconds, run="place")
    vacuum = ", bed vacuum on" if jobs[0].running.vacuum else ""
    high = max(job.piece.height for job in jobs)
    words = f"head over {number(high)} mm{vacuum}"
    return [placing, Step("Set the height", words, HEIGHT_SECONDS, height=high)]


def _between(job: Faced) -> list[Step]:
    """Between two separate runs."""
    dry = [Step("Let it dry", "nobody touches the bed", job.running.dry, Kind.WAITING)]
    back = Step("Return to the datum", "the bed goes back to its start", RETURN_SECONDS,
                Kind.PRINTING)  # fmt: skip
    return [*(dry if job.running.dry else []), back]


def _turn(job: Faced) -> list[Step]:
    turning = job.turning
    if turning is None:
        return []
    count = len(used_pockets(job))
    if job.roll is not None:
        words = "cut it off, turn it over, load it with its last end first"
        return [Step("Turn the film over", words, TURN_FILM_SECONDS, run="turn", confirmed=True)]
    what = "the board" if turning.board else "each piece"
    seconds = TURN_BOARD_SECONDS if turning.board else count * TURN_SECONDS
    waits = " and laid beside the bed" if needs_own_guide(job) else ""
    return [
        Step("Turn the pieces over", f"{what}, {turning.turn.value}{waits}", seconds, run="turn")
    ]


def _after(job: Faced) -> list[Step]:
    count = len(used_pockets(job))
    out = Step("Take out the pieces", "when the ink is dry", count * PLACE_SECONDS / 2)
    if job.roll is not None:
        out = Step("Cut the film", f"between {count} pieces", count * CUT_SECONDS)
        if job.reader is Reader.TRANSFER:
            # Powder goes on the whole length, before it is cut.
            return [*_pressed(job, count)[:1], out, *_pressed(job, count)[1:]]
    if job.reader is not Reader.TRANSFER:
        return [out]
    return [out, *_pressed(job, count)]


def _pressed(job: Faced, count: int) -> list[Step]:
    """Powder, then a press for each kind of garment."""
    powder = Step("Powder and melt", f"{count} transfers", count * POWDER_SECONDS)
    if not job.garments:
        on = job.piece.surface.name or "the garment"
        words = f"on {on}, let cool first"
        return [powder, Step("Press and peel", words, count * PRESS_SECONDS)]
    return [
        powder,
        *(
            Step("Press and peel", f"{g.count} × {' '.join((g.name, g.size)).strip()}",
                 g.count * PRESS_SECONDS)
            for g in job.garments
        ),
    ]  # fmt: skip


def seconds_of(listed: tuple[Step, ...], kind: Kind) -> float:
    """Seconds of all steps in which someone is busy."""
    return sum(step.seconds for step in listed if step.kind is kind)
