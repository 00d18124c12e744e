"""Widgets that show something of the job."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import SignalInstance
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QWidget

from farbe.desk.session import Session

# It goes before a widget's own class, and is none itself.
if TYPE_CHECKING:
    _Widget = QWidget
else:
    _Widget = object


class Following(_Widget):
    """A widget that is refreshed at each edit; while nobody sees it, when it is shown again.

    There are hundreds of them, and an edit waits for all that follow it.
    """

    _stale = False

    def follow(self, session: Session, *more: SignalInstance) -> None:
        """Show the job as it is, and from now on.

        Parameters
        ----------
        session : whose job it is
        *more : signals of what else is shown
        """
        for changed in (session.changed, *more):
            changed.connect(self._catch_up)
        self.refresh()

    def refresh(self) -> None:
        """Show the job's value."""
        raise NotImplementedError

    def _catch_up(self) -> None:
        self._stale = not self.isVisible()
        if not self._stale:
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        if self._stale:
            self._stale = False
            self.refresh()
        super().showEvent(event)
