"""Widgets that show something of the job."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import SignalInstance
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QWidget

from farbe.desk.session import Session

# It goes before a widget's own class, and is none itself.
if TYPE_CHECKING:
    _Widget = QWidget
else:
    _Widget = object


class CatchesUp:
    """What shows something of a session's job, and shows it anew where that was edited since."""

    _followed: Session
    _edition = -1
    _stale = False

    def refresh(self) -> None:
        """Show the job's value."""
        raise NotImplementedError

    @property
    def is_behind(self) -> bool:
        """Whether the job, or what else is shown, is another than when it was shown."""
        return self._stale or self._edition != self._followed.edition

    def catch_up(self) -> None:
        """Show the job as it is now, also where nobody sees it."""
        if self.is_behind:
            self._stale, self._edition = False, self._followed.edition
            self.refresh()


class Following(CatchesUp, _Widget):
    """A widget that is refreshed at each edit; while nobody sees it, when it is shown again.

    There are hundreds of them, and an edit waits for all that follow it.
    """

    #: It is told of an edit in the turn of the edit itself.
    AT_ONCE = False
    #: It shows the job not in the turn in which it comes into view, but in a later one.
    SHOWN_LATER = False
    _led = False

    def follow(self, session: Session, *more: SignalInstance) -> None:
        """Show the job as it is, and from now on.

        Parameters
        ----------
        session : whose job it is
        *more : signals of what else is shown
        """
        self._followed = session
        for changed in more:
            changed.connect(self._changed)
        if self.isVisible():
            session.seen_by(self, at_once=self.AT_ONCE)
        self.catch_up()

    def be_led(self) -> None:
        """Wait for what it lies in to refresh it, which knows when it has to be, at edits."""
        self._led = True
        self._followed.no_longer_seen_by(self)

    def _changed(self) -> None:
        self._stale = True
        if self.isVisible():
            self.catch_up()

    def showEvent(self, event: QShowEvent) -> None:
        if not self._led:
            self._followed.seen_by(self, at_once=self.AT_ONCE)
        if not self.SHOWN_LATER:
            self.catch_up()
        elif self.is_behind:
            self._followed.tell_later()
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        self._followed.no_longer_seen_by(self)
        super().hideEvent(event)
