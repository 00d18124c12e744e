"""The orders of a list and the loads that print them, in a window of their own."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.fields import fill
from farbe.desk.foldingbar import FoldingBar
from farbe.desk.form import label
from farbe.desk.orders.columnsdialog import ColumnsDialog
from farbe.desk.orders.loadpicture import LoadPicture
from farbe.desk.orders.plandesk import PlanDesk, ToMatch
from farbe.desk.orders.tables import (
    LOAD_HEADS,
    ORDER_HEADS,
    Rows,
    RowsTable,
    load_row,
    mended_rows,
    order_row,
    refused_rows,
)
from farbe.desk.theme import bounded
from farbe.desk.workers import Task, Workers
from farbe.layout.faced import Faced
from farbe.orders.order import Order
from farbe.orders.plan import Load, LoadState
from farbe.said import say

_LISTS = say("Lists of orders (*.csv *.json)")
_EXPORTS = say("Orders with their states (*.csv *.json)")
#: Work whose progress is shown here.
_KEYS = ("plan", "queue loads", "prepare loads", "write sheets")


class OrdersWindow(QWidget):
    """What customers want, the loads that print it, and how far each is."""

    def __init__(self, plan: PlanDesk, workers: Workers, parent: QWidget | None = None) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self._plan, self._workers = plan, workers
        self._task: Task | None = None
        self._heads: tuple[str, ...] = ()
        self.setWindowTitle(say("Orders · Farbe"))
        self.resize(1280, 800)
        self.loads = Rows(LOAD_HEADS, frozenset({0, 2}))
        self.orders = Rows(ORDER_HEADS, frozenset({2}))
        self.refused = Rows((), frozenset({0}))
        self.refused.editable = 2
        self.load_table = RowsTable(self.loads, say("Loads"), (40, 200, 58, 104, 150), 1)
        self.order_table = RowsTable(self.orders, say("Orders"), (76, 118, 54, 104, 76, 130, 92), 5)
        bad = say("Rows that cannot be made")
        self.refused_table = RowsTable(self.refused, bad, (44, 340), -1)
        self.picture = LoadPicture()
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 10)
        column.addLayout(self._head())
        column.addWidget(self._split(), 1)
        column.addLayout(self._foot())
        QShortcut(QKeySequence("Esc"), self, self.close)
        self.load_table.selectionModel().selectionChanged.connect(lambda *_: self._load_chosen())
        self.order_table.selectionModel().selectionChanged.connect(lambda *_: self._order_chosen())
        self.refused_table.selectionModel().selectionChanged.connect(lambda *_: self._why_not())
        self.refused.dataChanged.connect(lambda *_: self._enable())
        plan.changed.connect(self.refresh)
        plan.said.connect(self.told.setText)
        plan.to_match.connect(self.ask_columns)
        plan.seen.connect(self._seen)
        workers.failed.connect(self.told.setText)
        workers.moved.connect(self._moved)
        workers.ended.connect(self._ended)
        self.refresh()

    # what it is made of

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._plan.watch(True)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._plan.watch(False)

    def _button(self, words: str, tip: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        button.clicked.connect(lambda _=False: run())
        return button

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.title = label("", "title")
        self.title.setSizePolicy(self.title.sizePolicy().horizontalPolicy().Ignored,
                                 self.title.sizePolicy().verticalPolicy())  # fmt: skip
        row.addWidget(self.title, 1)
        self.again = self._button(
            say("Read it again"), say("Plan the list as it is now"), self._plan.read_again
        )
        for button in (
            self._button(say("Open a list…"), say("Plan a list of orders"), self.ask_list),
            self.again,
            self._button(say("Open a plan…"), say("Look at a plan of another folder"),
                         self.ask_folder),
        ):  # fmt: skip
            row.addWidget(button)
        return row

    def _split(self) -> QSplitter:
        split = QSplitter(Qt.Orientation.Horizontal)
        split.setChildrenCollapsible(False)
        split.addWidget(self._left())
        split.addWidget(self._right())
        split.setSizes([560, 680])
        return split

    def _left(self) -> QWidget:
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 6, 0)
        column.addWidget(label(say("Loads"), "head"))
        self._bar = FoldingBar(say("More that can be done with the chosen loads"))
        acts: tuple[tuple[str, str, Callable[[], object]], ...] = (
            (say("Into the queue"), say("Put the chosen loads into the queue; all that are not "
             "held, if none is chosen"), lambda: self._plan.queue_loads(self.numbers())),
            (say("Prepare"), say("Write the hand-offs of the chosen loads, or of all"),
             lambda: self._plan.prepare(self.numbers() or self._all())),
            (say("Sheets"), say("Write run sheets with pick lists, and the packing list"),
             lambda: self._plan.write_sheets(self.numbers() or self._all(),
                                             self.labels.isChecked())),
            (say("Lock"), say("Keep the chosen loads as they are, whatever changes; or no longer"),
             self._lock),
            (say("Hold"), say("Keep the chosen loads from the queue, or no longer"), self._hold),
            ("↑", say("Print the load earlier"), lambda: self._move(True)),
            ("↓", say("Print the load later"), lambda: self._move(False)),
            (say("Split…"), say("Make two loads of one"), self.ask_split),
            (say("Take back"), say("Take the chosen loads out of the queue"),
             lambda: self._plan.withdraw(self.numbers())),
            (say("Plan anew"), say("Put pieces that failed on loads again"),
             self._plan.plan_again),
            (say("Open its job"), say("Open the load's job in the main window"), self._open),
        )  # fmt: skip
        self.buttons: dict[str, QPushButton] = {}
        for words, tip, run in acts:
            self.buttons[words] = self._button(words, tip, run)
            self._bar.add(self.buttons[words])
        column.addWidget(self._bar)
        self.load_table.empty = say(
            "No loads yet. Open a list of orders: a row names order, product, artwork, text, "
            "quantity and day. Products are jobs that were kept (Job, Keep as a product)."
        )
        column.addWidget(self.load_table, 1)
        self.labels = QCheckBox(say("Sheets with a label for each piece"))
        column.addWidget(self.labels)
        return side

    def _right(self) -> QWidget:
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(6, 0, 0, 0)
        column.addWidget(self.picture, 2)
        head = QHBoxLayout()
        self._made, self._bad = QPushButton(say("Orders")), QPushButton()
        for button, bad in ((self._made, False), (self._bad, True)):
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, bad=bad: self.show_refused(bad))
            head.addWidget(button)
        self.search = QLineEdit()
        self.search.setAccessibleName(say("Find an order"))
        self.search.setPlaceholderText(say("Find"))
        self.search.setClearButtonEnabled(True)
        bounded(self.search, least_wide=70, most_wide=180)
        self.search.textChanged.connect(lambda _: self.refresh())
        head.addWidget(self.search)
        head.addSpacing(6)
        self.packed = self._button(
            say("Packed"), say("The chosen orders have left the bench, or are back on it"),
            self._pack,
        )  # fmt: skip
        self.mend = self._button(
            say("Take them as mended"), say("Plan the rows as they were changed here"), self._mend
        )
        self.export = self._button(
            say("Export…"), say("Write all orders with their states"), self.ask_export
        )
        self._more = FoldingBar(say("More that can be done with the chosen orders"))
        for button in (self.packed, self.mend, self.export):
            self._more.add(button)
        head.addWidget(self._more, 1)
        column.addLayout(head)
        self.order_table.empty = say("No orders.")
        self.refused_table.empty = say("Every row can be made.")
        column.addWidget(self.order_table, 3)
        column.addWidget(self.refused_table, 3)
        self.show_refused(False)
        return side

    def _foot(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setAccessibleName(say("What was done"))
        self.stop = self._button(say("Cancel"), say("End what is going on"), self._cancel)
        self.stop.hide()
        row.addWidget(self.told, 1)
        row.addWidget(self.stop)
        return row

    # what is shown

    def refresh(self) -> None:
        """Loads, orders and refused rows of the plan."""
        plan = self._plan.plan
        self.again.setEnabled(plan is not None)
        if plan is None:
            self.title.setText(say("Orders"))
            for rows in (self.loads, self.orders, self.refused):
                rows.show((), ())
            self._enable()
            return
        self.title.setText(Path(plan.source).name)
        self.title.setToolTip(plan.source)
        orders = {order.number: order for order in plan.orders}
        numbers = set(self.numbers())
        self.loads.show([load_row(load, orders) for load in plan.loads], plan.loads)
        self._choose(numbers)
        self._show_orders()
        heads, refused = refused_rows(plan)
        same = heads == self._heads
        self._heads = heads
        self.refused.show(refused, plan.refused, None if same else heads)
        self.show_refused(self._bad_shown and bool(plan.refused))

    def _show_orders(self) -> None:
        plan = self._plan.plan
        if plan is None:
            return
        on_loads = {place.order for load in self.chosen_loads() for place in load.places}
        wanted, where = self.search.text().strip().casefold(), self._plan.where
        rows, keys = [], []
        for order in plan.orders:
            if on_loads and order.number not in on_loads:
                continue
            words = order_row(order, where.get(order.number, ""))
            if not wanted or any(wanted in word.casefold() for word in words):
                rows.append(words)
                keys.append(order)
        self.orders.show(rows, keys)

    def show_refused(self, bad: bool) -> None:
        """The rows that cannot be made in place of the orders, or the other way round."""
        plan = self._plan.plan
        count = len(plan.refused) if plan is not None else 0
        self._bad_shown = bad
        self._bad.setText(say("Cannot be made: {count}", count=count))
        for button, on in ((self._made, not bad), (self._bad, bad)):
            button.setChecked(on)
            fill(button, on)
        self.order_table.setVisible(not bad)
        self.refused_table.setVisible(bad)
        self._more.want(self.packed, not bad)
        self._more.want(self.mend, bad)
        self._enable()

    def _enable(self) -> None:
        loads = self.chosen_loads()
        plan = self._plan.plan
        any_load = plan is not None and bool(plan.loads)
        planned = bool(loads) and all(load.state is LoadState.PLANNED for load in loads)
        states = {
            say("Into the queue"): any_load, say("Prepare"): any_load, say("Sheets"): any_load,
            say("Lock"): bool(loads), say("Hold"): planned, "↑": len(loads) == 1,
            "↓": len(loads) == 1,
            say("Split…"): len(loads) == 1 and planned and len(loads[0].places) > 1,
            say("Take back"): any(load.token for load in loads),
            say("Plan anew"): any_load, say("Open its job"): len(loads) == 1,
        }  # fmt: skip
        for words, on in states.items():
            self.buttons[words].setEnabled(on)
        locked = bool(loads) and all(load.locked for load in loads)
        held = bool(loads) and all(load.held for load in loads)
        self.buttons[say("Lock")].setText(say("Unlock") if locked else say("Lock"))
        self.buttons[say("Hold")].setText(say("Release") if held else say("Hold"))
        self._bar.arrange()
        self.packed.setEnabled(bool(self.order_table.chosen()))
        self.mend.setEnabled(bool(self.refused.changes))
        self.export.setEnabled(plan is not None)

    def chosen_loads(self) -> list[Load]:
        """The loads that are chosen, in their order."""
        return self.load_table.chosen()

    def numbers(self) -> list[int]:
        """Their numbers."""
        return [load.number for load in self.chosen_loads()]

    def _all(self) -> list[int]:
        plan = self._plan.plan
        return [] if plan is None else [load.number for load in plan.loads]

    def _choose(self, numbers: set[int]) -> None:
        """Choose the loads of these numbers again, as far as they are there."""
        for row, load in enumerate(self.loads.keys):
            if load.number in numbers and load.number not in set(self.numbers()):
                flags = self.load_table.selectionModel().SelectionFlag
                self.load_table.selectionModel().select(
                    self.loads.index(row, 0), flags.Select | flags.Rows
                )

    def _load_chosen(self) -> None:
        loads = self.chosen_loads()
        self._show_orders()
        self._enable()
        if len(loads) == 1:
            self._plan.see(loads[0])
        else:
            self.picture.show_load(None, None)

    def _seen(self, number: int, job: Faced) -> None:
        loads = self.chosen_loads()
        if len(loads) == 1 and loads[0].number == number:
            self.picture.show_load(loads[0], job)

    def _order_chosen(self) -> None:
        chosen: list[Order] = self.order_table.chosen()
        self.picture.choose(frozenset(order.number for order in chosen))
        self._enable()

    def _why_not(self) -> None:
        """The whole reason of the chosen row, which its column may not show."""
        for row in self.refused_table.chosen()[:1]:
            self.told.setText(row.reason)

    def _moved(self, task: Task) -> None:
        if task.title and task.key.startswith(_KEYS):
            self._task = task
            self.told.setText(
                say("{title}: {percent} %", title=task.title, percent=int(task.done * 100))
            )
            self.stop.show()

    def _ended(self, task: Task) -> None:
        if task is self._task:
            self._task = None
            self.stop.hide()

    def _cancel(self) -> None:
        if self._task is not None:
            self._workers.cancel(self._task.key)
            self.told.setText(say("Cancelled; the plan is as it was."))

    # what is done

    def ask_list(self) -> None:
        """Ask for a list, and plan it."""
        name, _ = QFileDialog.getOpenFileName(self, say("Open a list of orders"), "", _LISTS)
        if name:
            self._plan.take_list(Path(name))

    def ask_folder(self) -> None:
        """Ask for a plan's folder, and look at that."""
        name = QFileDialog.getExistingDirectory(self, say("Open a plan"))
        if name:
            self._plan.open_folder(Path(name))

    def ask_columns(self, found: ToMatch) -> None:
        """Ask which column says what, and plan the list."""
        dialog = ColumnsDialog(found, self)
        if dialog.exec():
            self._plan.take_list(found.path, dialog.stated)

    def ask_split(self) -> None:
        """Ask how many pieces stay, and split the load."""
        loads = self.chosen_loads()
        if len(loads) != 1:
            return
        most = len(loads[0].places) - 1
        count, taken = QInputDialog.getInt(
            self, say("Split {load}", load=loads[0].name), say("Pieces that stay in the first"),
            (most + 1) // 2, 1, most,
        )  # fmt: skip
        if taken:
            self._plan.split(loads[0].number, count)

    def ask_export(self) -> None:
        """Ask for a file, and write the orders into it."""
        name, _ = QFileDialog.getSaveFileName(self, say("Export orders"), "orders.csv", _EXPORTS)
        if name:
            self._plan.export(Path(name))

    def _lock(self) -> None:
        loads = self.chosen_loads()
        self._plan.set_loads(self.numbers(), locked=not all(load.locked for load in loads))

    def _hold(self) -> None:
        loads = self.chosen_loads()
        self._plan.set_loads(self.numbers(), held=not all(load.held for load in loads))

    def _move(self, up: bool) -> None:
        for number in self.numbers()[:1]:
            self._plan.move(number, up)

    def _open(self) -> None:
        for load in self.chosen_loads()[:1]:
            self._plan.open_job(load)

    def _pack(self) -> None:
        chosen: list[Order] = self.order_table.chosen()
        packed = not all(order.packed for order in chosen)
        self._plan.pack([order.number for order in chosen], packed)

    def _mend(self) -> None:
        plan = self._plan.plan
        if plan is not None:
            self._plan.mend(mended_rows(self.refused, plan, self._heads))


def open_orders(plan: PlanDesk, workers: Workers, parent: QWidget) -> OrdersWindow:
    """The window of orders, opened or brought to the front."""
    window = parent.window()
    there = window.findChild(OrdersWindow) or OrdersWindow(plan, workers, window)
    there.show()
    there.raise_()
    return there
