"""The queue under the press's bed: what waits, and what is past."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import (
    QAbstractTableModel,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from farbe.desk.fields import fill
from farbe.desk.form import label
from farbe.desk.pressdesk import PressDesk
from farbe.desk.stations.base import Desk
from farbe.desk.theme import theme
from farbe.plan.sentence import duration
from farbe.queue.store import Entry, State

_HEADS = ("No.", "Job", "State", "Pieces", "Time", "Ink", "Price", "")
ModelIndex = QModelIndex | QPersistentModelIndex


class Entries(QAbstractTableModel):
    """Entries as rows; only what is seen is asked for, however many there are."""

    def __init__(self, currency: str) -> None:
        super().__init__()
        self._currency = currency
        self.entries: tuple[Entry, ...] = ()

    def show(self, entries: tuple[Entry, ...]) -> None:
        if entries != self.entries:
            self.beginResetModel()
            self.entries = entries
            self.endResetModel()

    def rowCount(self, parent: ModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.entries)

    def columnCount(self, parent: ModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(_HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _aligned(section)
        return _HEADS[section] if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: ModelIndex, role: int = 0) -> Any:
        entry = self.entries[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self._words(entry)[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _aligned(index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            return entry.note or None
        return None

    def _words(self, entry: Entry) -> tuple[str, ...]:
        prepared = entry.prepared and entry.state in (State.WAITING, State.HELD)
        return (
            str(entry.number), _name(entry), entry.state.value + (", prepared" if prepared else ""),
            str(entry.pieces), duration(entry.seconds), f"{entry.ink_ml:.2f} ml",
            f"{entry.price:.2f} {self._currency}", entry.note or entry.ended[:16].replace("T", " "),
        )  # fmt: skip


def _name(entry: Entry) -> str:
    """An entry's name; what shares a board is set off under the one that leads."""
    if not entry.nest:
        return entry.name
    return f"▾ {entry.name}" if entry.nest == entry.number else f"   + {entry.name}"


def _aligned(column: int) -> int:
    """Figures to the right, words to the left."""
    figures = column in (0, 3, 4, 5, 6)
    side = Qt.AlignmentFlag.AlignRight if figures else Qt.AlignmentFlag.AlignLeft
    return int(side | Qt.AlignmentFlag.AlignVCenter)


class EntryTable(QTableView):
    """A table that says what it is for while it is empty."""

    empty = ""

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.model().rowCount():
            painter = QPainter(self.viewport())
            painter.setPen(QColor(theme().faint))
            painter.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter, self.empty)
            painter.end()


