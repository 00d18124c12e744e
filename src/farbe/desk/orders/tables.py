"""Loads, orders and rows that cannot be made, as tables."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QEvent, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from farbe.desk.theme import px, theme
from farbe.orders.order import Order, Refused
from farbe.orders.plan import Load, Plan
from farbe.said import say

ModelIndex = QModelIndex | QPersistentModelIndex
LOAD_HEADS = (say("No."), say("Load"), say("Pieces"), say("Due"), say("State"))
ORDER_HEADS = (say("Order"), say("Product"), say("Pieces"), say("Due"), say("State"),
               say("Where"), say("Text"))  # fmt: skip


class Rows(QAbstractTableModel):
    """Rows of words; of rows that cannot be made, the list's own fields can be changed."""

    def __init__(self, heads: Sequence[str], figures: frozenset[int] = frozenset()) -> None:
        super().__init__()
        self._heads, self._figures = tuple(heads), figures
        self.rows: list[tuple[str, ...]] = []
        self.keys: list[Any] = []
        #: From which column on fields may be changed; None nowhere.
        self.editable: int | None = None
        self.changes: dict[tuple[int, int], str] = {}

    def show(
        self, rows: Sequence[tuple[str, ...]], keys: Sequence[Any],
        heads: Sequence[str] | None = None,
    ) -> None:  # fmt: skip
        """Show rows, each with what it stands for."""
        if list(rows) == self.rows and list(keys) == self.keys and heads is None:
            return
        self.beginResetModel()
        self.rows, self.keys, self.changes = list(rows), list(keys), {}
        if heads is not None:
            self._heads = tuple(heads)
        self.endResetModel()

    def rowCount(self, parent: ModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: ModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._heads)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._aligned(section)
        return self._heads[section] if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: ModelIndex, role: int = 0) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            place = index.row(), index.column()
            return self.changes.get(place, self.rows[index.row()][index.column()])
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.rows[index.row()][index.column()] or None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._aligned(index.column())
        if role == Qt.ItemDataRole.ForegroundRole and (index.row(), index.column()) in self.changes:
            return QColor(theme().accent)
        return None

    def setData(self, index: ModelIndex, value: Any, role: int = 0) -> bool:
        if role != Qt.ItemDataRole.EditRole or self.editable is None:
            return False
        self.changes[index.row(), index.column()] = str(value)
        self.dataChanged.emit(index, index)
        return True

    def flags(self, index: ModelIndex) -> Qt.ItemFlag:
        flags = super().flags(index)
        if self.editable is not None and index.isValid() and index.column() >= self.editable:
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def _aligned(self, column: int) -> int:
        side = (
            Qt.AlignmentFlag.AlignRight if column in self._figures else Qt.AlignmentFlag.AlignLeft
        )
        return int(side | Qt.AlignmentFlag.AlignVCenter)


class RowsTable(QTableView):
    """A table of rows that says what it is for while it is empty."""

    def __init__(self, model: Rows, name: str, widths: Sequence[int], wide: int) -> None:
        super().__init__()
        self._rows, self._widths, self._wide = model, widths, wide
        self.empty = ""
        self.setModel(model)
        self.setAccessibleName(name)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.fit()
        model.modelReset.connect(self.fit)

    def fit(self) -> None:
        """Columns as wide as they are wanted, one of them as wide as there is room."""
        self.verticalHeader().setDefaultSectionSize(px(24))
        head = self.horizontalHeader()
        for place in range(self.model().columnCount()):
            wide = self._widths[place] if place < len(self._widths) else 110
            stretches = place == self._wide
            mode = QHeaderView.ResizeMode
            head.setSectionResizeMode(place, mode.Stretch if stretches else mode.Interactive)
            self.setColumnWidth(place, px(wide))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.FontChange and self.model() is not None:
            self.fit()

    def chosen(self) -> list[Any]:
        """What the chosen rows stand for."""
        rows = sorted({index.row() for index in self.selectionModel().selectedRows()})
        return [self._rows.keys[row] for row in rows]

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.model().rowCount():
            painter = QPainter(self.viewport())
            painter.setPen(QColor(theme().faint))
            painter.drawText(
                self.viewport().rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self.empty,
            )  # fmt: skip
            painter.end()


def load_row(load: Load, orders: Mapping[str, Order]) -> tuple[str, ...]:
    """A load in words."""
    due = min((orders[p.order].by for p in load.places if p.order in orders), default=None)
    day = "" if due is None or due.year == 9999 else due.isoformat()
    marks = [load.state.words]
    if load.failed:
        marks.append(say("{count} failed", count=len(load.failed)))
    if load.locked:
        marks.append(say("locked"))
    if load.held:
        marks.append(say("held"))
    return (str(load.number), load.name, str(len(load.places)), day, ", ".join(marks))


def order_row(order: Order, where: str) -> tuple[str, ...]:
    """An order in words, with where its pieces lie."""
    day = order.due.isoformat() if order.due is not None else ""
    return (
        order.number, order.product, str(order.quantity), day, order.state.words,
        where, "; ".join(words for _, words in order.texts if words),
    )  # fmt: skip


def refused_rows(plan: Plan) -> tuple[tuple[str, ...], list[tuple[str, ...]]]:
    """Rows that cannot be made: the heads of their columns, and the rows in words."""
    columns = list(dict.fromkeys(name for row in plan.refused for name, _ in row.fields))
    heads = (say("Line"), say("Why not"), *columns)
    rows = []
    for row in plan.refused:
        fields = dict(row.fields)
        rows.append((str(row.line), row.reason, *(fields.get(name, "") for name in columns)))
    return heads, rows


def mended_rows(
    model: Rows, plan: Plan, heads: Sequence[str]
) -> list[tuple[Refused, dict[str, str]]]:
    """Rows that were changed in the table, with all their fields as they are to be now."""
    changed = sorted({row for row, _ in model.changes})
    found = []
    for at in changed:
        fields = dict(plan.refused[at].fields)
        for (row, column), words in model.changes.items():
            if row == at:
                fields[heads[column]] = words
        found.append((plan.refused[at], fields))
    return found
