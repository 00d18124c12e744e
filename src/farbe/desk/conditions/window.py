"""The conditions of a printer in a window of their own."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.conditions.pictures import ConditionPictures, Shown
from farbe.desk.conditions.readingsdialog import ReadingsDialog
from farbe.desk.conditions.teaching import (
    FilesToTake,
    Report,
    forget,
    learn,
    name_for,
    take_condition,
    taught_by_files,
    taught_on_press,
)
from farbe.desk.form import label
from farbe.desk.stations.base import Desk
from farbe.desk.theme import fixed
from farbe.files.printerfile import CONDITION_SUFFIX, read_condition, write_condition
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal
from farbe.measure.teach import Taught
from farbe.model.base import BadInput
from farbe.model.condition import Condition, Origin
from farbe.model.printer import Printer
from farbe.optics.gamut import hull
from farbe.said import begun, say, say_count, spoken

_KINDS = say("Conditions (*{suffix})", suffix=CONDITION_SUFFIX)


class ConditionsWindow(QWidget):
    """What is known of the open job's printer; it stays open beside the work."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self._desk, self._session = desk, desk.session
        self.setWindowTitle(say("Conditions · Farbe"))
        self.resize(980, 700)
        self.list = QListWidget()
        self.list.setAccessibleName(say("Conditions"))
        self.list.setWordWrap(True)
        self.list.setSpacing(4)
        fixed(self.list, wide=250)
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.title = label("", "title")
        self.words = label("")
        self.words.setWordWrap(True)
        self.words.setAccessibleName(say("Figures of the condition"))
        self.found = label("", "faint")
        self.found.setWordWrap(True)
        self.pictures = ConditionPictures()
        self._buttons = [
            self._button(say("Take readings…"), self.ask_readings),
            self._button(say("Measure on the test press"), self.measure),
            self._button(say("Import…"), self._import),
            self._button(say("Export…"), self._export),
            self._button(say("Remove"), self.remove),
        ]
        left, right, row = QVBoxLayout(), QVBoxLayout(), QHBoxLayout(self)
        for part in (self.list, *self._buttons):
            left.addWidget(part)
        for part in (self.title, self.words, self.found):
            right.addWidget(part)
        right.addWidget(self.pictures, 1)
        row.addLayout(left)
        row.addLayout(right, 1)
        QShortcut(QKeySequence("Esc"), self, self.close)
        self._session.changed.connect(self.refresh)
        self.refresh()

    def _button(self, words: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(words)
        button.clicked.connect(lambda _=False: run())
        return button

    @property
    def chosen(self) -> Condition | None:
        """The condition that is looked at."""
        job, at = self._session.first, self.list.currentRow()
        if job is None or not 0 <= at < len(job.printer.conditions):
            return None
        return job.printer.conditions[at]

    def refresh(self) -> None:
        """List the printer's conditions; the one that fits is looked at first."""
        job = self._session.first
        conditions = () if job is None else job.printer.conditions
        fits = None if job is None else job.condition
        before = self.list.currentItem()
        was = None if before is None else before.data(Qt.ItemDataRole.UserRole)
        self.list.blockSignals(True)
        self.list.clear()
        for one in conditions:
            lines = [begun(spoken(one.name)), _age(one)]
            if one is fits:
                lines.append(say("fits the open job"))
            item = QListWidgetItem("\n".join(lines))
            item.setData(Qt.ItemDataRole.UserRole, one.name)
            self.list.addItem(item)
        names = [one.name for one in conditions]
        if was in names:
            self.list.setCurrentRow(names.index(was))
        elif fits is not None:
            self.list.setCurrentRow(names.index(fits.name))
        elif names:
            self.list.setCurrentRow(0)
        self.list.blockSignals(False)
        for button in self._buttons:
            button.setEnabled(job is not None)
        self._show()

    def _show(self) -> None:
        condition, job = self.chosen, self._session.first
        for button in self._buttons[3:]:
            button.setEnabled(condition is not None)
        if condition is None or job is None:
            self.title.setText(say("No condition yet"))
            self.words.setText(
                say("Nobody has measured this printer. Print a chart (Run, Test prints) and take "
                    "its readings, or import a condition.")
            )  # fmt: skip
            self.pictures.show_condition(None)
            return
        self.title.setText(begun(spoken(condition.name)))
        self.words.setText("\n".join(figures_of(condition)))
        self.pictures.show_condition(Shown(condition, job.printer, None))
        self._look_for_reach(condition, job)

    def _look_for_reach(self, condition: Condition, job: Faced) -> None:
        """Work out what its inks reach, which takes a moment."""
        store = self._session.store

        def work(_: Report) -> object:
            digest = condition.profile
            profile = store.profile(job) if digest is None else store.profile_bytes(digest)
            return hull(profile, condition.total)

        def then(reach: object) -> None:
            if self.chosen is condition:
                self.pictures.show_condition(Shown(condition, job.printer, reach))  # type: ignore[arg-type]

        self._desk.workers.start("reach of inks", work, then, waits=True)

    def ask_readings(self) -> None:
        """Ask for files, and teach the printer by them."""
        job = self._session.first
        if job is None:
            return
        dialog = ReadingsDialog(name_for(job), self)
        if dialog.exec() and dialog.chosen is not None:
            self.take(dialog.chosen)

    def take(self, files: FilesToTake) -> None:
        """Teach the printer by files of readings."""
        job, store = self._session.first, self._session.store
        if job is not None:
            self._teach(job.printer, lambda report: taught_by_files(job, store, files, report))

    def measure(self) -> None:
        """Print a chart on the test press, read it, and teach the printer by that."""
        job, store = self._session.first, self._session.store
        if job is not None:
            self._teach(job.printer, lambda report: taught_on_press(job, store, report))

    def _teach(self, printer: Printer, work: Callable[[Report], Taught | Condition]) -> None:
        def then(made: Taught | Condition) -> None:
            if isinstance(made, Condition):
                take_condition(self._session, made, printer)
                self._choose(made.name)
                last = made.drifts[-1]
                self.found.setText(
                    say("The strip is off by ΔE00 {mean} on the mean, {worst} at worst; {most} is "
                        "allowed.", mean=decimal(last.mean, 2), worst=decimal(last.worst, 2),
                        most=decimal(made.most_drift, 1))
                )  # fmt: skip
                return
            learn(self._session, made, printer)
            self._choose(made.condition.name)
            before = say("Before, predictions were off by ΔE00 {mean} on the mean.",
                         mean=decimal(made.before.mean, 2))  # fmt: skip
            self.found.setText("\n".join([before, *made.said]))

        # It waits for press and programs; findings need not wait for it.
        self._desk.workers.start("teach", work, then, title=say("Teaching the printer"), waits=True)

    def _choose(self, name: str) -> None:
        job = self._session.first
        names = [] if job is None else [one.name for one in job.printer.conditions]
        if name in names:
            self.list.setCurrentRow(names.index(name))

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, say("Import a condition"), "", _KINDS)
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Give the printer a condition from a file."""
        job = self._session.first
        if job is None:
            return
        try:
            condition = read_condition(path, self._session.store)
            take_condition(self._session, condition, job.printer)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self._choose(condition.name)

    def _export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, say("Export the condition"), f"condition{CONDITION_SUFFIX}", _KINDS
        )
        if name:
            self.save_file(Path(name))

    def save_file(self, path: Path) -> None:
        """Write the condition that is looked at to a file."""
        condition = self.chosen
        if condition is None:
            return
        try:
            write_condition(condition, self._session.store, path)
        except BadInput as error:
            self._session.said.emit(str(error))

    def remove(self) -> None:
        """Take the condition that is looked at away from the printer."""
        condition = self.chosen
        if condition is not None:
            forget(self._session, condition)


def _age(condition: Condition) -> str:
    """How it came about, and how long ago."""
    if condition.when is None:
        return condition.origin.words
    days = (date.today() - condition.when).days
    ago = say("today") if days < 1 else say_count(days, "yesterday", "{count} days ago")
    return say("{origin} {ago}", origin=condition.origin.words, ago=ago)


def figures_of(condition: Condition) -> list[str]:
    """What a condition says, in lines."""
    lines = [f"{_age(condition)} · " + ", ".join(one.words for one in condition.surfaces)
             + " · " + (spoken(condition.mode) or say("any mode"))]  # fmt: skip
    true = condition.trueness
    if true is not None:
        lines.append(
            say("Predictions are off by ΔE00 {mean} on the mean, {most} for 95 of 100, {worst} at "
                "worst, on {patches} patches that nothing was made from.",
                mean=decimal(true.mean, 2), most=decimal(true.most, 2),
                worst=decimal(true.worst, 2), patches=true.patches)
        )  # fmt: skip
    elif condition.origin is Origin.ESTIMATED:
        lines.append(say("Nobody knows how true its predictions are."))
    lines.append(
        say("Process ink up to {total} % together; {each} % each. Varnish: {gloss}.",
            total=f"{condition.total:.0f}", each=" / ".join(f"{x:.0f}" for x in condition.each),
            gloss=condition.gloss.words)
    )  # fmt: skip
    for film in condition.films:
        lines.append(
            say("{ink}: one hit reflects {reflected} % and lets {through} % through.",
                ink=spoken(film.ink), reflected=decimal(100 * sum(film.reflected) / 3, 1),
                through=decimal(100 * sum(film.through) / 3, 1))
        )  # fmt: skip
    return lines


def open_conditions(desk: Desk, parent: QWidget) -> ConditionsWindow:
    """The window of conditions, opened or brought to the front."""
    window = parent.window()
    there = window.findChild(ConditionsWindow) or ConditionsWindow(desk, window)
    there.show()
    there.raise_()
    return there
