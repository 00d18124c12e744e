"""The queue and the test press, as the window sees them; all asking is done in workers."""

from __future__ import annotations

import contextlib
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from farbe.apart.asking import ask
from farbe.desk.preferences import Preferences
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.edits.places import guide_was_made
from farbe.estimate.steps import Step
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.folders import press_folder, queue_folder
from farbe.follows.exports import added_to_queue, prepared
from farbe.layout.again import only_again
from farbe.layout.faced import Faced
from farbe.layout.loads import loads_of
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.receiver import Drive
from farbe.press.client import PressLine
from farbe.queue.lanes import line_to, work_off
from farbe.queue.onpress import await_warmth
from farbe.queue.store import OPEN, PAST, Entry, Queue, State
from farbe.queue.sweep import sweep
from farbe.queue.tofolder import look_at_folders
from farbe.queue.work import cancel, job_of, nest, print_again, repeat
from farbe.render.raster import Report
from farbe.said import say, say_count, spoken

#: Milliseconds between two looks at the presses and the queue, and between two clearings.
LOOK, CLEAR = 1500, 3_600_000
#: Seconds until it is tried again whether a disk has room.
ROOM_SECONDS = 10.0
#: Past entries that are listed.
LISTED = 2000


@dataclass(frozen=True)
class Looked:
    """The state of each press by its printer, without those that are off, and the queue."""

    presses: dict[str, dict[str, Any]]
    open: tuple[Entry, ...]
    past: tuple[Entry, ...]

    @property
    def lanes(self) -> tuple[str, ...]:
        """The printers of all entries, in the order of their names."""
        return tuple(sorted({entry.lane for entry in (*self.open, *self.past)}))


def _share(report: Report, at: int, count: int) -> Report:
    """Reports a part of a whole, as one of so many."""
    return lambda done: report((at + done) / count)


