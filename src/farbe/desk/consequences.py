"""What follows from edits, worked out in a worker and put into the job that asked for it."""

from __future__ import annotations

from PySide6.QtCore import QObject

from farbe.apart.asking import ask
from farbe.apart.untold import untold
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.edits.consequences import asks_for_more, settled, with_consequences
from farbe.layout.faced import Faced
from farbe.said import say


class Consequences(QObject):
    """Completes each edit with what follows from it; undoing the edit undoes both."""

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._session, self._workers = session, workers
        self._before: Faced | None = None
        session.opening.connect(self._forget)
        session.changed.connect(self._changed)

    def _forget(self) -> None:
        """Another job comes: it is not an edit of the one before."""
        self._before = None

    def _changed(self) -> None:
        job, before = self._session.job, self._before
        self._before = job
        if job is not None and asks_for_more(before, job):
            self.start()

    def start(self) -> None:
        """Lay the artworks of a film anew."""
        job, store = self._session.job, self._session.store
        if job is not None:
            self._workers.start(
                "nest",
                lambda r: ask(untold, settled, job, store, report=r),
                lambda made: self._session.amend(lambda now: with_consequences(now, job, made)),
                title=say("Laying artworks on the film"),
            )
