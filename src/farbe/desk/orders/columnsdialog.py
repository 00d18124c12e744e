"""Which column of a list says what; asked once for lists of one kind."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from farbe.desk.form import Form
from farbe.desk.orders.plandesk import ToMatch
from farbe.orders.columns import NEEDED
from farbe.said import say

#: What is asked for, in words, by the names of the fields.
ASKED = {
    "order": say("Order"),
    "product": say("Product"),
    "artwork": say("Artwork"),
    "quantity": say("Pieces"),
    "due": say("Due"),
    "note": say("Note"),
    "cancelled": say("Cancelled"),
}


class ColumnsDialog(QDialog):
    """A choice of column for each thing that a list may say."""

    def __init__(self, found: ToMatch, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("Columns of {list}", list=found.path.name))
        form = Form()
        form.words(
            say("Which column says what? It is remembered for lists with the same columns; other "
                "columns are texts that products may name.")
        )  # fmt: skip
        self.boxes: dict[str, QComboBox] = {}
        for name, words in ASKED.items():
            box = QComboBox()
            box.setAccessibleName(say("Column of {field}", field=words))
            box.addItem(say("none"), "")
            for column in found.columns:
                box.addItem(column, column)
            known = found.guessed.get(name)
            box.setCurrentIndex(0 if known is None else found.columns.index(known) + 1)
            box.currentIndexChanged.connect(lambda _: self._follow())
            form.row(words, box)
            self.boxes[name] = box
        buttons = QDialogButtonBox()
        self.go = buttons.addButton(say("Plan the list"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(say("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        page = QVBoxLayout(self)
        page.addWidget(form)
        page.addWidget(buttons)
        self._follow()

    def _follow(self) -> None:
        chosen = [column for column in self.stated.values() if column]
        enough = all(self.stated[name] for name in NEEDED)
        self.go.setEnabled(enough and len(set(chosen)) == len(chosen))

    @property
    def stated(self) -> dict[str, str]:
        """The column of each field; empty where no column says it."""
        return {name: str(box.currentData()) for name, box in self.boxes.items()}
