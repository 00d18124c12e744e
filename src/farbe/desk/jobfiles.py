"""Jobs and their files: new, open, save, revert, close, unsaved ones of windows that ended."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEventLoop, QObject, QProcess, Signal
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox, QWidget

from farbe.apart.asking import ask
from farbe.art.read import SUFFIXES
from farbe.desk.autosave import Autosave, LeftBehind, left_behind
from farbe.desk.doorbell import Doorbell, ring
from farbe.desk.entering import all_taken
from farbe.desk.intake import Intake
from farbe.desk.openfile import OpenFile
from farbe.desk.preferences import Preferences
from farbe.desk.recentlist import note_recent
from farbe.desk.recovery import RecoveryDialog
from farbe.desk.session import Session
from farbe.desk.workers import Task, Workers
from farbe.files.jobfile import SUFFIX, open_job, save_job
from farbe.files.recipefile import lent
from farbe.follows.sample import drawn_sample
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.names import safe_name
from farbe.orders.product import keep_product
from farbe.plan.newjob import STARTS, job_from_recipe
from farbe.plan.recipes import Recipe
from farbe.said import say

_BUTTONS = QMessageBox.StandardButton


def open_window(*paths: Path) -> bool:
    """Open another window, a program of its own, with a job if one is given.

    Parameters
    ----------
    paths : job files or artwork, none for an empty window

    Returns
    -------
    Whether it could be started.
    """
    told = ["open", *map(str, paths)] if paths else []
    return QProcess.startDetached(sys.executable, ["-m", "farbe", *told])[0]


class JobFiles(QObject):
    """What the Job menu does; each step asks before it loses anything."""

    #: Another job is worked on, which somebody chose to start.
    started = Signal(object)

    def __init__(
        self,
        session: Session,
        workers: Workers,
        preferences: Preferences,
        intake: Intake,
        window: QWidget,
    ) -> None:
        super().__init__(window)
        self._session, self._workers, self._preferences = session, workers, preferences
        self._intake, self._window = intake, window
        self.autosave = Autosave(session, workers)
        self._file = OpenFile()
        self._saving: Task | None = None
        self._bell = Doorbell(self)
        self._bell.rung.connect(self._come)
        session.changed.connect(self._follow)

    def _follow(self) -> None:
        """A job without the file that was open has it open no longer."""
        if self._file.path is not None and self._session.path != self._file.path:
            self.let_go()

    def let_go(self) -> None:
        """No file is open here."""
        self._file.let_go()
        self._bell.listen(None)

    def _hold(self, path: Path) -> bool:
        """This file is open here from now on; whether it is nowhere else."""
        alone = self._file.take(path)
        try:
            self._bell.listen(path if alone else None)
        except BadInput as error:
            self._session.said.emit(str(error))
        return alone

    def _come(self) -> None:
        """Somebody opened the job that is open here: show it."""
        window = self._window.window()
        window.showNormal() if window.isMinimized() else window.show()
        window.raise_()
        window.activateWindow()
        QApplication.alert(window)
        self._session.said.emit(say("This job is open here already."))

    # new and open

    def new(self, recipe: Recipe) -> None:
        """A new job by a recipe."""
        if self.may_leave():
            try:
                self._session.take(job_from_recipe(lent(recipe, self._session.store)))
            except BadInput as error:
                self._session.said.emit(str(error))
                return
            self.started.emit(self._session.job)

    def start_on(self, words: str) -> None:
        """A new job on film or on round bodies."""
        if self.may_leave():
            self._session.take(STARTS[words]())
            self.started.emit(self._session.job)

    def open_sample(self, name: str) -> None:
        """Open a sample; drawing its artwork takes a moment, so a worker does it."""
        if self.may_leave():
            store = self._session.store
            self._workers.start(
                "sample",
                lambda r: ask(drawn_sample, name, store, report=r),
                self._leaving(lambda job: self._session.take(job, saved=True)),
                title=say("Drawing the sample"),
            )

    def _leaving(self, take: Callable[[Job], object]) -> Callable[[Job], None]:
        """What opens a job in place of one that may be left: not what was edited since is."""
        left = self._session.first

        def taken(job: Job) -> None:
            if self._session.first == left or self.may_leave():
                take(job)

        return taken

    def open(self, path: Path) -> None:
        """Open a job file; anything else is taken as artwork, whatever its name says."""
        if path.suffix.lower() != SUFFIX:
            self._intake.add([path])
        elif self._file.path is not None and path.resolve() == self._file.path.resolve():
            self._come()
        else:
            # A window that is busy takes a moment to answer.
            self._workers.start(
                "find", lambda _: self._rings(path), lambda there: self._found(path, there)
            )

    def _found(self, path: Path, elsewhere: bool) -> None:
        if elsewhere:
            self._session.said.emit(
                say("{path} is open in another window, which shows it now.", path=path.name)
            )
        elif self.may_leave():
            self._read(path)

    def _rings(self, path: Path) -> bool:
        """In a worker: whether another window has a job open, and shows it now."""
        try:
            return ring(path)
        except BadInput as error:
            # Where windows cannot be found, the job is opened all the same.
            self._session.said.emit(str(error))
            return False

    def _read(self, path: Path) -> None:
        store = self._session.store
        self._workers.start(
            "open",
            lambda _: open_job(path, store),
            self._leaving(lambda job: self._opened(job, path)),
            title=say("Opening {path}", path=path.name),
        )

    def _opened(self, job: Job, path: Path) -> None:
        self._session.take(job, path, saved=True)
        self._remember(path)
        if not self._hold(path):
            self._session.said.emit(
                say(
                    "{path} is open in another window, too; save this one under another name.",
                    path=path.name,
                )
            )

    def _remember(self, path: Path) -> None:
        self._preferences.remember(path)
        self._workers.in_turn("recent", lambda _: note_recent(path), lambda _: None)

    def open_copy(self, job: Job) -> None:
        """Work on a job out of the queue, as a new one."""
        if self.may_leave():
            self._session.take(job)

    def ask_open(self) -> None:
        """Ask which file to open."""
        kinds = " ".join(f"*{suffix}" for suffix in (SUFFIX, *SUFFIXES))
        name, _ = QFileDialog.getOpenFileName(
            self._window, say("Open"), "", say("Jobs and pictures ({kinds})", kinds=kinds)
        )
        if name:
            self.open(Path(name))

    def ask_replace(self) -> None:
        """Ask for files in place of the job's artwork."""
        kinds = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        names, _ = QFileDialog.getOpenFileNames(
            self._window,
            say("In place of the job's artwork"),
            "",
            say("Artwork ({kinds});;All files (*)", kinds=kinds),
        )
        if names:
            self._intake.replace_all([Path(name) for name in names])

    # unsaved ones

    def show_unsaved(self) -> None:
        """Offer unsaved jobs, or say that there are none."""
        if left_behind():
            self.offer_recovery()
        else:
            self._session.said.emit(say("There are no unsaved jobs of windows that ended."))

    def offer_recovery(self) -> None:
        """Offer unsaved jobs of windows that ended suddenly; nothing if there are none."""
        found = left_behind()
        if not found:
            return
        dialog = RecoveryDialog(self._window, found)
        if dialog.exec() and dialog.chosen is not None and self.may_leave():
            self.recover(dialog.chosen)

    def recover(self, one: LeftBehind) -> None:
        """Open an unsaved job; its copy goes when this window has one of its own."""
        store = self._session.store
        self._workers.start(
            "open",
            lambda _: open_job(one.copy, store),
            self._leaving(lambda job: self._recovered(job, one)),
            title=say("Opening {name}", name=one.name),
        )

    def _recovered(self, job: Job, one: LeftBehind) -> None:
        self._session.take(job, one.path)
        if one.path is not None:
            self._hold(one.path)
        self.autosave.write(then=one.throw_away)

    # save

    def save(self) -> bool:
        """Save where the job is, or ask where; True once it has begun."""
        if self._session.path is None:
            return self.save_as()
        return self._save_to(self._session.path)

    def save_as(self) -> bool:
        """Save under a name that is asked for; True once it has begun."""
        path = self._asked_path(say("Save the job"))
        return path is not None and self._save_to(path)

    def save_copy(self) -> None:
        """Write a copy under another name; the job stays the file that it is."""
        job, store = self._session.first, self._session.store
        path = self._asked_path(say("Save a copy of the job"))
        if job is None or path is None:
            return
        if self._file.path is not None and path.resolve() == self._file.path.resolve():
            self._session.said.emit(
                say("{path} is this job's own file; choose another name.", path=path.name)
            )
            return
        self._workers.start(
            "save a copy", lambda _: save_job(job.job, store, path),
            lambda _: self._session.said.emit(say("A copy is {path}.", path=path.name)),
            title=say("Saving {path}", path=path.name),
        )  # fmt: skip

    def keep_product(self) -> None:
        """Keep the job under a name that lists of orders may name."""
        job = self._session.first
        if job is None:
            return
        name, taken = QInputDialog.getText(
            self._window, say("Keep as a product"), say("Name in lists of orders"), text=job.name
        )
        if taken and name.strip():
            self.keep_as_product(name.strip())

    def keep_as_product(self, name: str) -> None:
        """Keep the job as a product of a name."""
        job, store = self._session.first, self._session.store
        if job is None:
            return
        self._workers.start(
            "keep a product", lambda _: keep_product(job.job.replace(name=name), store),
            lambda _: self._session.said.emit(
                say("{name} is kept as a product; lists of orders may name it.", name=name)
            ),
        )  # fmt: skip

    def _asked_path(self, title: str) -> Path | None:
        job = self._session.job
        if job is None:
            return None
        folder = Path(self._preferences.jobs_folder or Path.home())
        start = str(self._session.path or folder / f"{safe_name(job.name)}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(
            self._window, title, start, say("Jobs (*{suffix})", suffix=SUFFIX)
        )
        if not name:
            return None
        path = Path(name)
        if path.suffix != SUFFIX:
            # What was asked about was the name without the suffix.
            path = path.with_name(path.name + SUFFIX)
            if path.exists() and not self._agrees(
                say("{path} is there already. Replace it?", path=path.name)
            ):
                return None
        return path

    def _agrees(self, question: str) -> bool:
        answer = QMessageBox.question(
            self._window, say("Save the job"), question, _BUTTONS.Yes | _BUTTONS.No
        )
        return answer == _BUTTONS.Yes

    def _save_to(self, path: Path) -> bool:
        """Save in a worker; True once it has begun."""
        job, store = self._session.first, self._session.store
        if job is None:
            return False
        if self._file.changed_elsewhere(path) and not self._agrees(
            say(
                "{path} was changed by somebody else since you opened it. Overwrite that?",
                path=path.name,
            )
        ):
            return False
        # In turn: another job that is saved does not keep this one from being written.
        self._saving = self._workers.in_turn(
            "save",
            lambda _: save_job(job.job, store, path),
            self._session.for_this_job(
                lambda _: self._saved(job.job, path), lambda _: self._left_saved(path)
            ),
            title=say("Saving {path}", path=path.name),
        )
        return True

    def _saved(self, job: Job, path: Path) -> None:
        self._session.was_saved(job, path)
        self._left_saved(path, "" if self._hold(path) else say(" Another window has it open, too."))

    def _left_saved(self, path: Path, other: str = "") -> None:
        """A file holds a job that may have been left; it is not that of the next one."""
        self._remember(path)
        self._session.said.emit(say("Saved as {path}.{other}", path=path.name, other=other))

    def _save_now(self) -> bool:
        """Save and wait for it, before the job is left; whether it is safe."""
        if not self.save():
            return False
        while self._saving is not None and self._workers.busy(self._saving.key):
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents, 50)
        return not self._session.unsaved

    # leave

    def revert(self) -> None:
        """Open the job again as its file has it."""
        path = self._session.path
        if path is None or not self._session.unsaved:
            self._session.said.emit(
                say("There is nothing to take back: the job is as it was saved.")
            )
            return
        answer = QMessageBox.question(
            self._window, say("Revert"),
            say("Throw away what was changed since {path} was saved?", path=path.name),
            _BUTTONS.Discard | _BUTTONS.Cancel,
        )  # fmt: skip
        if answer == _BUTTONS.Discard:
            self._read(path)

    def close(self) -> None:
        """Leave the job; the start page is shown."""
        if self.may_leave():
            self._session.take(None)

    def may_leave(self) -> bool:
        """Whether the current job may be left: it is saved, or the user says so."""
        job = self._session.job
        if job is None or not self._session.unsaved:
            return True
        answer = QMessageBox.question(
            self._window, say("Unsaved job"), say("Save {job} first?", job=job.name),
            _BUTTONS.Save | _BUTTONS.Discard | _BUTTONS.Cancel,
        )  # fmt: skip
        if answer == _BUTTONS.Save:
            return all_taken(self._window) and self._save_now()
        return answer == _BUTTONS.Discard
