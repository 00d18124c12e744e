"""Unsaved work is kept on disk, so that nothing is lost when the process is killed."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import datetime
from itertools import count
from pathlib import Path

from PySide6.QtCore import QDateTime, QLocale, QObject, QTimer

from farbe.atomic import make_folder, whole_file
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.files.jobfile import SUFFIX, save_job
from farbe.folders import state_folder
from farbe.model.job import Job
from farbe.owners import Owner, owner_of
from farbe.said import say

DELAY_MS = 1500


def autosave_folder() -> Path:
    return state_folder() / "unsaved"


@dataclass(frozen=True)
class Told:
    """What is known of a job that is kept: its name, and the file that it was opened from."""

    name: str
    path: str = ""


@dataclass(frozen=True)
class LeftBehind:
    """A job whose window ended without closing it.

    Attributes
    ----------
    copy : the file that holds it
    name : of the job
    path : of its own file; None if it had none
    at : when it was kept
    """

    copy: Path
    name: str
    path: Path | None
    at: datetime

    @property
    def words(self) -> str:
        when = QDateTime.fromSecsSinceEpoch(round(self.at.timestamp()))
        return f"{self.name}, {QLocale.system().toString(when, QLocale.FormatType.ShortFormat)}"

    def throw_away(self) -> None:
        """It is no longer wanted, or safe elsewhere."""
        for path in _files_of(self.copy):
            path.unlink(missing_ok=True)


def _files_of(copy: Path) -> tuple[Path, Path, Path]:
    """The copy, what is known of it, and the lock of its window."""
    return copy, copy.with_suffix(".json"), copy.with_suffix(".lock")


def left_behind() -> list[LeftBehind]:
    """Jobs of windows that ended without closing them, the newest first."""
    folder = autosave_folder()
    found = []
    for copy in folder.glob(f"*{SUFFIX}") if folder.is_dir() else ():
        owner = owner_of(_files_of(copy)[2])
        if owner is None:
            # Its window is open.
            continue
        owner.let_go()
        found.append(_left(copy))
    return sorted(found, key=lambda one: one.at, reverse=True)


def _left(copy: Path) -> LeftBehind:
    try:
        told = Told(**json.loads(_files_of(copy)[1].read_bytes()))
    except (OSError, ValueError, TypeError):
        # Copies of an earlier Farbe, and those that a kill came upon, say nothing of themselves.
        told = Told(say("a job"))
    at = datetime.fromtimestamp(copy.stat().st_mtime)
    return LeftBehind(copy, told.name, Path(told.path) if told.path else None, at)


class Autosave(QObject):
    """Writes the job a moment after the last edit, in a worker; gone once saved or closed."""

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._session, self._workers = session, workers
        self.path = autosave_folder() / f"{uuid.uuid4().hex}{SUFFIX}"
        self._owner: Owner | None = None
        #: The number of the copy that is wanted; 0 if none is.
        self._wish, self._wishes = 0, count(1)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(DELAY_MS)
        self._timer.timeout.connect(self.write)
        session.changed.connect(self._changed)

    def _changed(self) -> None:
        if self._session.unsaved:
            self._timer.start()
        else:
            self.discard()

    def write(self, then: Callable[[], object] | None = None) -> None:
        """Write now, in a worker; ``then`` is called when that is done, or wanted no longer."""
        job, path = self._session.first, self._session.path
        if job is None:
            return
        told = Told(job.name, "" if path is None else str(path.absolute()))
        wish = self._wish = next(self._wishes)
        # Copies are written and thrown away in the order in which that was asked for.
        self._workers.in_turn(
            "autosave",
            lambda _: self._kept(job.job, told, wish, needed=then is not None),
            lambda _: then() if then is not None else None,
        )

    def _kept(self, job: Job, told: Told, wish: int, *, needed: bool) -> None:
        """In a worker: what cannot be kept is said, as everything that a worker refuses."""
        if not self._wish or (self._wish != wish and not needed):
            # It is safe elsewhere by now, or a newer one follows.
            return
        copy, beside, lock = _files_of(self.path)
        make_folder(copy.parent)
        if self._owner is None:
            self._owner = owner_of(lock)
        with whole_file(beside) as file:
            file.write(json.dumps(asdict(told)).encode("utf-8"))
        save_job(job, self._session.store, copy)

    def discard(self) -> None:
        """The job is safe elsewhere, or given up by its user."""
        self._timer.stop()
        if self._wish:
            self._wish = 0
            self._workers.in_turn("autosave", lambda _: self._gone(), lambda _: None)

    def _gone(self) -> None:
        """In a worker: a copy that was asked for since stays."""
        if self._wish:
            return
        for path in _files_of(self.path):
            path.unlink(missing_ok=True)
        if self._owner is not None:
            self._owner.let_go()
            self._owner = None
