"""How chosen pockets are repeated as a grid."""

from __future__ import annotations

from collections.abc import Set

from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.amounts import parse_amount
from farbe.desk.session import Session
from farbe.edits.places import repeat_places
from farbe.layout.figures import bare_length, units
from farbe.model.base import BadInput
from farbe.said import say

#: More copies are typed by a slip.
MOST = 1000


class RepeatDialog(QDialog):
    """Columns, rows, and the way from one to the next."""

    def __init__(
        self, session: Session, numbers: Set[int], step: tuple[float, float], over: QWidget
    ) -> None:
        super().__init__(over.window())
        self._session, self._numbers = session, numbers
        self.setWindowTitle(say("Repeat pockets"))
        form = QFormLayout()
        self.columns = self._line(form, say("Columns"), "2")
        self.rows = self._line(form, say("Rows"), "1")
        across, along = (bare_length(way, 2) for way in step)
        self.across = self._line(form, say("Way across, {unit}", unit=units().value), across)
        self.along = self._line(form, say("Way along, {unit}", unit=units().value), along)
        self.words = QLabel()
        self.words.setWordWrap(True)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.words)
        column.addWidget(buttons)

    @staticmethod
    def _line(form: QFormLayout, name: str, text: str) -> QLineEdit:
        line = QLineEdit(text)
        line.setAccessibleName(name)
        form.addRow(name, line)
        return line

    def accept(self) -> None:
        try:
            counts = [round(parse_amount(line.text(), "")) for line in (self.columns, self.rows)]
            step = parse_amount(self.across.text()), parse_amount(self.along.text())
        except BadInput as error:
            self.words.setText(str(error))
            return
        columns, rows = counts
        if min(counts) < 1 or columns * rows > MOST:
            self.words.setText(say("1 to {most} pockets can be made at once.", most=MOST))
            return
        repeat_places(self._session, self._numbers, columns, rows, step)
        super().accept()
