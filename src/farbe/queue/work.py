"""What is done with entries of the queue: added, prepared, printed."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from farbe.checks.stops import refuse_stopped
from farbe.estimate.cost import order_cost
from farbe.estimate.estimate import estimate
from farbe.estimate.steps import Busy, Step, steps
from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.layout.beside import beside
from farbe.layout.faced import Faced
from farbe.layout.rolls import sheets
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.press.client import PressLine
from farbe.queue.store import Entry, Queue, new_token
from farbe.render.raster import Report, unwatched

#: Share of the progress that writing the files takes; the press takes the rest.
WRITING = 0.6


def add_job(
    queue: Queue, job: Job, store: ArtStore, *, held: bool = False, report: Report = unwatched
) -> int:
    """Put a job at the end of the queue; its number, or that of its first sheet.

    The job is copied: later edits do not change what waits. Of a roll, each sheet is an entry.

    Parameters
    ----------
    queue : the shop's jobs
    job : the order as a whole
    store : where the files are that jobs name
    held : it waits until it is released
    report : told the share that is done, 0 to 1

    Raises
    ------
    Stopped
        If a check stops it.
    BadInput
        If it cannot be written there.
    """
    refuse_stopped(job, store, report)
    numbers = [_add(queue, sheet, store, held=held) for sheet in sheets(job)]
    return numbers[0]


def _add(queue: Queue, job: Job, store: ArtStore, *, held: bool) -> int:
    token = new_token()
    save_job(job, store, queue.job_path(token))
    found, listed = estimate(Faced(job), store), steps(Faced(job))
    return queue.add(
        job.name,
        token,
        held=held,
        pieces=found.pieces,
        seconds=sum(step.seconds for step in listed),
        ink_ml=sum(use.ml for use in found.inks),
        price=order_cost(found, listed, job.prices).price,
    )


def job_of(queue: Queue, entry: Entry, store: ArtStore) -> Job:
    """The job of an entry, to look at, change and print again."""
    return open_job(queue.job_path(entry.token), store)


def repeat(queue: Queue, number: int, store: ArtStore, *, held: bool = False) -> int:
    """Put a copy of an entry at the end; its number.

    Parameters
    ----------
    queue : the shop's jobs
    number : of the entry
    store : where the files are that jobs name
    held : it waits until it is released
    """
    return add_job(queue, job_of(queue, queue.entry(number), store), store, held=held)


def jobs_of(queue: Queue, number: int, store: ArtStore) -> tuple[Job, ...]:
    """The jobs that are printed with an entry, where none lies on another.

    Parameters
    ----------
    queue : the shop's jobs
    number : of the entry
    store : where the files are that jobs name

    Raises
    ------
    BadInput
        If they cannot share a board.
    """
    jobs = tuple(job_of(queue, entry, store) for entry in queue.members(number))
    return beside(jobs) if len(jobs) > 1 else jobs


def nest(queue: Queue, numbers: list[int], store: ArtStore) -> int:
    """Print entries together on one board; the entry that leads.

    Parameters
    ----------
    queue : the shop's jobs
    numbers : of the entries
    store : where the files are that jobs name

    Raises
    ------
    BadInput
        If they cannot share a board; the queue is as it was.
    """
    members = {m.number: m for number in numbers for m in queue.members(number)}
    beside(tuple(job_of(queue, members[number], store) for number in sorted(members)))
    return queue.nest(numbers)


def prepare(queue: Queue, number: int, store: ArtStore, report: Report = unwatched) -> Path:
    """Write the hand-off of an entry and its nest, unless it is written; its folder.

    Parameters
    ----------
    queue : the shop's jobs
    number : of the entry
    store : where the files are that jobs name
    report : told the share that is done, 0 to 1

    Raises
    ------
    Stopped
        If a check stops one of its jobs.
    BadInput
        If it cannot be written.
    """
    entry = queue.members(number)[0]
    folder = queue.files_path(entry.token)
    job, *others = jobs_of(queue, number, store)
    for one in (job, *others):
        refuse_stopped(one, store, lambda _: report(0.0))
    if not entry.prepared or not _is_readable(folder):
        hand_off(job, store, folder, others=tuple(others), report=report)
        queue.was_prepared(entry.number)
    return folder


def _is_readable(folder: Path) -> bool:
    """Whether a hand-off is there, and not one that an earlier Farbe wrote."""
    try:
        read_ticket(folder)
    except BadInput:
        return False
    return True


def print_entry(
    queue: Queue,
    number: int,
    press: PressLine,
    store: ArtStore,
    *,
    report: Report = unwatched,
    step_done: Callable[[int, Step], None] = lambda *_: None,
) -> None:
    """Print an entry, and its nest, on the press, step by step.

    One that was stopped goes on with the step that it was stopped in, if its board still lies
    on the press; else it begins anew.

    Parameters
    ----------
    queue : the shop's jobs
    number : of the entry
    press : a connection to the press
    store : where the files are that jobs name
    report : told the share that is done, 0 to 1
    step_done : told of each step that is done

    Raises
    ------
    BadInput
        For what went wrong; the entry says it too, and stays in the queue.
    Cancelled
        If ``report`` does; the entry has stopped.
    """
    entry = queue.begin(number)
    why = "Stopped by the operator; go on with it or print it again."
    try:
        folder = prepare(queue, number, store, lambda done: report(done * WRITING))
        todo = steps(*(Faced(job) for job in jobs_of(queue, number, store)))
        first = _first_step(entry, press, folder)
        for index, step in enumerate(todo):
            if index >= first:
                if step.confirmed and index > first:
                    raise BadInput(f"{step.text}: {step.detail}; then go on.")
                _do(step, press, lambda x, i=index: report(_share(i + x, len(todo))))  # type: ignore[misc]
                queue.stepped(number, index + 1)
            step_done(index, step)
        queue.finish(number)
    except BadInput as error:
        why = str(error)
        raise
    finally:
        # Nothing happens to an entry that is done.
        queue.stop(number, why)


def _first_step(entry: Entry, press: PressLine, folder: Path) -> int:
    """The step to go on with; the hand-off is sent where it does not lie on the press."""
    if entry.step and press.ask(do="status").get("token") == entry.token:
        return entry.step
    press.send(folder, token=entry.token)
    return 0


def _share(done: float, count: int) -> float:
    return WRITING + (1.0 - WRITING) * done / count


def await_warmth(press: PressLine, report: Report = unwatched) -> None:
    """Wait while the heads warm up; every other reason not to print is the press's to say."""
    while press.ask(do="status")["warming"]:
        report(0.0)
        time.sleep(0.1)


def _do(step: Step, press: PressLine, report: Report) -> None:
    """Ask the press for a step and follow it."""
    report(0.0)
    if step.run in ("place", "turn"):
        press.ask(do=step.run)
    elif step.height is not None:
        press.ask(do="height", mm=step.height)
    elif step.kind is Busy.WAITING:
        for answer in press.steps(do="dry", seconds=step.seconds):
            report(float(answer.get("done", 1.0)))
    elif step.run is not None:
        await_warmth(press, report)
        for answer in press.steps(do="print", run=step.run):
            report(float(answer.get("done", 1.0)))
