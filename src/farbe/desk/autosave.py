"""Unsaved work is kept on disk, so that nothing is lost when the process is killed."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.files.jobfile import SUFFIX, save_job
from farbe.folders import state_folder

DELAY_MS = 1500


def autosave_folder() -> Path:
    return state_folder() / "unsaved"


def left_behind() -> list[Path]:
    """Jobs of processes that ended without closing them, the newest first."""
    folder = autosave_folder()
    found = []
    for path in folder.glob(f"*{SUFFIX}") if folder.is_dir() else ():
        owner = path.name.split("-")[0]
        if not (owner.isdigit() and Path(f"/proc/{owner}").exists()):
            found.append(path)
    return sorted(found, key=lambda path: path.stat().st_mtime, reverse=True)


class Autosave(QObject):
    """Writes the job a moment after the last edit, in a worker; gone once saved or closed."""

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._session, self._workers = session, workers
        self.path = autosave_folder() / f"{os.getpid()}-{id(session)}{SUFFIX}"
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

    def write(self, then: Callable[[], object] = lambda: None) -> None:
        """Write now, in a worker; ``then`` is called when the copy is whole."""
        job, store = self._session.first, self._session.store
        if job is None:
            return
        self.path.parent.mkdir(parents=True, exist_ok=True)
        self._workers.start(
            "autosave", lambda _: save_job(job.job, store, self.path), lambda _: then()
        )

    def discard(self) -> None:
        """The job is safe elsewhere, or given up by its user."""
        self._timer.stop()
        self._workers.cancel("autosave")
        self.path.unlink(missing_ok=True)
