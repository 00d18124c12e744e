"""What is done with entries of the queue: added, prepared, printed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from farbe.atomic import CannotWrite
from farbe.checks.stops import refuse_stopped
from farbe.estimate.cost import order_cost
from farbe.estimate.estimate import estimate
from farbe.estimate.steps import Step, steps
from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.layout.again import only_again
from farbe.layout.beside import beside
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.layout.rolls import sheets
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.receiver import Drive
from farbe.press.client import PressLine
from farbe.queue.base import new_token
from farbe.queue.onpress import Waits, load, print_steps
from farbe.queue.states import State
from farbe.queue.store import ENDED, Added, Claim, Entry, Queue
from farbe.queue.tofolder import hand_to_folder, take_back
from farbe.render.onepass import one_pass
from farbe.render.raster import Left, Report, unwatched
from farbe.said import say

#: Share of the progress that writing the files takes; the press takes the rest.
WRITING = 0.6


def add_job(
    queue: Queue,
    job: Job,
    store: ArtStore,
    *,
    held: bool = False,
    token: str = "",
    report: Report = unwatched,
) -> int:
    """Put a job at the end of the queue; its number, or that of its first sheet.

    The job is copied: later edits do not change what waits. Of a roll, each sheet is an entry.

    Parameters
    ----------
    queue : the shop's jobs
    job : the order as a whole
    store : where the files are that jobs name
    held : it waits until it is released
    token : what a job of one sheet is to be known by; of no other entry
    report : told the share that is done, 0 to 1

    Raises
    ------
    Stopped
        If a check stops it.
    BadInput
        If it cannot be written there.
    """
    refuse_stopped(job, store, report)
    made = [_added(queue, sheet, store, token=token) for sheet in sheets(job)]
    return queue.add_all(made, held=held)[0]


def _added(queue: Queue, job: Job, store: ArtStore, *, again_of: int = 0, token: str = "") -> Added:
    """A job's file, put where the queue keeps them, and what is known of it."""
    token = token or new_token()
    save_job(job, store, queue.job_path(token))
    found, listed = estimate(Faced(job), store), steps(Faced(job))
    return Added(
        job.name,
        token,
        pieces=found.pieces,
        seconds=sum(step.seconds for step in listed),
        ink_ml=sum(use.ml for use in found.inks),
        price=order_cost(found, listed, job.prices).price,
        lane=job.printer.name,
        drive=job.receiver.drive,
        again_of=again_of,
        pairs=Faced(job).roll is not None and Faced(job).two_sided,
    )


def job_of(queue: Queue, entry: Entry, store: ArtStore) -> Job:
    """The job of an entry, to look at, change and print again.

    Parameters
    ----------
    queue : that has it
    entry : any of it
    store : into which its files go
    """
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


def print_again(
    queue: Queue,
    number: int,
    store: ArtStore,
    pieces: tuple[int, ...] = (),
    *,
    second_only: bool = False,
    held: bool = False,
) -> int:
    """Put pieces of an entry that failed at the end, to be printed once more; its number.

    On a board they lie in their pockets with what they had there; on film they are laid anew.

    Parameters
    ----------
    queue : the shop's jobs
    number : of the entry
    store : where the files are that jobs name
    pieces : numbers as guide and ticket say them; none are those that the entry says failed
    second_only : their side B alone, on the film with their side A
    held : it waits until it is released

    Raises
    ------
    BadInput
        If none failed, or one is not there.
    """
    entry = queue.entry(number)
    job = job_of(queue, entry, store)
    shown = {piece.shown: piece.number for piece in laid(Faced(_as_nested(queue, entry, store)))}
    wanted = pieces or entry.failed or (tuple(shown) if entry.state is State.FAILED else ())
    if not wanted:
        raise BadInput(
            say("Say which pieces of {entry} are to be printed again.", entry=entry.name)
        )
    strange = next((one for one in wanted if one not in shown), None)
    if strange is not None:
        raise BadInput(say("{entry} has no piece {strange}.", entry=entry.name, strange=strange))
    made = only_again(job, tuple(shown[one] for one in wanted), second_only=second_only)
    of = entry.number
    return queue.add_all([_added(queue, made, store, again_of=of)], held=held)[0]


def _as_nested(queue: Queue, entry: Entry, store: ArtStore) -> Job:
    """The job of an entry as it lay on the board that it shared."""
    members = queue.members(entry.number)
    if len(members) < 2:
        return job_of(queue, entry, store)
    at = [member.number for member in members].index(entry.number)
    return jobs_of(queue, entry.number, store)[at]


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
    with one_pass():
        for one in (job, *others):
            refuse_stopped(one, store, lambda _: report(0.0))
        if not entry.prepared or not _is_readable(folder):
            hand_off(job, store, folder, others=tuple(others), report=report)
            queue.was_prepared(entry.number)
    return folder


