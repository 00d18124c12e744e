"""The queue and the test press, as the window sees them; all asking is done in workers."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from itertools import count
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from farbe.desk.preferences import Preferences
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.estimate.steps import Step
from farbe.files.store import ArtStore
from farbe.folders import press_folder, queue_folder
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.press.client import PressLine, press_of
from farbe.queue.store import OPEN, PAST, Entry, Queue
from farbe.queue.work import add_job, await_warmth, job_of, nest, prepare, print_entry, repeat
from farbe.render.raster import Report

#: Milliseconds between two looks at the press.
LOOK = 1500
#: Past entries that are listed.
LISTED = 2000


@dataclass(frozen=True)
class Looked:
    """The press's state, None if it is off, and what the queue holds."""

    press: dict[str, Any] | None
    open: tuple[Entry, ...]
    past: tuple[Entry, ...]


class PressDesk(QObject):
    """Looks at press and queue while someone looks at them here, and prints."""

    changed = Signal()
    #: A step of a job's run list is done: the entry, the step's place, the bed if it changed.
    step_done = Signal(int, int, QImage)
    #: A job begins to print: the entry, and the job if it was sent from here.
    began = Signal(int, object)
    #: A board was printed by itself: its picture.
    board_printed = Signal(QImage)
    #: Pictures of a finished piece, each with its words.
    piece_seen = Signal(list)
    #: A job out of the queue, to be opened.
    opened = Signal(object)

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._session, self._workers = session, workers
        self.looked = Looked(None, (), ())
        # Work of one key replaces the last; no click is to be lost.
        self._clicks = count()
        #: Whether what waits starts by itself.
        self.by_itself = False
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK)
        self._timer.timeout.connect(self.look)

    def watch(self, on: bool) -> None:
        """Look again and again, or no longer."""
        if on:
            self._timer.start()
            self.look()
        elif not self.by_itself:
            self.close()

    def close(self) -> None:
        """Look no longer; the press goes on."""
        self.by_itself = False
        self._timer.stop()

    def set_by_itself(self, on: bool) -> None:
        """Let jobs that wait start when the press is ready."""
        self.by_itself = on
        self.watch(True)

    def look(self) -> None:
        """Ask for the state of press and queue."""
        self._workers.start("look at the press", lambda _: look_now(), self._show)

    def _show(self, looked: Looked) -> None:
        if looked != self.looked:
            self.looked = looked
            self.changed.emit()
        ready = looked.press is not None and looked.press["ready"]
        if self.by_itself and ready and not self._workers.busy("press"):
            waits = next((e for e in looked.open if e.state == "waiting"), None)
            others = any(e.state in ("printing", "stopped") for e in looked.open)
            if waits is not None and not others:
                self.print_entry(waits.number)

    # the press

    def ask(self, **request: Any) -> None:
        """Ask the press for something that takes no time; it is started if it is off."""
        pace = Preferences().pace

        def work(_: Report) -> None:
            with press_of(press_folder(), pace=pace) as press:
                press.ask(**request)

        self._workers.start(f"ask {request['do']}", work, lambda _: self.look())

    # the queue

    def change(self, work: Callable[[Queue], object]) -> None:
        """Change the queue; what it refuses is said."""
        self._workers.start(
            "change the queue", lambda _: work(Queue(queue_folder())), lambda _: self.look()
        )

    def add(self, *, held: bool) -> None:
        """Put the open job into the queue."""
        job, store = self._session.first, self._session.store
        if job is not None:
            self._workers.start(
                f"add to the queue {next(self._clicks)}",
                lambda r: add_job(Queue(queue_folder()), job.job, store, held=held, report=r),
                lambda number: self._added(job, int(number)),
                title="Looking at the job",
            )

    def _added(self, job: Faced, number: int) -> None:
        self._session.said.emit(f"{job.name} is number {number} in the queue.")
        self.look()

    def prepare(self, number: int) -> None:
        """Write an entry's hand-off and do no more."""
        store = self._session.store
        self._workers.start(
            "prepare",
            lambda report: prepare(Queue(queue_folder()), number, store, report),
            lambda folder: self._prepared(str(folder)),
            title="Writing the hand-off",
        )

    def _prepared(self, folder: str) -> None:
        self._session.said.emit(f"The hand-off is in {folder}.")
        self.look()

    def repeat(self, number: int) -> None:
        """Put a copy of an entry at the end."""
        store = self._session.store
        self.change(lambda queue: repeat(queue, number, store))

    def nest(self, numbers: list[int]) -> None:
        """Print entries together on one board; why they cannot is said."""
        store = self._session.store
        self.change(lambda queue: nest(queue, numbers, store))

    def open_copy(self, number: int) -> None:
        """Open the job of an entry, to print it again with changes."""
        store = self._session.store

        def work(_: Report) -> Job:
            queue = Queue(queue_folder())
            return job_of(queue, queue.entry(number), store)

        self._workers.start("open from the queue", work, self.opened.emit)

    # printing

    def print_open_job(self) -> None:
        """Put the open job into the queue and print it at once."""
        job, store = self._session.first, self._session.store
        if job is not None:
            self._print(lambda queue: add_job(queue, job.job, store, held=True), job)

    def print_entry(self, number: int) -> None:
        """Print an entry, or go on with it."""
        self._print(lambda _: number, None)

    def _print(self, number_of: Callable[[Queue], int], job: Faced | None) -> None:
        store, pace = self._session.store, Preferences().pace
        self._workers.start(
            "press",
            lambda report: self._print_now(number_of, job, store, pace, report),
            lambda _: self.look(),
            title="Printing on the test press",
        )

    def _print_now(
        self,
        number_of: Callable[[Queue], int],
        job: Faced | None,
        store: ArtStore,
        pace: float,
        report: Report,
    ) -> None:
        """In a worker: print, and hand on each step with its picture."""
        queue = Queue(queue_folder())
        number = number_of(queue)
        self.began.emit(number, job)
        with (
            tempfile.TemporaryDirectory(prefix="farbe-run-") as folder,
            press_of(press_folder(), pace=pace) as press,
        ):
            picture = Path(folder) / "bed.png"

            def step_done(index: int, step: Step) -> None:
                shown = QImage()
                if step.run is not None:
                    press.ask(do="picture", path=str(picture))
                    shown = QImage(str(picture))
                self.step_done.emit(number, index, shown)

            print_entry(queue, number, press, store, report=report, step_done=step_done)

    def look_at_piece(self, x: float, y: float) -> None:
        """Show the finished piece at a place of the bed in mm, as its readers see it."""
        self._workers.start("look at a piece", lambda _: finished_piece(x, y), self._seen)

    def _seen(self, pictures: list[tuple[QImage, str]]) -> None:
        if pictures:
            self.piece_seen.emit(pictures)

    def print_board(self, folder: Path) -> None:
        """In a worker: print a hand-off that is only for the board, and hand on its picture."""
        pace = Preferences().pace
        with press_of(press_folder(), pace=pace) as press:
            press.send(folder)
            await_warmth(press)
            press.ask(do="print", run="guide")
            picture = folder / "bed.png"
            press.ask(do="picture", path=str(picture))
            self.board_printed.emit(QImage(str(picture)))


#: What is said of a picture of a finished piece.
_SEEN = {
    "piece": "as its reader sees it",
    "turned": "seen through it",
    "pressed": "pressed, its carrier peeled off",
}


def finished_piece(x: float, y: float) -> list[tuple[QImage, str]]:
    """Pictures of the piece at a place of the test press's bed, with their words; none beside all.

    A transfer is seen on each of the order's garments.

    Parameters
    ----------
    x, y : mm from the bed's near left corner

    Raises
    ------
    BadInput
        If the press is off or busy, or nothing was sent to it.
    """
    found: list[tuple[QImage, str]] = []
    with (
        tempfile.TemporaryDirectory(prefix="farbe-piece-") as folder,
        PressLine(press_folder()) as press,
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
                    words = f"on {name}" if name else _SEEN[of]
                    found.append((QImage(path), words))
            break
    return found


def look_now() -> Looked:
    """The state of press and queue."""
    try:
        with PressLine(press_folder()) as press:
            state = press.ask(do="status")
    except BadInput:
        # Off, which is a state like others.
        state = None
    queue = Queue(queue_folder())
    return Looked(state, tuple(queue.entries(OPEN)), tuple(queue.entries(PAST, LISTED)))
