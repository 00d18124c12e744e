"""A window paints in a turn of its own, and what follows from an edit is told in others."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QCoreApplication, QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QWidget

#: Milliseconds after which a window paints: what the pointer and keys did meanwhile goes first.
TURN_MS = 1
_INPUT = (
    QEvent.Type.KeyPress, QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonDblClick,
)  # fmt: skip


class PaintTurns(QObject):
    """Lets a window paint one turn after what made it.

    All that an edit changes is told in one turn, and Qt would paint it in the same: the window
    would be away from the pointer and the keys for both.

    Parameters
    ----------
    window : the window, which this belongs to
    """

    #: The window has painted what there was to paint.
    painted = Signal()

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
        self.painted.emit()


class BeforeInput(QObject):
    """Has something done before a key or a click reaches anything in a window.

    Parameters
    ----------
    window : the window, which this belongs to
    act : what is done; little, since the key waits for it
    """

    def __init__(self, window: QWidget, act: Callable[[], object]) -> None:
        super().__init__(window)
        self._window, self._act = window, act
        window.installEventFilter(self)
        self._follow_handle()

    def _follow_handle(self) -> None:
        # All input of a window comes through this, which is there once the window is shown.
        handle = self._window.windowHandle()
        if handle is not None:
            handle.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in _INPUT:
            self._act()
        elif event.type() == QEvent.Type.Show:
            self._follow_handle()
        return super().eventFilter(watched, event)