#: Writes the hand-off of an entry, as :func:`prepare` does.
Write = Callable[[Queue, int, ArtStore, Report], Path]


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
    """Print an entry, and its nest, on a press, whatever its receiver is driven by.

    Parameters, errors and what becomes of the entry are those of :func:`carry_out`.

    Parameters
    ----------
    queue : that has it
    number : of the entry
    press : that prints it
    store : of its files
    report : is told how far it is
    step_done : is told each step that is done
    """
    _worked(queue, number, store, lambda claim: _on_press(
        queue, claim, press, store, report, step_done, prepare
    ))  # fmt: skip


def carry_out(
    queue: Queue,
    number: int,
    line_to: Callable[[str], PressLine],
    store: ArtStore,
    *,
    report: Report = unwatched,
    step_done: Callable[[int, Step], None] = lambda *_: None,
    write: Write | None = None,
) -> None:
    """Print an entry, and its nest, or hand it over, as its receiver is driven.

    One that was stopped goes on where it was; nothing that is printed is printed again.

    Parameters
    ----------
    queue : the shop's jobs
    number : of the entry
    line_to : a connection to the press of a printer, by its name; it is closed afterwards
    store : where the files are that jobs name
    report : told the share that is done, 0 to 1
    step_done : told of each step that is done
    write : writes hand-offs; None is :func:`prepare`

    Raises
    ------
    BadInput
        For what went wrong; the entry says it too, and stays in the queue.
    Cancelled
        If ``report`` does; the entry has stopped.
    """

    def work(claim: Claim) -> None:
        if claim.entry.drive is Drive.FOLDER:
            folder = (write or prepare)(queue, number, store, lambda done: report(done * WRITING))
            receiver = job_of(queue, claim.entry, store).receiver
            hand_to_folder(queue, claim.entry, folder, receiver,
                           lambda done: report(WRITING + (1 - WRITING) * done))  # fmt: skip
            return
        with line_to(claim.entry.lane) as press:
            _on_press(queue, claim, press, store, report, step_done, write or prepare)

    _worked(queue, number, store, work)


def _worked(queue: Queue, number: int, store: ArtStore, work: Callable[[Claim], None]) -> None:
    """Claim an entry, work on it, and have the queue know how that ended."""
    with queue.begin(number) as claim:
        why, awaits = say("Stopped by the operator; go on with it or print it from the start."), -1
        try:
            work(claim)
        except Left:
            why = ENDED
            raise
        except Waits as wait:
            why, awaits = str(wait), wait.step
            raise
        except CannotWrite as error:
            # Written where nothing of it lies yet, it can be tried again by whoever comes next.
            queue.give_back(
                claim.entry.number, say("{error} It goes on by itself then.", error=error)
            )
            raise
        except BadInput as error:
            why = str(error)
            raise
        finally:
            # Nothing happens to an entry that is done.
            queue.stop(claim.entry.number, why, awaits=awaits)


def _on_press(
    queue: Queue,
    claim: Claim,
    press: PressLine,
    store: ArtStore,
    report: Report,
    step_done: Callable[[int, Step], None],
    write: Write,
) -> None:
    entry = claim.entry
    folder = write(queue, entry.number, store, lambda done: report(done * WRITING))
    jobs = jobs_of(queue, entry.number, store)
    todo = steps(*(Faced(job) for job in jobs))
    on_film = None
    again = jobs[0].again
    if again is not None and again.second_only:
        before = queue.entry(entry.again_of)
        on_film = before, write(queue, before.number, store, unwatched)
    loaded = load(press, entry, folder, on_film=on_film, report=report)
    print_steps(
        queue, entry, todo, press, loaded,
        report=lambda done: report(WRITING + (1.0 - WRITING) * done), step_done=step_done,
    )  # fmt: skip
    queue.finish(entry.number)


def cancel(queue: Queue, number: int) -> None:
    """Never print an entry: its press stops, and what a front end has not taken is taken back.

    Parameters
    ----------
    queue : the shop's jobs
    number : of the entry

    Raises
    ------
    BadInput
        If it came to its end, or the front end has begun to take it.
    """
    entry = queue.entry(number)
    if entry.state is not State.HANDED:
        queue.cancel(number)
        return
    lead, *others = queue.members(number)
    if not take_back(lead):
        queue.taken(number)
        raise BadInput(
            say(
                "The front end has taken {entry}; cancel it there, then say here that it failed.",
                entry=entry.name,
            )
        )
    for one in (lead, *others):
        queue.cancel(one.number)
