"""What is typed in a field is entered when the field is left; keys do not leave it."""

from __future__ import annotations

from PySide6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit, QTextEdit
from shiboken6 import isValid


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
