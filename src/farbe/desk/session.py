"""The document as the window has it: its changes as signals."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Protocol, TypeVar

from PySide6.QtCore import QObject, Signal
from shiboken6 import isValid

from farbe.edits.document import Change, Document
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.said import say

Made = TypeVar("Made")
#: By what it is known that those who show something of the job are told of an edit.
SEEN = "seen"


class Seen(Protocol):
    """What shows something of the job and is seen."""

    def catch_up(self) -> None:
        """Show the job as it is now."""


class Session(QObject):
    """One document and the files that its job names; says what happens to it."""

    #: The job was replaced: by an edit, undo, opening or closing.
    changed = Signal()
    #: A job is about to be there.
    opening = Signal()
    #: Another face is about to be looked at.
    turning = Signal()
    #: A sentence for the user: why an edit cannot be, or what was done.
    said = Signal(str)

    def __init__(self, store: ArtStore, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.store = store
        self.document = Document()
        #: Counts what happened to the job.
        self.edition = 0
        #: Counts the jobs that were opened here, and left.
        self._opened = 0
        #: A face is acted on that is not looked at: nothing is told meanwhile.
        self._aside = False
        #: What is seen, and whether it is to be told in the turn of the change itself.
        self._seen: dict[Seen, bool] = {}
        #: Does something by a name once the window has drawn the change; at once, where none draws.
        self.once_drawn: Callable[[str, Callable[[], object]], object] = lambda _, act: act()

    def seen_by(self, one: Seen, *, at_once: bool = False) -> None:
        """Have it catch up at each change, once what shows the change itself was drawn.

        Each slot waits for its turn at Python while threads work; these are told in one.

        Parameters
        ----------
        one : is seen
        at_once : it shows the change itself, as a picture does that is dragged
        """
        self._seen[one] = at_once

    def no_longer_seen_by(self, one: Seen) -> None:
        """Leave it alone until it is shown again."""
        self._seen.pop(one, None)

    def tell(self) -> None:
        """Have all that is told of the job told anew."""
        if self._aside:
            return
        self.edition += 1
        self.changed.emit()
        self._tell_seen(at_once=True)
        # After the picture that was just asked for, which may be nearly there.
        self.tell_later()

    def tell_later(self) -> None:
        """Have what is seen catch up once what is drawn at once is drawn."""
        self.once_drawn(SEEN, lambda: self._tell_seen(at_once=False))

    def _tell_seen(self, *, at_once: bool) -> None:
        for one in [one for one, first in self._seen.items() if first is at_once]:
            if not isValid(one):
                # It went with what it lay in.
                self.no_longer_seen_by(one)
            elif one in self._seen:
                one.catch_up()

    @property
    def job(self) -> Faced | None:
        """The job as it is looked at: from its other side, if that is being worked on."""
        return self.document.job

    @property
    def first(self) -> Faced | None:
        """The job as it is saved and handed off: from its first side."""
        return self.document.first

    @property
    def other_side(self) -> bool:
        return self.document.face == 1

    @property
    def path(self) -> Path | None:
        return self.document.path

    @property
    def unsaved(self) -> bool:
        return self.document.unsaved

    @property
    def undo_name(self) -> str | None:
        return self.document.undo_name

    @property
    def redo_name(self) -> str | None:
        return self.document.redo_name

    def look_at(self, *, other_side: bool) -> None:
        """Work on the first or the other face."""
        self.turning.emit()
        self.document.look_at(1 if other_side else 0)
        self.tell()

    def edit(self, name: str, change: Change, *, joins: bool = False) -> bool:
        """Make an edit; what it refuses with BadInput is said. See :meth:`Document.edit`.

        Returns whether the edit could be made, also where it changed nothing.
        """
        return self.job is not None and self._tried(
            lambda: self.document.edit(name, change, joins=joins)
        )

    def amend(self, change: Change) -> None:
        """Complete the last edit with what follows from it; undoing it undoes both."""
        self._tried(lambda: self.document.amend(change))

    def _tried(self, act: Callable[[], bool]) -> bool:
        try:
            changed = act()
        except BadInput as error:
            self.said.emit(str(error))
            return False
        if changed:
            self.tell()
        return True

    def take_back(self, before: Faced | None) -> None:
        """End an action that is half done, and undo it if it changed the job.

        What was not part of it, as artwork that came meanwhile, is not undone.

        Parameters
        ----------
        before : the job as it was when the action began
        """
        own = self.document.is_in_action
        self.end_action()
        if own and before is not None and self.job != before:
            self.undo()

    def end_action(self) -> None:
        """The next edit is a step of its own even if it changes the same values."""
        self.document.end_action()

    def undo(self) -> None:
        self.document.undo()
        self.tell()

    def redo(self) -> None:
        self.document.redo()
        self.tell()

    def for_this_job(
        self,
        put: Callable[[Made], object],
        otherwise: Callable[[Made], object] | None = None,
        *,
        of: QObject | None = None,
    ) -> Callable[[Made], None]:
        """What takes the result of work for the job that is open now, and for no other one.

        Work takes its time, and meanwhile another job may have been opened; ``otherwise`` takes
        the result then, or else it is said that it is left out. So it is where ``of`` is gone, a
        row of a layer or a step that is not shown any more, or the face that it is for. If another
        face is looked at by then, the result is of the one that was.
        """
        opened, face, gone = self._opened, self.document.face, list[bool]()
        if of is not None:
            of.destroyed.connect(lambda: gone.append(True))

        def put_there(made: Made) -> None:
            if self._opened == opened and (gone or not self.document.has(face)):
                self.said.emit(
                    say("What was worked out is left out: what it was for is not shown any more.")
                )
            elif self._opened == opened:
                with self._facing(face):
                    put(made)
            elif otherwise is not None:
                otherwise(made)
            else:
                self.said.emit(say("What was worked out for the job before is left out."))

        return put_there

    @contextmanager
    def _facing(self, face: int) -> Iterator[None]:
        """Edit a face also where another one is looked at; what changes is told afterwards."""
        looked = self.document.face
        if face == looked:
            yield
            return
        before = self.document.first
        self.document.look_at(face)
        self._aside = True
        try:
            yield
        finally:
            self._aside = False
            self.document.look_at(looked)
        if self.document.first != before:
            self.tell()

    def take(self, job: Job | None, path: Path | None = None, *, saved: bool = False) -> None:
        """Work on another job."""
        self._opened += 1
        self._show(job, path, saved=saved)

    def begin(self, job: Job) -> None:
        """Work on a job made of what came in without one; what still comes in is for it."""
        self._show(job, None, saved=False)

    def _show(self, job: Job | None, path: Path | None, *, saved: bool) -> None:
        if job is not None:
            self.opening.emit()
        self.document.take(job, path, saved=saved)
        self.tell()

    def was_saved(self, job: Job, path: Path) -> None:
        """A job was written to a file; it may have been edited since."""
        self.document.was_saved(job, path)
        self.tell()