class QueueView(QWidget):
    """Buttons for the chosen entry over the table."""

    def __init__(self, desk: Desk, press: PressDesk) -> None:
        super().__init__()
        self._desk, self._press, self._past = desk, press, False
        self.setFixedHeight(224)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 12, 6)
        column.setSpacing(6)
        column.addLayout(self._bar())
        self.model, self.table = Entries(desk.currency), EntryTable()
        self._prepare_table()
        column.addWidget(self.table, 1)
        press.changed.connect(self.refresh)
        desk.session.changed.connect(self.refresh)
        self.refresh()

    def _bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(label("Queue", "head"))
        row.addSpacing(6)
        self._waiting, self._done = QPushButton("Waiting"), QPushButton("Past")
        for button, past in ((self._waiting, False), (self._done, True)):
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, past=past: self.show_past(past))
            row.addWidget(button)
        row.addSpacing(10)
        press, self._buttons = self._press, dict[str, QPushButton]()
        for words, run, tip in (
            ("Add this job", lambda: press.add(held=False), "Put the open job at the end"),
            ("Print", self._print, "Print the chosen one now, or go on with it"),
            ("Hold", self._hold, "Keep the chosen one from printing, or let it print"),
            ("Prepare", self._prepare, "Write its files and do no more"),
            ("↑", lambda: self._move(True), "Print it earlier"),
            ("↓", lambda: self._move(False), "Print it later"),
            ("Nest", self._nest, "Print the chosen ones together on one board"),
            ("Take out", self._take_out, "Print the chosen one by itself again"),
            ("Cancel", self._cancel, "Never print it"),
            ("Repeat", self._repeat, "Put a copy at the end"),
            ("Open", self._open, "Open its job, to change it and print it again"),
            ("Remove", self._remove, "Forget it and its files"),
        ):
            button = QPushButton(words)
            button.setToolTip(tip)
            button.setAccessibleName(tip)
            button.clicked.connect(lambda _=False, run=run: run())
            self._buttons[words] = button
            row.addWidget(button)
        row.addStretch()
        self.by_itself = QCheckBox("Start by itself")
        self.by_itself.setToolTip("What waits and is not held prints when the press is ready")
        self.by_itself.toggled.connect(press.set_by_itself)
        row.addWidget(self.by_itself)
        return row

    def _prepare_table(self) -> None:
        table = self.table
        table.setModel(self.model)
        table.setAccessibleName("Jobs in the queue")
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        table.setShowGrid(False)
        table.verticalHeader().hide()
        table.verticalHeader().setDefaultSectionSize(24)
        head = table.horizontalHeader()
        for place, wide in enumerate((44, 190, 110, 56, 64, 70, 78)):
            table.setColumnWidth(place, wide)
        head.setSectionResizeMode(len(_HEADS) - 1, QHeaderView.ResizeMode.Stretch)
        table.selectionModel().selectionChanged.connect(lambda *_: self._enable())

    # what is shown

    def show_past(self, past: bool) -> None:
        """The history in place of what waits, or the other way round."""
        self._past = past
        self.refresh()

    def refresh(self) -> None:
        chosen = [entry.number for entry in self.all_chosen()]
        self.model.show(self._press.looked.past if self._past else self._press.looked.open)
        self.choose(*chosen)
        self.table.empty = (
            "Nothing was printed yet." if self._past
            else "Nothing waits. Add the open job, or print it at once."
        )  # fmt: skip
        fill(self._waiting, not self._past)
        fill(self._done, self._past)
        count = len(self._press.looked.open)
        self._waiting.setText(f"Waiting {count}" if count else "Waiting")
        self._enable()

    def choose(self, *numbers: int) -> None:
        """Choose entries by their numbers."""
        if [entry.number for entry in self.all_chosen()] == list(numbers):
            return
        picked = QItemSelection()
        last = self.model.columnCount() - 1
        for row, entry in enumerate(self.model.entries):
            if entry.number in numbers:
                picked.select(self.model.index(row, 0), self.model.index(row, last))
        mode = QItemSelectionModel.SelectionFlag.ClearAndSelect
        self.table.selectionModel().select(picked, mode)

    def all_chosen(self) -> list[Entry]:
        """The chosen entries, as they are listed."""
        rows = sorted(index.row() for index in self.table.selectionModel().selectedRows())
        return [self.model.entries[row] for row in rows if row < len(self.model.entries)]

    def chosen(self) -> Entry | None:
        """The one that is chosen, or the first of several."""
        return next(iter(self.all_chosen()), None)

    def _enable(self) -> None:
        """Buttons that the chosen entry takes; others do not show."""
        entry, state = self.chosen(), None
        state = entry.state if entry is not None else None
        open_ = state in (State.WAITING, State.HELD, State.STOPPED)
        loose = [e for e in self.all_chosen() if e.state in (State.WAITING, State.HELD)]
        several, nested = len(self.all_chosen()) > 1, bool(loose and loose[0].nest)
        # What is for a single one makes room for what is for several.
        for words, shown, enabled in (
            ("Add this job", not self._past, self._desk.session.first is not None),
            ("Print", not self._past, open_),
            ("Hold", not self._past, open_),
            ("Prepare", not self._past and not several, open_),
            ("↑", not self._past and not several, open_),
            ("↓", not self._past and not several, open_),
            ("Nest", not self._past and len(loose) > 1, True),
            ("Take out", not self._past and nested and not several, True),
            ("Cancel", not self._past, state is not None),
            ("Repeat", self._past, state is not None),
            ("Open", self._past or not (several or nested), state is not None),
            ("Remove", self._past, state is not None),
        ):
            self._buttons[words].setVisible(shown)
            self._buttons[words].setEnabled(enabled)
        self._buttons["Print"].setText("Go on" if state is State.STOPPED else "Print")
        self._buttons["Hold"].setText("Release" if state is State.HELD else "Hold")

    # what the buttons do

    def _print(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.print_entry(entry.number)

    def _hold(self) -> None:
        entry = self.chosen()
        if entry is not None and entry.state is State.HELD:
            self._press.change(lambda queue: queue.release(entry.number))
        elif entry is not None:
            self._press.change(lambda queue: queue.hold(entry.number))

    def _prepare(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.prepare(entry.number)

    def _move(self, up: bool) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.change(lambda queue: queue.move(entry.number, up))

    def _nest(self) -> None:
        numbers = [entry.number for entry in self.all_chosen()]
        self._press.nest(numbers)

    def _take_out(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.change(lambda queue: queue.take_out(entry.number))

    def _cancel(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.change(lambda queue: queue.cancel(entry.number))
            if entry.state is State.PRINTING:
                self._press.ask(do="stop")

    def _repeat(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.repeat(entry.number)

    def _open(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.open_copy(entry.number)

    def _remove(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.change(lambda queue: queue.remove(entry.number))