class PressDesk(QObject):
    """Looks at presses and queue while someone looks at them here, and prints, a lane for each."""

    changed = Signal()
    #: A step of a job's run list is done: the entry, the step's place, the bed if it changed.
    step_done = Signal(int, int, QImage)
    #: A job begins to print: the entry.
    began = Signal(int)
    #: The open job was sent to its receiver: the entry, and the job.
    sent = Signal(int, object)
    #: A board was printed by itself: its picture.
    board_printed = Signal(QImage)
    #: Pictures of a finished piece, each with its words.
    piece_seen = Signal(list)
    #: A job out of the queue, to be opened.
    opened = Signal(object)
    _failed = Signal(str)

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._session, self._workers = session, workers
        self.looked = Looked({}, (), ())
        #: Whether what waits starts by itself.
        self.by_itself = False
        #: Until when lanes rest that wait for room on a disk.
        self._rests: dict[str, float] = {}
        self._timer, self._clearing = QTimer(self), QTimer(self)
        self._timer.setInterval(LOOK)
        self._timer.timeout.connect(self.look)
        self._clearing.setInterval(CLEAR)
        self._clearing.timeout.connect(self.clear)
        self._failed.connect(session.said)

    @property
    def printer(self) -> str:
        """The printer of the open job."""
        job = self._session.first
        return "" if job is None else job.printer.name

    @property
    def state(self) -> dict[str, Any] | None:
        """What the press of the open job's printer says; None if it is off."""
        return self.looked.presses.get(self.printer)

    def watch(self, on: bool) -> None:
        """Look again and again, or no longer."""
        if on:
            self._timer.start()
            if not self._clearing.isActive():
                self._clearing.start()
                self.clear()
            self.look()
        elif not self.by_itself:
            self._timer.stop()

    def close(self) -> None:
        """Look no longer; presses go on."""
        self.by_itself = False
        self._timer.stop()
        self._clearing.stop()

    def set_by_itself(self, on: bool) -> None:
        """Let jobs that wait start when their printer is ready."""
        self.by_itself = on
        self.watch(True)

    def look(self) -> None:
        """Ask for the state of presses and queue."""
        printer = self.printer
        self._workers.start(
            "look at the press", lambda _: look_now(printer), self._show, waits=True
        )

    def clear(self) -> None:
        """Remove hand-offs that came to their end long ago."""
        days = Preferences().keep_days
        self._workers.start(
            "clear the queue", lambda _: sweep(Queue(queue_folder()), days), lambda _: None
        )

    def _show(self, looked: Looked) -> None:
        if looked != self.looked:
            self.looked = looked
            self.changed.emit()
        for lane in dict.fromkeys(e.lane for e in looked.open if e.state is State.WAITING):
            if not self._workers.busy(_key(lane)) and self._may_start(lane):
                self._start(lane)

    def _may_start(self, lane: str) -> bool:
        """Whether something is asked for on a printer, or may start there by itself."""
        waiting = [e for e in self.looked.open if e.lane == lane and e.state is State.WAITING]
        if any(entry.asked for entry in waiting):
            return True
        press = self.looked.presses.get(lane)
        ready = waiting[0].drive is Drive.FOLDER or (press is not None and press["ready"])
        return self.by_itself and ready

    # the press

    def ask(self, **request: Any) -> None:
        """Ask the open job's press for something that takes no time; it is started if it is off."""
        pace, printer = Preferences().pace, self.printer

        def work(_: Report) -> None:
            with line_to(printer, pace=pace) as press:
                press.ask(**request)

        self._workers.in_turn(f"ask {request['do']}", work, lambda _: self.look())

    # the queue

    def change(self, work: Callable[[Queue], object]) -> None:
        """Change the queue, after all that was asked before; what it refuses is said."""
        self._workers.in_turn(
            "change the queue", lambda _: work(Queue(queue_folder())), lambda _: self.look()
        )

    def add(self, *, held: bool) -> None:
        """Put the open job into the queue: every load of its board is an entry."""
        job, store = self._session.first, self._session.store
        if job is None:
            return

        def work(report: Report) -> tuple[int, ...]:
            loads = loads_of(job)
            return tuple(
                ask(added_to_queue, queue_folder(), one, store, held=held,
                    report=_share(report, at, len(loads)))
                for at, one in enumerate(loads)
            )  # fmt: skip

        self._workers.in_turn(
            "add to the queue", work, lambda numbers: self._added(job, numbers),
            title=say("Looking at the job"),
        )  # fmt: skip

    def add_again(self, numbers: list[int]) -> None:
        """Put some pieces of the open job into the queue, which failed and are printed anew."""
        job, store = self._session.first, self._session.store
        if job is None:
            return
        try:
            made = only_again(job.job, tuple(numbers))
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self._workers.in_turn(
            "add to the queue",
            lambda report: (ask(added_to_queue, queue_folder(), made, store, report=report),),
            lambda found: self._added(Faced(made), found), title=say("Looking at the job"),
        )  # fmt: skip

    def _added(self, job: Faced, numbers: tuple[int, ...]) -> None:
        self._session.said.emit(
            say_count(
                len(numbers),
                "{job} is number {numbers} in the queue.",
                "The {count} loads of {job} are numbers {numbers} in the queue.",
                job=job.name,
                numbers=", ".join(map(str, numbers)),
            )
        )
        self.look()

    def prepare(self, numbers: list[int]) -> None:
        """Write the hand-offs of entries and do no more."""
        store = self._session.store

        def work(report: Report) -> Path:
            found = Path()
            for at, number in enumerate(numbers):
                share = _share(report, at, len(numbers))
                found = ask(prepared, queue_folder(), number, store, report=share)
            return found

        self._workers.in_turn("prepare", work, self._prepared, title=say("Writing the hand-off"))

    def _prepared(self, folder: Path) -> None:
        self._session.said.emit(say("The hand-off is in {folder}.", folder=folder))
        self.look()

    def repeat(self, numbers: list[int]) -> None:
        """Put copies of entries at the end."""
        store = self._session.store
        self.change(lambda queue: queue.each(numbers, lambda n: repeat(queue, n, store)))

    def print_again(
        self, number: int, pieces: tuple[int, ...], *, second_only: bool = False
    ) -> None:
        """Put the pieces of an entry that failed at the end, to be printed once more."""
        store = self._session.store
        self.change(
            lambda queue: print_again(queue, number, store, pieces, second_only=second_only)
        )

    def nest(self, numbers: list[int]) -> None:
        """Print entries together on one board; why they cannot is said."""
        store = self._session.store
        self.change(lambda queue: nest(queue, numbers, store))

    def cancel(self, numbers: list[int]) -> None:
        """Never print entries; those that print are stopped."""
        self.change(lambda queue: queue.each(numbers, lambda n: cancel(queue, n)))

    def open_copy(self, number: int) -> None:
        """Open the job of an entry, to print it again with changes."""
        store = self._session.store

        def work(_: Report) -> Job:
            queue = Queue(queue_folder())
            return job_of(queue, queue.entry(number), store)

        self._workers.start("open from the queue", work, self.opened.emit)

    # printing

    def send_open_job(self) -> None:
        """Hand the open job to its receiver: it prints as soon as its printer is free."""
        job, store = self._session.first, self._session.store
        if job is None:
            return

        def work(report: Report) -> int:
            number = ask(added_to_queue, queue_folder(), job.job, store, report=report)
            Queue(queue_folder()).ask(number)
            self.sent.emit(number, job)
            return number

        self._workers.in_turn(
            "send the job", work, lambda number: self._sent(job, int(number)),
            title=say("Looking at the job"),
        )  # fmt: skip

    def _sent(self, job: Faced, number: int) -> None:
        guide_was_made(self._session, job)
        by = job.printer if job.receiver.drive is Drive.PRESS else job.receiver
        where = spoken(by.name)
        self._session.said.emit(
            say(
                "{job} goes to {where} as number {number}.",
                job=job.name,
                where=where,
                number=number,
            )
        )
        self._start(job.printer.name)

    def print_entries(self, numbers: list[int]) -> None:
        """Print entries as soon as their printers are free, or go on with them."""
        self._rests.clear()
        self.change(lambda queue: queue.each(numbers, queue.ask))

    def busy(self) -> bool:
        """Whether anything prints from here."""
        return any(self._workers.busy(_key(e.lane)) for e in self.looked.open)

    def _start(self, lane: str) -> None:
        """Work a printer's lane off, unless that is going on."""
        if self._workers.busy(_key(lane)) or time.monotonic() < self._rests.get(lane, 0.0):
            return
        store, pace = self._session.store, Preferences().pace

        def work(report: Report) -> bool:
            return work_off(
                Queue(queue_folder()), lane, lambda printer: line_to(printer, pace=pace), store,
                by_itself=lambda: self.by_itself, report=report, began=self.began.emit,
                step_done=lambda number, index, step: self._stepped(lane, number, index, step),
                failed=self._failed.emit, write=_prepared_apart,
            )  # fmt: skip

        self._workers.start(
            _key(lane), work, lambda waits: self._worked(lane, waits),
            title=say("Printing on {lane}", lane=spoken(lane) or say("the press")), waits=True,
        )  # fmt: skip

    def _worked(self, lane: str, waits: bool) -> None:
        if waits:
            self._rests[lane] = time.monotonic() + ROOM_SECONDS
        self.look()

    def _stepped(self, lane: str, number: int, index: int, step: Step) -> None:
        """In a worker: hand on a step that is done, with the picture of the bed."""
        shown = QImage()
        if step.run is not None:
            shown = bed_picture(lane)
        self.step_done.emit(number, index, shown)

    def look_at_piece(self, x: float, y: float) -> None:
        """Show the finished piece at a place of the bed in mm, as its readers see it."""
        printer = self.printer
        self._workers.start("look at a piece", lambda _: finished_piece(printer, x, y), self._seen)

    def _seen(self, pictures: list[tuple[QImage, str]]) -> None:
        if pictures:
            self.piece_seen.emit(pictures)

    def print_board(self, folder: Path, printer: str) -> None:
        """In a worker: print a hand-off of one run on a printer's board, or on one piece, and hand
        on the bed's picture."""
        ticket = read_ticket(folder)
        run = ticket.runs[0]
        with line_to(printer, pace=Preferences().pace) as press:
            press.send(folder)
            await_warmth(press)
            if run.what == "artwork" and ticket.medium == "bed":
                press.ask(do="place")
            press.ask(do="print", run=run.name)
            picture = folder / "bed.png"
            press.ask(do="picture", path=str(picture))
            self.board_printed.emit(QImage(str(picture)))


