"""An entry driven over a test press, step by step; nothing that is printed is printed again."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from farbe.estimate.steps import Busy, Step
from farbe.model.base import BadInput
from farbe.press.client import PressLine
from farbe.queue.store import Entry, Queue
from farbe.render.raster import Left, Report, unwatched
from farbe.said import inside, say

#: Seconds between two looks at a press that is busy, and at whether an entry was cancelled.
LOOK, CANCELLED_LOOK = 0.05, 0.25
#: What is done by hand, which the press remembers in its order.
BY_HAND = ("place", "turn")


class Waits(BadInput):
    """The operator is to do something first; ``step`` is the one that waits for it."""

    def __init__(self, step: Step, index: int) -> None:
        super().__init__(say("{step}: {detail}; then go on.", step=step.text, detail=step.detail))
        self.step = index


@dataclass(frozen=True)
class Loaded:
    """What the press knows of an entry: its runs that are printed, and what was done by hand."""

    complete: frozenset[str]
    by_hand: tuple[str, ...]


def await_idle(press: PressLine, report: Report = unwatched) -> dict[str, Any]:
    """Wait until nothing prints; the press's state.

    Parameters
    ----------
    press : a connection to it
    report : told again and again that nothing is done yet
    """
    while (state := press.ask(do="status"))["running"]:
        report(0.0)
        time.sleep(LOOK)
    return state


def await_warmth(press: PressLine, report: Report = unwatched) -> None:
    """Wait while the heads warm up; every other reason not to print is the press's to say.

    Parameters
    ----------
    press : on the line
    report : told what is waited for
    """
    while press.ask(do="status")["warming"]:
        report(0.0)
        time.sleep(0.1)


def load(
    press: PressLine,
    entry: Entry,
    folder: Path,
    *,
    on_film: tuple[Entry, Path] | None = None,
    report: Report = unwatched,
) -> Loaded:
    """Put an entry's hand-off on the press, unless it lies there; what was printed of it.

    Parameters
    ----------
    press : a connection to it
    entry : that is printed
    folder : of its hand-off
    on_film : an entry, and its hand-off, whose film this one is printed on
    report : told while it waits for what prints

    Raises
    ------
    BadInput
        If the press does not take it.
    """
    state = await_idle(press, report)
    if state["token"] != entry.press_token:
        if on_film is not None:
            before, its_folder = on_film
            press.send(its_folder, token=before.press_token)
        press.send(folder, token=entry.press_token, keep_film=on_film is not None)
        state = press.ask(do="status")
    return Loaded(frozenset(state["complete"]), tuple(state["by_hand"]))


def print_steps(
    queue: Queue,
    entry: Entry,
    todo: tuple[Step, ...],
    press: PressLine,
    loaded: Loaded,
    *,
    report: Report = unwatched,
    step_done: Callable[[int, Step], None] = lambda *_: None,
) -> None:
    """Do the steps of an entry that are not done.

    What the press knows to be printed is done, whatever the queue says; what the queue says is
    done and the press does not know is not printed again.

    Parameters
    ----------
    queue : that it is an entry of
    entry : as it was claimed
    todo : its run list
    press : on which it lies
    loaded : what the press knew of it
    report : told the share that is done, 0 to 1
    step_done : told of each step that is done

    Raises
    ------
    Waits
        If the operator is to do something first.
    BadInput
        For what went wrong.
    """
    by_hand = list(loaded.by_hand)
    watched = _Watched(queue, entry.number, report, len(todo))
    for index, step in enumerate(todo):
        if step.run in BY_HAND:
            done = bool(by_hand) and by_hand.pop(0) == step.run
        else:
            done = step.run in loaded.complete if step.run else index < entry.step
        if not done and index < entry.step:
            raise BadInput(
                say(
                    "The press has not what was printed of {entry} up to the step “{step}”; print "
                    "it from the start, on fresh pieces.",
                    entry=entry.name,
                    step=inside(step.text),
                )
            )
        if not done:
            if step.confirmed and entry.awaits != index:
                raise Waits(step, index)
            _do(step, press, entry.press_token, watched.of(index))
        if index >= entry.step:
            queue.stepped(entry.number, index + 1)
        step_done(index, step)


class _Watched:
    """Progress that ends when the entry is cancelled, by whomever."""

    def __init__(self, queue: Queue, number: int, report: Report, steps: int) -> None:
        self._queue, self._number, self._report, self._steps = queue, number, report, steps
        self._looked = time.monotonic()

    def of(self, index: int) -> Report:
        """Progress of a step."""

        def report(share: float) -> None:
            self._report((index + share) / self._steps)
            if time.monotonic() - self._looked > CANCELLED_LOOK:
                self._looked = time.monotonic()
                if self._queue.is_cancelled(self._number):
                    raise BadInput(say("The job was cancelled while it printed."))

        return report


def _do(step: Step, press: PressLine, token: str, report: Report) -> None:
    """Ask the press for a step and follow it; who no longer follows it stops it."""
    report(0.0)
    if step.run in BY_HAND:
        press.ask(do=step.run)
    elif step.height is not None:
        press.ask(do="height", mm=step.height)
    elif step.kind is Busy.WAITING:
        _follow(press, token, report, do="dry", seconds=step.seconds)
    elif step.run is not None:
        await_warmth(press, report)
        _follow(press, token, report, do="print", run=step.run)


def _follow(press: PressLine, token: str, report: Report, **request: Any) -> None:
    ended = False
    answers = press.steps(**request)
    try:
        for answer in answers:
            report(float(answer.get("done", 1.0)))
        ended = True
    except Left:
        # The run goes on without being watched; who goes on with the entry finds it printed.
        ended = True
        answers.close()
        raise
    finally:
        if not ended:
            # Nobody watches it any more: it does not print on by itself.
            answers.close()
            press.ask(do="stop", token=token)
