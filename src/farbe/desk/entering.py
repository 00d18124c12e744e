"""What is typed in a field is entered when the field is left; keys do not leave it."""

from __future__ import annotations

from PySide6.QtGui import QTextDocument
from PySide6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit, QTextEdit, QWidget
from shiboken6 import isValid

#: The property of a field that says that what is in it was not taken.
REFUSED = "refused"


def enter_typed() -> None:
    """Enter what is being typed before something is done with it, as leaving its field would.

    Keys that save or turn the piece over leave the field that one types in as it is: the file would
    lack what is in it, and the other side get it.
    """
    field = QApplication.focusWidget()
    if isinstance(field, QLineEdit | QPlainTextEdit | QTextEdit):
        field.clearFocus()
        # A field of a list may have gone with that.
        if isValid(field) and field.isVisible():
            field.setFocus()


def forget_refused() -> None:
    """Have a field that was refused show the job again: another one comes, or another side."""
    field = QApplication.focusWidget()
    if isinstance(field, QLineEdit | QPlainTextEdit) and field.property(REFUSED):
        typed_into(field).setModified(False)


def typed_into(field: QLineEdit | QPlainTextEdit) -> QLineEdit | QTextDocument:
    """What knows whether anything is typed in a field that was not entered."""
    return field.document() if isinstance(field, QPlainTextEdit) else field


def all_taken(widget: QWidget) -> bool:
    """Enter what is being typed, and whether no field that one sees is refused.

    What such a field shows is not in the job, which is then not kept, sent or printed. The field
    gets the keys, and says why once more.

    Parameters
    ----------
    widget : any of the window
    """
    enter_typed()
    window = widget.window()
    fields: list[QLineEdit | QPlainTextEdit] = [
        *window.findChildren(QLineEdit), *window.findChildren(QPlainTextEdit)
    ]  # fmt: skip
    for field in fields:
        if field.property(REFUSED) and field.isVisible():
            field.setFocus()
            field.selectAll()
            if isinstance(field, QLineEdit):
                # It is silent when it is left as it was when it was left before.
                field.editingFinished.emit()
            else:
                enter_typed()
            return False
    return True
