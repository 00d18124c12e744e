"""Entries of the queue as rows: filtered, dragged, noted on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QMimeData,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from farbe.desk.theme import px, theme
from farbe.layout.figures import decimal
from farbe.plan.sentence import duration
from farbe.queue.store import Entry, State
from farbe.said import say, spoken

HEADS = (
    say("No."),
    say("Job"),
    say("Printer"),
    say("State"),
    say("Pieces"),
    say("Time"),
    say("Ink"),
    say("Price"),
    say("Note"),
)
NOTE = len(HEADS) - 1
_WIDTHS = (40, 156, 124, 100, 60, 58, 66, 66)
_KIND = "application/x-farbe-entries"
ModelIndex = QModelIndex | QPersistentModelIndex


class Entries(QAbstractTableModel):
    """Entries as rows; only what is seen is asked for, however many there are."""

    #: Entries were dropped before another one, by their numbers; None is behind all.
    dropped = Signal(list, object)
    #: The operator noted something about an entry.
    remarked = Signal(int, str)

    def __init__(self, currency: str) -> None:
        super().__init__()
        self._currency = currency
        self.entries: tuple[Entry, ...] = ()
        #: Whether rows can be dragged, which those of the past cannot.
        self.ordered = True

    def show(self, entries: tuple[Entry, ...]) -> bool:
        """Show entries; whether they are others than before."""
        if entries == self.entries:
            return False
        self.beginResetModel()
        self.entries = entries
        self.endResetModel()
        return True

    def rowCount(self, parent: ModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.entries)

    def columnCount(self, parent: ModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _aligned(section)
        return HEADS[section] if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: ModelIndex, role: int = 0) -> Any:
        entry = self.entries[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self._words(entry)[index.column()]
        if role == Qt.ItemDataRole.EditRole:
            return entry.remark
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _aligned(index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            return "\n".join(filter(None, (entry.remark, entry.note))) or None
        return None

    def setData(self, index: ModelIndex, value: Any, role: int = 0) -> bool:
        entry = self.entries[index.row()]
        if role != Qt.ItemDataRole.EditRole or index.column() != NOTE or value == entry.remark:
            return False
        self.remarked.emit(entry.number, str(value))
        return True

    def flags(self, index: ModelIndex) -> Qt.ItemFlag:
        flags = super().flags(index)
        if not index.isValid():
            return flags | Qt.ItemFlag.ItemIsDropEnabled if self.ordered else flags
        if self.ordered:
            flags |= Qt.ItemFlag.ItemIsDragEnabled
        return flags | Qt.ItemFlag.ItemIsEditable if index.column() == NOTE else flags

    # dragging

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        return [_KIND]

    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        rows = sorted({index.row() for index in indexes})
        numbers = " ".join(str(self.entries[row].number) for row in rows)
        data = QMimeData()
        data.setData(_KIND, numbers.encode("ascii"))
        return data

    def dropMimeData(
        self, data: QMimeData, action: Qt.DropAction, row: int, column: int, parent: ModelIndex
    ) -> bool:
        if action is Qt.DropAction.IgnoreAction or not data.hasFormat(_KIND):
            return False
        numbers = [int(one) for one in bytes(data.data(_KIND).data()).decode("ascii").split()]
        at = parent.row() if parent.isValid() else row
        before = self.entries[at].number if 0 <= at < len(self.entries) else None
        self.dropped.emit(numbers, before)
        # The queue moves them; the table shows what it then says.
        return False

    def _words(self, entry: Entry) -> tuple[str, ...]:
        ready = entry.prepared and entry.state in (State.WAITING, State.HELD)
        state = entry.state.words + (say(", prepared") if ready else "")
        if entry.asked and entry.state is State.WAITING:
            state = say("prints next")
        said = " · ".join(filter(None, (entry.remark, entry.note)))
        return (
            str(entry.number), _name(entry), spoken(entry.lane), state,
            str(entry.pieces), duration(entry.seconds), f"{decimal(entry.ink_ml, 2)} ml",
            f"{decimal(entry.price, 2)} {self._currency}",
            said or entry.ended[:16].replace("T", " "),
        )  # fmt: skip


def _name(entry: Entry) -> str:
    """An entry's name; what shares a board is set off under the one that leads."""
    if not entry.nest:
        return entry.name
    return f"▾ {entry.name}" if entry.nest == entry.number else f"   + {entry.name}"


def _aligned(column: int) -> int:
    """Figures to the right, words to the left."""
    figures = column in (0, 4, 5, 6, 7)
    side = Qt.AlignmentFlag.AlignRight if figures else Qt.AlignmentFlag.AlignLeft
    return int(side | Qt.AlignmentFlag.AlignVCenter)


class EntryTable(QTableView):
    """A table that says what it is for while it is empty."""

    empty = ""

    def __init__(self, model: Entries) -> None:
        super().__init__()
        self.setModel(model)
        self.setAccessibleName(say("Jobs in the queue"))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDragDropOverwriteMode(False)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        head = self.horizontalHeader()
        self._fit_columns()
        head.setSectionResizeMode(NOTE, QHeaderView.ResizeMode.Stretch)

    def _fit_columns(self) -> None:
        """Columns as wide as their text is large."""
        self.verticalHeader().setDefaultSectionSize(px(24))
        for place, wide in enumerate(_WIDTHS):
            self.setColumnWidth(place, px(wide))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.FontChange and self.model() is not None:
            self._fit_columns()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.model().rowCount():
            painter = QPainter(self.viewport())
            painter.setPen(QColor(theme().faint))
            painter.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter, self.empty)
            painter.end()
