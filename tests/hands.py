"""What an operator's hands and eyes do with a window, for tests."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton, QWidget

from farbe.desk.fields import NumberField
from farbe.desk.window import MainWindow
from farbe.layout.faced import Faced
from farbe.plan.stations import Station


class Painted(QObject):
    """Which of some widgets were painted, in turn; each time that a window paints has a mark."""

    def __init__(self, window: QWidget, **watched: QWidget) -> None:
        super().__init__(window)
        self.order: list[str] = []
        self.names = list(watched)
        self._names: dict[QObject, str] = {widget: name for name, widget in watched.items()}
        for widget in (window, *watched.values()):
            widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() is QEvent.Type.UpdateRequest:
            self.order.append("turn")
        elif event.type() is QEvent.Type.Paint and watched in self._names:
            self.order.append(self._names[watched])
        return False


def field(window: MainWindow, station: Station, name: str) -> NumberField:
    """The field for a figure whose name begins so."""
    inspector = window.bench.views[station].inspector  # type: ignore[union-attr]
    return next(
        f for f in inspector.findChildren(NumberField) if f.accessibleName().startswith(name)
    )


def control(form: QWidget, name: str) -> QWidget:
    """The control of a name; its unit may follow."""
    kinds = (QComboBox, QLineEdit, QPushButton)
    found = [w for kind in kinds for w in form.findChildren(kind)
             if w.accessibleName().split(",")[0] == name]  # fmt: skip
    return found[0]


def choose(box: QWidget, index: int) -> None:
    """Take an entry of a menu."""
    assert isinstance(box, QComboBox)
    box.setCurrentIndex(index)
    box.activated.emit(index)


def type_into(target: QWidget, text: str) -> None:
    """Type over what is in a field, and enter it."""
    target.setFocus()
    target.selectAll()  # type: ignore[attr-defined]
    QTest.keyClicks(target, text)
    QTest.keyClick(target, Qt.Key.Key_Return)


def job_line_text(window: MainWindow) -> str:
    """What the job line says once an edit is drawn."""
    while window.workers.busy("job line"):
        QApplication.processEvents()
    return " · ".join(link.text() for link in window.job_line._links if not link.isHidden())


def now(window: MainWindow) -> Faced:
    """The job as it is looked at."""
    job = window.session.job
    assert job is not None
    return job


def grabbed(widget: QWidget) -> np.ndarray:
    """What a widget shows, int (height, width, 3)."""
    return pixels_of(widget.grab().toImage())


def pixels_of(image: QImage) -> np.ndarray:
    """The colours of an image, int (height, width, 3)."""
    image = image.convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1)
    return rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3).astype(int)
