"""What is typed in a field is entered when the field is left; keys do not leave it."""

from __future__ import annotations

from collections.abc import Callable

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
    if isinstance(field, QLineEdit) and field.property(REFUSED):
        field.setModified(False)


def once_taken(widget: QWidget, act: Callable[[], object]) -> Callable[..., None]:
    """What keeps, sends or prints a job: it is not done while a field that one sees is refused.

    What such a field shows is not in the job. It gets the keys, and says why once more.

    Parameters
    ----------
    widget : any of the window
    act : what is done

    Returns
    -------
    What a button or an action is connected to.
    """

    def do(*_: object) -> None:
        # Not every click leaves the field that one types in.
        enter_typed()
        fields = widget.window().findChildren(QLineEdit)
        refused = [field for field in fields if field.property(REFUSED) and field.isVisible()]
        for field in refused[:1]:
            field.setFocus()
            field.selectAll()
            field.editingFinished.emit()
        if not refused:
            act()

    return do
