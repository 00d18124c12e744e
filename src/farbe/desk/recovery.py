"""Unsaved jobs of windows that ended suddenly, offered until they are opened or thrown away."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.autosave import LeftBehind
from farbe.said import say

#: Height of a job's row in pixels.
ROW = 30


class RecoveryDialog(QDialog):
    """The jobs by name and time; one is opened, some are thrown away, the rest stay."""

    def __init__(self, parent: QWidget, found: list[LeftBehind]) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("Unsaved jobs"))
        #: The one to be opened, when the dialog is accepted.
        self.chosen: LeftBehind | None = None
        column = QVBoxLayout(self)
        column.addWidget(
            QLabel(
                say(
                    "Farbe ended without saving these. What you do not open or throw away stays, "
                    "and is under Job, Unsaved jobs."
                )
            )
        )
        self.jobs = QListWidget()
        self.jobs.setAccessibleName(say("Unsaved jobs"))
        for one in found:
            item = QListWidgetItem(one.words)
            item.setData(Qt.ItemDataRole.UserRole, one)
            item.setSizeHint(QSize(0, ROW))
            item.setToolTip("" if one.path is None else str(one.path))
            self.jobs.addItem(item)
        self.jobs.setCurrentRow(0)
        self.jobs.itemDoubleClicked.connect(lambda _: self._open())
        column.addWidget(self.jobs)
        buttons = QDialogButtonBox()
        self.open_button = buttons.addButton(say("Open"), QDialogButtonBox.ButtonRole.AcceptRole)
        self.throw_button = buttons.addButton(
            say("Throw away"), QDialogButtonBox.ButtonRole.DestructiveRole
        )
        self.later_button = buttons.addButton(say("Later"), QDialogButtonBox.ButtonRole.RejectRole)
        self.open_button.clicked.connect(self._open)
        self.throw_button.clicked.connect(self._throw)
        self.later_button.clicked.connect(self.reject)
        column.addWidget(buttons)
        self.resize(460, 260)

    def _current(self) -> LeftBehind | None:
        item = self.jobs.currentItem()
        found = None if item is None else item.data(Qt.ItemDataRole.UserRole)
        return found if isinstance(found, LeftBehind) else None

    def _open(self) -> None:
        self.chosen = self._current()
        if self.chosen is not None:
            self.accept()

    def _throw(self) -> None:
        one = self._current()
        if one is not None:
            one.throw_away()
            self.jobs.takeItem(self.jobs.currentRow())
        if not self.jobs.count():
            self.reject()
