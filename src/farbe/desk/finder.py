"""Ctrl+K: find every command by name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from farbe.desk.fields import ChoiceField, NumberField, TextField
from farbe.desk.inspector import Inspector
from farbe.desk.theme import fixed
from farbe.said import say


@dataclass(frozen=True)
class Command:
    name: str
    hint: str
    run: Callable[[], object]


def values_of(inspector: Inspector, hint: str, visit: Callable[[QWidget], object]) -> list[Command]:
    """Every value in an inspector by its name; of what this job has not, that is said."""
    kinds = (NumberField, TextField, ChoiceField)
    fields: list[NumberField | TextField | ChoiceField] = []
    for kind in kinds:
        fields += inspector.findChildren(kind)
    for field in fields:
        # Names tell units, which may have changed since it was seen.
        field.catch_up()
    return [
        Command(
            field.accessibleName(),
            hint if inspector.offers(field) else say("{hint}; not of this job", hint=hint),
            partial(visit, field),
        )
        for field in sorted(fields, key=inspector.offers, reverse=True)
    ]


class Finder(QDialog):
    """A line to type in and the commands and values whose names hold what is typed."""

    def __init__(self, commands: list[Command], parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._commands = commands
        self.setAccessibleName(say("Find a command or value"))
        fixed(self, wide=460, high=330)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 10, 10)
        self.line = QLineEdit()
        self.line.setPlaceholderText(say("Find a command or a value"))
        self.line.setAccessibleName(say("Find"))
        self.list = QListWidget()
        self.list.setAccessibleName(say("Found"))
        column.addWidget(self.line)
        column.addWidget(self.list)
        self.line.textChanged.connect(self._filter)
        self.line.installEventFilter(self)
        self.list.itemActivated.connect(self._run)
        self.list.itemClicked.connect(self._run)
        self._filter("")
        self.line.setFocus()
        self.move(parent.mapToGlobal(parent.rect().center()) - self.rect().center())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.line and isinstance(event, QKeyEvent):
            if event.type() != QEvent.Type.KeyPress:
                return False
            key, row = event.key(), self.list.currentRow()
            if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                row += 1 if key == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, row)))
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._run(self.list.currentItem())
                return True
        return False

    def _filter(self, text: str) -> None:
        words = text.casefold().split()
        self.list.clear()
        for command in self._commands:
            if all(word in f"{command.name} {command.hint}".casefold() for word in words):
                hint = f"   {command.hint}" if command.hint else ""
                item = QListWidgetItem(command.name + hint)
                item.setData(Qt.ItemDataRole.UserRole, command)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _run(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            command: Command = item.data(Qt.ItemDataRole.UserRole)
            self.close()
            command.run()
