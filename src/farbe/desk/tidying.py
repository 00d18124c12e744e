"""Looks through all of memory for what can go, while nobody waits for the window."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from farbe.memory import leave_standing, let_go

# What they need is slow to load, and this is there from the start page on.
if TYPE_CHECKING:
    from farbe.desk.session import Session
    from farbe.desk.workers import Workers

#: Milliseconds after an edit in which the next one may come.
QUIET_MS = 5000


class Tidying(QObject):
    """From now on Python looks through new things alone by itself, and through all in pauses.

    To look through all takes longer than a window may wait.
    """

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._workers = workers
        self.pause = QTimer(self, singleShot=True, interval=QUIET_MS)
        self.pause.timeout.connect(self._tidy)
        session.changed.connect(self.pause.start)
        leave_standing()

    def _tidy(self) -> None:
        if self._workers.busy():
            self.pause.start()
        else:
            let_go()
