"""The run list: what happens at the printer, in time order."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from farbe.estimate.runs import Run, runs
from farbe.estimate.swaths import run_seconds
from farbe.layout.carrier import Handwork, carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import measure, number
from farbe.layout.guide import guide_ink, shared_code
from farbe.layout.laid import laid
from farbe.model.jig import GuideStyle
from farbe.model.piece import Reader
from farbe.said import inside, say, spoken

_GUIDES = {
    GuideStyle.OUTLINE: say("outlines"),
    GuideStyle.TICKS: say("corner ticks"),
    GuideStyle.KERB: say("a kerb"),
}


class Busy(StrEnum):
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
    kind: Busy = Busy.HANDWORK
    run: str | None = None
    height: float | None = None
    confirmed: bool = False


# Asked for by many at each edit: the job line, the list at the station Run, the estimate.
@lru_cache(maxsize=32)
def steps(job: Faced, *others: Faced) -> tuple[Step, ...]:
    """Guide, pieces, height, the runs with drying between, the other side, what comes after.

    Other jobs may share the bed.

    Parameters
    ----------
    job : as one of its faces has it
    *others : jobs that share its bed
    """
    count, found = len(laid(job)), list(runs(job, *others))
    listed: list[Step] = []
    listed += _by_hand(carrier_of(job).loading(job, count))
    before: Run | None = None
    for run in found:
        if run.what.endswith("-back") and (before is None or not before.what.endswith("-back")):
            listed += _by_hand(carrier_of(job).turning_over(job, count))
        elif before is not None and before.what == run.what:
            listed += _between(job)
        listed.append(_printing(run))
        if run.what == "guide":
            listed += _placing((job, *others))
        elif run.what == "guide-back":
            listed.append(
                Step(
                    say("Put in the pieces"),
                    say("{count}, turned over", count=count),
                    0.0,
                    run="place",
                )
            )
        before = run
    return (*listed, *(step for one in (job, *others) for step in _after(one)))


def _by_hand(work: tuple[Handwork, ...]) -> list[Step]:
    return [
        Step(one.text, one.detail, one.seconds, run=one.run, height=one.height,
             confirmed=one.confirmed)
        for one in work
    ]  # fmt: skip


def _printing(run: Run) -> Step:
    job = run.job
    if run.is_guide:
        words = say("Print the guide") if run.what == "guide" else say("Print the other guide")
        detail = say(
            "{guides} in {ink}, code {shared_code}",
            guides=_GUIDES[job.guide.style],
            ink=inside(guide_ink(job).words),
            shared_code=shared_code(run.jobs),
        )
    else:
        names = [
            inside(layer.words) + (f" × {layer.hits}" if layer.hits > 1 else "")
            for layer in run.layers
        ]
        back = run.what == "artwork-back"
        words = say("Print the other side") if back else say("Print the layers")
        detail = ", ".join(names)
        if job.running.separate and len(run.layers) == 1:
            words, detail = (
                say("Print {detail}", detail=detail),
                say("the other side") if back else say("a run of its own"),
            )
    return Step(words, detail, run_seconds(run), Busy.PRINTING, run.name)


def _placing(jobs: tuple[Faced, ...]) -> list[Step]:
    counts = [(len(laid(job)), spoken(job.piece.name)) for job in jobs]
    words = ", ".join(f"{count} × {name}" for count, name in counts)
    times = jobs[0].running.times
    seconds = sum(count for count, _ in counts) * times.place
    placing = Step(say("Put in the pieces"), words, seconds, run="place")
    vacuum = say(", bed vacuum on") if jobs[0].running.vacuum else ""
    high = max(job.piece.height for job in jobs)
    words = say("head over {high}{vacuum}", high=measure(high), vacuum=vacuum)
    return [placing, Step(say("Set the height"), words, times.height, height=high)]


def _between(job: Faced) -> list[Step]:
    """Between two separate runs."""
    dry = [Step(say("Let it dry"), say("nobody touches the bed"), job.running.dry, Busy.WAITING)]
    back = Step(
        say("Return to the datum"),
        say("the bed goes back to its start"),
        job.running.times.back,
        Busy.PRINTING,
    )
    return [*(dry if job.running.dry else []), back]


def _after(job: Faced) -> list[Step]:
    count = len(laid(job))
    out = _by_hand((carrier_of(job).taking_off(job, count),))
    if job.reader is not Reader.TRANSFER:
        return out
    powder, *pressed = _pressed(job, count)
    # Powder goes on the whole length, before film is cut.
    first = carrier_of(job).one_sheet
    return [powder, *out, *pressed] if first else [*out, powder, *pressed]


def _pressed(job: Faced, count: int) -> list[Step]:
    """Powder and heat for the film's length, then a press for each kind of garment."""
    times, metres = job.running.times, carrier_of(job).base(job).height / 1000.0
    words = say("{count} transfers on {metres} m", count=count, metres=number(metres))
    powder = Step(say("Powder and melt"), words, times.powder + metres * times.powder_metre)
    if not job.garments:
        on = spoken(job.piece.surface.name) or say("the garment")
        words = say("on {on}, let cool first", on=on)
        return [powder, Step(say("Press and peel"), words, _cycles(job, count) * times.press)]
    return [
        powder,
        *(
            Step(say("Press and peel"), f"{g.count} × {' '.join((spoken(g.name), g.size)).strip()}",
                 _cycles(job, g.count) * times.press)
            for g in job.garments
        ),
    ]  # fmt: skip


def _cycles(job: Faced, count: int) -> int:
    """How often the press closes for so many transfers."""
    return -(-count // job.running.times.at_once)


def seconds_of(listed: tuple[Step, ...], kind: Busy) -> float:
    """Seconds of all steps in which someone is busy.

    Parameters
    ----------
    listed : a run list
    kind : who is busy

    Returns
    -------
    Seconds.
    """
    return sum(step.seconds for step in listed if step.kind is kind)
