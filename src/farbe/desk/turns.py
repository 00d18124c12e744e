"""A window paints in a turn of its own."""

from __future__ import annotations

from PySide6.QtCore import QCoreApplication, QEvent, QObject, Qt, QTimer
from PySide6.QtWidgets import QWidget

#: Milliseconds after which a window paints: what the pointer and keys did meanwhile goes first.
TURN_MS = 1


class PaintTurns(QObject):
    """Lets a window paint one turn after what made it.

    All that an edit changes is told in one turn, and Qt would paint it in the same: the window
    would be away from the pointer and the keys for both.

    Parameters
    ----------
    window : the window, which this belongs to
    """

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._painting = False
        self._next = QTimer(self, singleShot=True, interval=TURN_MS)
        self._next.setTimerType(Qt.TimerType.PreciseTimer)
        self._next.timeout.connect(self._paint)
        window.installEventFilter(self)

    @property
    def waiting(self) -> bool:
        """Whether there is something to paint in the next turn."""
        return self._next.isActive()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if self._painting or event.type() != QEvent.Type.UpdateRequest:
            return super().eventFilter(watched, event)
        if not self.waiting:
            self._next.start()
        return True

    def _paint(self) -> None:
        self._painting = True
        try:
            QCoreApplication.sendEvent(self._window, QEvent(QEvent.Type.UpdateRequest))
        finally:
            self._painting = False
