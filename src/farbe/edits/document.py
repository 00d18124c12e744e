"""The open job: named edits, undo, and what follows from an edit. It knows nothing of windows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Protocol

from farbe.edits.differences import ValueWay, differences
from farbe.edits.guesses import settled_guesses
from farbe.layout.faced import Faced
from farbe.model.job import Job

#: Former jobs that are kept; values share what did not change, so they are small.
KEPT_STEPS = 500

Change = Callable[[Faced], Faced]


class Editor(Protocol):
    """Whoever can edit a job: a document, or what shows one."""

    @property
    def job(self) -> Faced | None:
        """The job as it is looked at."""

    def edit(self, name: str, change: Change, *, joins: bool = False) -> bool:
        """Make an edit; whether it could be made. See :meth:`Document.edit`.

        Parameters
        ----------
        name : of the edit, as the menu says it
        change : makes the new job of the old one
        joins : whether it goes on with the last one of that name, so that both are one undo
        """


@dataclass(frozen=True)
class UndoStep:
    """A job as it was before an edit.

    Attributes
    ----------
    name : of the edit, for the menu
    before : the job
    values : which values the edit changed, if more of the same action may come
    """

    name: str
    before: Job
    values: frozenset[ValueWay] | None = None


class Document:
    """Holds the one current job, and which of its faces is looked at.

    A job is replaced as a whole at each edit. Edits that change the same values in one action,
    as a drag does, are one step to undo; :meth:`end_action` closes it.
    """

    def __init__(self) -> None:
        self.path: Path | None = None
        self._job: Job | None = None
        self._seen: Faced | None = None
        self._face = 0
        self._saved: Job | None = None
        self._past: list[UndoStep] = []
        self._future: list[UndoStep] = []

    @property
    def job(self) -> Faced | None:
        """The job as the face has it that is looked at."""
        return self._seen

    @property
    def first(self) -> Faced | None:
        """The job as its first face has it: as it is printed and handed off."""
        return self._seen.first if self._seen is not None else None

    @property
    def face(self) -> int:
        """The number of the face that is looked at."""
        return self._face

    def has(self, face: int) -> bool:
        """Whether the job has a face; the first one any job has, also one that is yet to come.

        Parameters
        ----------
        face : its number, 0 or 1
        """
        return face == 0 or (self._job is not None and face < len(self._job.faces))

    def look_at(self, face: int) -> None:
        """Look at a face, 0 or 1; a job that lacks it is looked at from its first.

        Parameters
        ----------
        face : its number, 0 or 1
        """
        self._face = face
        self._set(self._job)

    def _set(self, job: Job | None) -> None:
        self._job = job
        if job is None or self._face >= len(job.faces):
            self._face = 0
        self._seen = None if job is None else Faced(job, self._face)

    @property
    def unsaved(self) -> bool:
        job, saved = self._job, self._saved
        if job is None or job is saved or saved is None:
            return job is not None and saved is None
        # That its guide was made is noted, and kept when it is saved; nobody is asked for that.
        return job.model_copy(update={"made_guide": saved.made_guide}) != saved

    @property
    def undo_name(self) -> str | None:
        return self._past[-1].name if self._past else None

    @property
    def redo_name(self) -> str | None:
        return self._future[-1].name if self._future else None

    def edit(self, name: str, change: Change, *, joins: bool = False) -> bool:
        """Replace the job by what ``change`` makes of it.

        Parameters
        ----------
        name : of the edit, for the menu: "Choke"
        change : a pure function of the job as it is looked at
        joins : the edit is part of an action; it is undone together with the one before it, if
            that changed a value which this one changes too and the action has not ended

        Returns
        -------
        Whether anything changed.

        Raises
        ------
        BadInput
            If such a job cannot be; nothing has changed then.
        """
        if self._job is None or self._seen is None:
            return False
        made = settled_guesses(self._job, change(self._seen).job)
        values = differences(self._job, made)
        if not values:
            return False
        last = self._past[-1] if self._past else None
        if joins and last is not None and last.values is not None and last.values & values:
            self._past[-1] = replace(last, values=last.values | values)
        else:
            self._past.append(UndoStep(name, self._job, values if joins else None))
            del self._past[:-KEPT_STEPS]
        self._future.clear()
        self._set(made)
        return True

    def amend(self, change: Change) -> bool:
        """Complete the last edit with what follows from it; undoing it undoes both.

        Returns whether anything changed; raises BadInput as :meth:`edit`.

        Parameters
        ----------
        change : makes the new job of the old one

        Raises
        ------
        BadInput
            With one sentence that says what is wrong.
        """
        if self._job is None or self._seen is None:
            return False
        made = change(self._seen).job
        changed = made != self._job
        if changed:
            self._set(made)
        return changed

    @property
    def is_in_action(self) -> bool:
        """Whether the last edit is part of an action that has not ended."""
        return bool(self._past) and self._past[-1].values is not None

    def end_action(self) -> None:
        """The next edit is a step of its own, even if it changes the same values."""
        if self._past:
            self._past[-1] = replace(self._past[-1], values=None)

    def undo(self) -> None:
        if self._past and self._job is not None:
            step = self._past.pop()
            self._future.append(UndoStep(step.name, self._job))
            self._go_to(self._job, step.before)

    def redo(self) -> None:
        if self._future and self._job is not None:
            step = self._future.pop()
            self._past.append(UndoStep(step.name, self._job))
            self._go_to(self._job, step.before)

    def _go_to(self, now: Job, other: Job) -> None:
        """Put another job in place of one, and look at the face in which alone they differ."""
        self._set(other)
        both = enumerate(zip(now.faces, other.faces, strict=False))
        differ = [face for face, (one, another) in both if one != another]
        if len(differ) == 1:
            self.look_at(differ[0])

    def take(self, job: Job | None, path: Path | None = None, *, saved: bool = False) -> None:
        """Work on another job, from its first face.

        Parameters
        ----------
        job : to work on, or that was saved
        path : of its file; None without one
        saved : whether it is as its file is
        """
        self.path, self._face = path, 0
        self._saved = job if saved else None
        self._past.clear()
        self._future.clear()
        self._set(job)

    def was_saved(self, job: Job, path: Path) -> None:
        """A job was written to a file; it may have been edited since.

        Parameters
        ----------
        job : to work on, or that was saved
        path : of its file; None without one
        """
        self.path, self._saved = path, job