#: What is said of a picture of a finished piece.
_SEEN = {
    "piece": say("as its reader sees it"),
    "turned": say("seen through it"),
    "pressed": say("pressed, its carrier peeled off"),
}


def _prepared_apart(queue: Queue, number: int, store: ArtStore, report: Report) -> Path:
    return ask(prepared, queue.folder, number, store, report=report)


def _key(lane: str) -> str:
    """By what the work on a printer's lane is known."""
    return f"print on {lane}"


def bed_picture(printer: str) -> QImage:
    """The bed of a printer's press from above.

    Parameters
    ----------
    printer : its name

    Raises
    ------
    BadInput
        If the press does not show it.
    """
    with (
        tempfile.TemporaryDirectory(prefix="farbe-run-") as folder,
        PressLine(press_folder(printer)) as press,
    ):
        path = Path(folder) / "bed.png"
        press.ask(do="picture", path=str(path))
        return QImage(str(path))


def finished_piece(printer: str, x: float, y: float) -> list[tuple[QImage, str]]:
    """Pictures of the piece at a place of the test press's bed, with their words; none beside all.

    A transfer is seen on each of the order's garments.

    Parameters
    ----------
    printer : whose press it lies on
    x, y : mm from the bed's near left corner

    Raises
    ------
    BadInput
        If the press is off or busy, or nothing was sent to it.
    """
    found: list[tuple[QImage, str]] = []
    with (
        tempfile.TemporaryDirectory(prefix="farbe-piece-") as folder,
        PressLine(press_folder(printer)) as press,
    ):
        finished = press.ask(do="finished")
        for piece in finished["pieces"]:
            left, low, wide, high = piece["box"]
            if abs(x - left) > wide / 2 or abs(y - low) > high / 2:
                continue
            for of in piece["of"]:
                on = finished["garments"] if of == "pressed" else []
                for garment, name in enumerate(on) if on else [(None, "")]:
                    path = str(Path(folder) / "piece.png")
                    press.ask(
                        do="picture", path=path, of=of, number=piece["number"], garment=garment
                    )
                    words = say("on {name}", name=name) if name else _SEEN[of]
                    found.append((QImage(path), words))
            break
    return found


def look_now(printer: str) -> Looked:
    """The state of all presses that are on, and of the queue.

    Parameters
    ----------
    printer : of the open job, which may have no entry yet
    """
    queue = Queue(queue_folder())
    look_at_folders(queue)
    found, past = queue.entries(OPEN), queue.entries(PAST, LISTED)
    states: dict[str, dict[str, Any]] = {}
    for lane in {printer, *(entry.lane for entry in found)}:
        # One that is off is a state like others.
        with contextlib.suppress(BadInput), PressLine(press_folder(lane)) as press:
            states[lane] = press.ask(do="status")
    return Looked(states, tuple(found), tuple(past))
