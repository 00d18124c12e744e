"""The open job: edits with names, undo, saving, autosave."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from farbe.files.store import ArtStore
from farbe.layout.sides import turned_over, views
from farbe.model.base import BadInput
from farbe.model.job import Job

#: Former jobs that are kept; values share what did not change, so they are small.
KEPT_STEPS = 500


@dataclass(frozen=True)
class Step:
    """A job as it was before an edit of this name."""

    name: str
    before: Job
    group: str | None


class Session(QObject):
    """Holds the one current job and replaces it as a whole at each edit."""

    #: The job was replaced: by an edit, undo, opening or closing.
    changed = Signal()
    #: A job is about to be there.
    opening = Signal()
    #: A sentence for the user: why an edit cannot be, or what was done.
    said = Signal(str)

    def __init__(self, store: ArtStore, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.store = store
        self.path: Path | None = None
        self._job: Job | None = None
        self._shown: Job | None = None
        self._other_side = False
        self._saved: Job | None = None
        self._past: list[Step] = []
        self._future: list[Step] = []
        self._group: str | None = None

    @property
    def job(self) -> Job | None:
        """The job as it is looked at: from its other side, if that is being worked on."""
        return self._shown

    @property
    def whole(self) -> Job | None:
        """The job as it is saved and handed off: from its first side."""
        return self._job

    @property
    def other_side(self) -> bool:
        return self._other_side

    def look_at(self, *, other_side: bool) -> None:
        """Work on the first or the other side of a two-sided piece."""
        self._other_side = other_side
        self._set(self._job)

    def _set(self, job: Job | None) -> None:
        self._job = job
        self._other_side = self._other_side and job is not None and len(views(job)) > 1
        self._shown = turned_over(job) if job is not None and self._other_side else job
        self.changed.emit()

    @property
    def unsaved(self) -> bool:
        return self._job is not None and self._job != self._saved

    @property
    def undo_name(self) -> str | None:
        return self._past[-1].name if self._past else None

    @property
    def redo_name(self) -> str | None:
        return self._future[-1].name if self._future else None

    def edit(self, name: str, change: Callable[[Job], Job], *, group: str | None = None) -> bool:
        """Replace the job by what ``change`` makes of it.

        Parameters
        ----------
        name : of the edit, for the menu: "Choke"
        change : a pure function; what it refuses with BadInput is said and nothing changes
        group : edits of the same group in a row, as in one drag, are one step to undo

        Returns
        -------
        Whether the edit could be made.
        """
        if self._job is None or self._shown is None:
            return False
        try:
            made = change(self._shown)
            if self._other_side:
                made = turned_over(made)
        except BadInput as error:
            self.said.emit(str(error))
            return False
        if made == self._job:
            return True
        joined = group is not None and self._past and self._past[-1].group == group
        if not joined:
            self._past.append(Step(name, self._job, group))
            del self._past[:-KEPT_STEPS]
        self._future.clear()
        self._set(made)
        return True

    def amend(self, change: Callable[[Job], Job]) -> None:
        """Complete the last edit with what follows from it; undoing it undoes both."""
        if self._job is None or self._shown is None:
            return
        try:
            made = change(self._shown)
            made = turned_over(made) if self._other_side else made
        except BadInput as error:
            self.said.emit(str(error))
            return
        if made != self._job:
            self._set(made)

    def end_group(self) -> None:
        """The next edit is a step of its own even if it has the same group."""
        if self._past:
            last = self._past[-1]
            self._past[-1] = Step(last.name, last.before, None)

    def undo(self) -> None:
        if self._past and self._job is not None:
            step = self._past.pop()
            self._future.append(Step(step.name, self._job, None))
            self._set(step.before)

    def redo(self) -> None:
        if self._future and self._job is not None:
            step = self._future.pop()
            self._past.append(Step(step.name, self._job, None))
            self._set(step.before)

    def take(self, job: Job | None, path: Path | None = None, *, saved: bool = False) -> None:
        """Work on another job."""
        if job is not None:
            self.opening.emit()
        self.path, self._other_side = path, False
        self._saved = job if saved else None
        self._past.clear()
        self._future.clear()
        self._set(job)

    def was_saved(self, job: Job, path: Path) -> None:
        """A job was written to a file; it may have been edited since."""
        self.path, self._saved = path, job
        self.changed.emit()
