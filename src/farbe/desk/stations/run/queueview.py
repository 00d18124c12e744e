"""The queue under the press's bed: what waits, and what is past."""

from __future__ import annotations

from collections.abc import Callable
from itertools import groupby

from PySide6.QtCore import QItemSelection, QItemSelectionModel, QItemSelectionRange
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.entering import all_taken
from farbe.desk.fields import fill
from farbe.desk.foldingbar import FoldingBar
from farbe.desk.following import Following
from farbe.desk.form import label
from farbe.desk.pressdesk import PressDesk
from farbe.desk.stations.base import Desk
from farbe.desk.stations.run.entrytable import Entries, EntryTable
from farbe.desk.theme import bounded, fixed
from farbe.model.base import BadInput
from farbe.queue.pieces import pieces_of
from farbe.queue.store import Entry, State
from farbe.said import say, spoken

#: States of entries that can be printed, and of those of which the operator says what came of it.
_TO_PRINT = (State.WAITING, State.HELD, State.STOPPED)
_TO_SAY = (State.HANDED, State.TAKEN, State.STOPPED)
EVERY = say("All printers")


class QueueView(Following, QWidget):
    """What is shown of the queue and how the chosen entries are worked on, over the table."""

    SHOWN_LATER = True

    def __init__(self, desk: Desk, press: PressDesk) -> None:
        super().__init__()
        self._desk, self._press, self._past = desk, press, False
        self.setProperty("wanted", 256)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 12, 6)
        column.setSpacing(6)
        self.model = Entries(desk.currency)
        self.table = EntryTable(self.model)
        column.addLayout(self._head())
        column.addWidget(self._acts())
        column.addWidget(self.table, 1)
        self.model.dropped.connect(
            lambda numbers, before: press.change(lambda q: q.put_before(numbers, before))
        )
        self.model.remarked.connect(
            lambda number, words: press.change(lambda q: q.remark(number, words))
        )
        self.table.selectionModel().selectionChanged.connect(lambda *_: self.refresh())
        self.table.customContextMenuRequested.connect(self._menu)
        press.changed.connect(self.list_entries)
        self.list_entries()
        self.follow(desk.session)

    def _head(self) -> QBoxLayout:
        """What is shown; in two rows where one is too narrow for its words."""
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(label(say("Queue"), "head"))
        row.addSpacing(6)
        self._waiting, self._done = QPushButton(say("Waiting")), QPushButton(say("Past"))
        for button, past in ((self._waiting, False), (self._done, True)):
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, past=past: self.show_past(past))
            row.addWidget(button)
        row.addSpacing(6)
        self.lane = QComboBox()
        self.lane.setAccessibleName(say("Printer whose jobs are shown"))
        self.lane.setMinimumContentsLength(8)
        self.lane.addItem(EVERY)
        self.lane.currentIndexChanged.connect(lambda _: self.list_entries())
        self.lane.currentTextChanged.connect(self.lane.setToolTip)
        self.lane.setToolTip(EVERY)
        row.addWidget(self.lane)
        row.addStretch()
        self._filters, row = row, QHBoxLayout()
        row.setSpacing(4)
        self.search = QLineEdit()
        self.search.setAccessibleName(say("Find in the queue"))
        self.search.setPlaceholderText(say("Find"))
        self.search.setToolTip(say("Find a job, a number or a note"))
        self.search.setClearButtonEnabled(True)
        bounded(self.search, least_wide=90, most_wide=220)
        self.search.textChanged.connect(lambda _: self.list_entries())
        row.addWidget(self.search)
        row.addStretch()
        self.by_itself = QCheckBox(say("Start by itself"))
        self.by_itself.setToolTip(
            say("What waits and is not held goes to its printer when that is ready")
        )
        self.by_itself.toggled.connect(self._press.set_by_itself)
        row.addWidget(self.by_itself)
        self._finding = row
        self._head_row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._head_row.setSpacing(4)
        self._head_row.addLayout(self._filters)
        self._head_row.addLayout(self._finding, 1)
        return self._head_row

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        needed = self._filters.sizeHint().width() + self._finding.minimumSize().width()
        room = self._head_row.contentsRect().width()
        beside, below = QBoxLayout.Direction.LeftToRight, QBoxLayout.Direction.TopToBottom
        self._head_row.setDirection(beside if needed <= room else below)

    def _acts(self) -> FoldingBar:
        """What can be done with the chosen entries."""
        self._bar = row = FoldingBar(say("More that can be done with the chosen entries"))
        press, self._buttons = self._press, dict[str, QPushButton]()
        acts: tuple[tuple[str, Callable[[], object], str], ...] = (
            (
                say("Add this job"),
                self._add,
                say("Put the open job at the end"),
            ),
            (
                say("Print"),
                lambda: press.print_entries(self.numbers()),
                say("Print the chosen ones as soon as their printer is free, or go on with them"),
            ),
            (
                say("From the start"),
                self._anew,
                say("Print it on fresh pieces, from its first step"),
            ),
            (say("Hold"), self._hold, say("Keep the chosen ones from printing, or let them print")),
            (
                say("Prepare"),
                lambda: press.prepare(self.numbers()),
                say("Write its files and do no more"),
            ),
            ("↑", lambda: self._move(True), say("Print them earlier")),
            ("↓", lambda: self._move(False), say("Print them later")),
            (
                say("Nest"),
                lambda: press.nest(self.numbers()),
                say("Print the chosen ones together on one board"),
            ),
            (say("Take out"), self._take_out, say("Print the chosen one by itself again")),
            (
                say("Printed"),
                self._printed,
                say("Say that it is printed, but for the pieces named beside"),
            ),
            (say("All failed"), self._failed, say("Say that none of it is any good")),
            (
                say("Print again"),
                self._again,
                say("Print the pieces that failed, or those named, once more"),
            ),
            (
                say("Side B again"),
                lambda: self._again(second_only=True),
                say("Print side B of the pieces named once more, on the film with their side A"),
            ),
            (say("Repeat"), lambda: press.repeat(self.numbers()), say("Put a copy at the end")),
            (say("Open"), self._open, say("Open its job, to change it and print it again")),
            (say("Cancel"), lambda: press.cancel(self.numbers()), say("Never print them")),
            (say("Remove"), self._remove, say("Forget them and their files")),
        )
        self.pieces = QLineEdit()
        self.pieces.setAccessibleName(say("Numbers of pieces"))
        self.pieces.setPlaceholderText(say("pieces, as 3, 7-9"))
        fixed(self.pieces, wide=130)
        for words, run, tip in acts:
            if words == say("Printed"):
                row.add(self.pieces)
            button = QPushButton(words)
            button.setToolTip(tip)
            button.setAccessibleName(tip)
            button.clicked.connect(lambda _=False, run=run: run())
            self._buttons[words] = button
            row.add(button)
        return row

    def _add(self) -> None:
        if all_taken(self):
            self._press.add(held=False)

    # what is shown

    def show_past(self, past: bool) -> None:
        """The history in place of what waits, or the other way round."""
        self._past = past
        self.list_entries()

    def list_entries(self) -> None:
        """Show the entries that there are now."""
        looked = self._press.looked
        self._fill_lanes(looked.lanes)
        chosen = self.numbers()
        bar = self.table.verticalScrollBar()
        at = bar.value()
        shown = looked.past if self._past else looked.open
        self.model.ordered = not self._past
        if self.model.show(tuple(entry for entry in shown if self._is_wanted(entry))):
            bar.setValue(at)
        self.choose(*chosen)
        self.table.empty = self._nothing(bool(shown))
        fill(self._waiting, not self._past)
        fill(self._done, self._past)
        count = len(looked.open)
        self._waiting.setText(say("Waiting {count}", count=count) if count else say("Waiting"))
        self.refresh()

    def _nothing(self, hidden: bool) -> str:
        if hidden:
            return say("None of these; show all printers, or find something else.")
        if self._past:
            return say("Nothing was printed yet.")
        return say("Nothing waits. Add the open job, or send it to its printer at once.")

    def _fill_lanes(self, lanes: tuple[str, ...]) -> None:
        """The printers that there are, the chosen one still chosen."""
        wanted = ["", *lanes]
        if [self.lane.itemData(i) or "" for i in range(self.lane.count())] == wanted:
            return
        chosen = self.lane.currentData()
        self.lane.blockSignals(True)
        self.lane.clear()
        for lane in wanted:
            self.lane.addItem(spoken(lane) or EVERY, lane)
        self.lane.setCurrentIndex(max(0, self.lane.findData(chosen)))
        self.lane.blockSignals(False)

    def _is_wanted(self, entry: Entry) -> bool:
        if self.lane.currentIndex() > 0 and entry.lane != self.lane.currentData():
            return False
        words = self.search.text().casefold().split()
        told = f"{entry.number} {entry.name} {entry.state.words} {entry.remark} {entry.note}"
        return all(word in told.casefold() for word in words)

    def choose(self, *numbers: int) -> None:
        """Choose entries by their numbers."""
        if self.numbers() == list(numbers):
            return
        picked, wanted = QItemSelection(), frozenset(numbers)
        last = self.model.columnCount() - 1
        rows = (i for i, entry in enumerate(self.model.entries) if entry.number in wanted)
        # Rows that follow each other are one range: thousands are as quick as one.
        for _, run in groupby(enumerate(rows), lambda pair: pair[1] - pair[0]):
            part = [row for _, row in run]
            picked.append(
                QItemSelectionRange(self.model.index(part[0], 0), self.model.index(part[-1], last))
            )
        mode = QItemSelectionModel.SelectionFlag.ClearAndSelect
        self.table.selectionModel().select(picked, mode)

    def all_chosen(self) -> list[Entry]:
        """The chosen entries, as they are listed."""
        ranges = self.table.selectionModel().selection()
        found = (ranges.at(place) for place in range(ranges.count()))
        rows = {row for one in found for row in range(one.top(), one.bottom() + 1)}
        return [self.model.entries[row] for row in sorted(rows) if row < len(self.model.entries)]

    def numbers(self) -> list[int]:
        """Numbers of the chosen entries, as they are listed."""
        return [entry.number for entry in self.all_chosen()]

    def chosen(self) -> Entry | None:
        """The one that is chosen, or the first of several."""
        return next(iter(self.all_chosen()), None)

    def refresh(self) -> None:
        """Buttons that the chosen entries take; others do not show."""
        chosen = self.all_chosen()
        states = {entry.state for entry in chosen}
        one = chosen[0] if len(chosen) == 1 else None
        loose = [e for e in chosen if e.state in (State.WAITING, State.HELD)]
        to_print = bool(states & set(_TO_PRINT))
        to_say = bool(states) and states <= set(_TO_SAY)
        was_printed = one is not None and one.state in (State.DONE, State.FAILED)
        begun = one is not None and one.state in _TO_PRINT and (one.step or one.handed)
        now, past = not self._past, self._past
        for words, shown, enabled in (
            (say("Add this job"), now, self._desk.session.first is not None),
            (say("Print"), now and not to_say, to_print),
            (say("From the start"), now and begun, True),
            (say("Hold"), now and to_print, True),
            (say("Prepare"), now and to_print and not to_say, True),
            ("↑", now and bool(chosen), True),
            ("↓", now and bool(chosen), True),
            (say("Nest"), now and len(loose) > 1, True),
            (say("Take out"), now and one is not None and bool(loose) and bool(one.nest), True),
            (say("Printed"), to_say or was_printed, True),
            (say("All failed"), to_say or was_printed, True),
            (say("Print again"), was_printed, True),
            (say("Side B again"), was_printed and one is not None and one.pairs, True),
            (say("Repeat"), past, bool(chosen)),
            (say("Open"), one is not None and not (now and one.nest), True),
            (say("Cancel"), now and bool(chosen), True),
            (say("Remove"), past, bool(chosen)),
        ):
            self._bar.want(self._buttons[words], bool(shown))
            self._buttons[words].setEnabled(bool(enabled))
        if to_say:
            self._bar.want(self._buttons[say("Print")], State.STOPPED in states)
        self._bar.want(self.pieces, to_say or was_printed)
        self._buttons[say("Print")].setText(
            say("Go on") if states == {State.STOPPED} else say("Print")
        )
        self._buttons[say("Hold")].setText(
            say("Release") if states == {State.HELD} else say("Hold")
        )
        self._bar.arrange()

    def _menu(self, place: object) -> None:
        """The same acts where the pointer is."""
        menu = QMenu(self)
        for button in self._buttons.values():
            if not button.isHidden():
                action = menu.addAction(button.text(), button.click)
                action.setEnabled(button.isEnabled())
        menu.popup(self.table.viewport().mapToGlobal(place))  # type: ignore[call-overload]

    # what the buttons do

    def _hold(self) -> None:
        held = [e.number for e in self.all_chosen() if e.state is State.HELD]
        if len(held) == len(self.all_chosen()):
            self._press.change(lambda queue: queue.each(held, queue.release))
        else:
            numbers = [e.number for e in self.all_chosen() if e.state is not State.HELD]
            self._press.change(lambda queue: queue.each(numbers, queue.hold))

    def _anew(self) -> None:
        numbers = self.numbers()
        self._press.change(lambda queue: queue.each(numbers, queue.begin_anew))
        self._press.print_entries(numbers)

    def _move(self, up: bool) -> None:
        numbers = self.numbers()
        self._press.change(lambda queue: queue.move(numbers, up))

    def _take_out(self) -> None:
        numbers = self.numbers()
        self._press.change(lambda queue: queue.each(numbers, queue.take_out))

    def _named(self) -> tuple[int, ...] | None:
        """The pieces that are named; None if it is no such thing, which is said."""
        try:
            return pieces_of(self.pieces.text())
        except BadInput as error:
            self._desk.session.said.emit(str(error))
            return None

    def _printed(self) -> None:
        numbers, pieces = self.numbers(), self._named()
        if pieces is not None:
            self._press.change(
                lambda queue: queue.each(numbers, lambda n: queue.said_printed(n, pieces))
            )
            self.pieces.clear()

    def _failed(self) -> None:
        numbers = self.numbers()
        self._press.change(lambda queue: queue.each(numbers, queue.said_failed))

    def _again(self, *, second_only: bool = False) -> None:
        entry, pieces = self.chosen(), self._named()
        if entry is not None and pieces is not None:
            self._press.print_again(entry.number, pieces, second_only=second_only)
            self.pieces.clear()

    def _open(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self._press.open_copy(entry.number)

    def _remove(self) -> None:
        numbers = self.numbers()
        self._press.change(lambda queue: queue.each(numbers, queue.remove))
