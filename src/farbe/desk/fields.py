"""Controls of the inspector; each binds one value of the job both ways."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import StrEnum
from typing import Any

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QIcon,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QGridLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QSizePolicy,
    QWidget,
)

from farbe.desk.amounts import parse_amount
from farbe.desk.effects import effect_of
from farbe.desk.entering import REFUSED, typed_into
from farbe.desk.following import Following
from farbe.desk.session import Session
from farbe.desk.theme import fixed, font, theme
from farbe.edits.values import Get, Set
from farbe.layout.figures import Units, mm_per_unit, number, units
from farbe.model.base import BadInput
from farbe.said import inside, say


def fill(button: QPushButton, on: bool) -> None:
    """Show a button as the one in force, or not."""
    button.setChecked(on)
    if bool(button.property("primary")) != on:
        button.setProperty("primary", on)
        button.style().unpolish(button)
        button.style().polish(button)


def told(name: str) -> str:
    """A value's name, and what it does to the print."""
    effect = effect_of(name)
    return f"{name}: {inside(effect)}." if effect else f"{name}."


def takes_back(field: NumberField | TextField | LinesField, event: QKeyEvent) -> bool:
    """On Esc: what is typed and not entered is what it was; whether there was anything."""
    if event.key() != Qt.Key.Key_Escape or not typed_into(field).isModified():
        return False
    typed_into(field).setModified(False)
    field.refresh()
    field.selectAll()
    return True


def entered(field: NumberField | TextField | LinesField, taken: bool) -> None:
    """What was taken shows as the job has it; what was not stays, to be mended or taken back."""
    typed_into(field).setModified(not taken)
    mark_refused(field, not taken)
    if taken:
        field.refresh()


def mark_refused(field: NumberField | TextField | LinesField, refused: bool) -> None:
    """Show that what is in a field was not taken, or that nothing says so."""
    if bool(field.property(REFUSED)) != refused:
        field.setProperty(REFUSED, refused)
        field.style().unpolish(field)
        field.style().polish(field)


class NumberField(Following, QLineEdit):
    """A figure with its unit; takes sums, steps with the arrow keys.

    Where ``none`` has words, the figure may be None: an empty field shows them.
    """

    def __init__(
        self,
        session: Session,
        name: str,
        get: Get,
        set_: Set,
        *,
        unit: str | Callable[[], str] = "mm",
        step: float = 1.0,
        digits: int = 2,
        none: str = "",
    ) -> None:
        super().__init__()
        self._none = none
        self.setPlaceholderText(none)
        self._session, self._name, self._get, self._set = session, name, get, set_
        self._step, self._digits = step, digits
        # A unit of money follows the user's preferences.
        self._unit_now = unit if callable(unit) else lambda: unit
        #: Lengths are in millimetres in the job, and here in the user's units.
        self._is_length = unit == Units.MM
        self._name_it()
        # A short field in a pair must not ask for more than its half.
        self.setMinimumWidth(64)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        if self._unit:
            self._make_room()
        self.editingFinished.connect(self._commit)
        self.textEdited.connect(lambda _: mark_refused(self, False))
        self.follow(session)

    def _make_room(self) -> None:
        """Keep the figure off its unit."""
        wide = QFontMetricsF(font()).horizontalAdvance(self._unit)
        self.setTextMargins(0, 0, round(wide) if self._unit else 0, 0)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.FontChange, QEvent.Type.StyleChange):
            self._make_room()

    @property
    def _unit(self) -> str:
        return units().value if self._is_length else self._unit_now()

    def _name_it(self) -> None:
        """What it is called, in which unit, and what keys do to it."""
        self._named_in = self._unit
        self.setAccessibleName(f"{self._name}, {self._unit}" if self._unit else self._name)
        step = number(self._step_now() / self._per_unit(), 4)
        self.setToolTip(
            say(
                "{told}\nSums like 3*25.4 and units may be typed; arrows step by {step}.",
                told=told(self._name),
                step=step,
            )
        )

    def _per_unit(self) -> float:
        """Of the job's figure in one that is shown."""
        return mm_per_unit() if self._is_length else 1.0

    def _step_now(self) -> float:
        """In the job's unit; a twentieth of an inch goes for a millimetre."""
        inches = self._is_length and units() is Units.INCHES
        return self._step * mm_per_unit() / 20 if inches else self._step

    def refresh(self) -> None:
        """Show the job's value, unless it is being typed."""
        job = self._session.job
        if job is None or (self.isModified() and self.hasFocus()):
            return
        value = self._get(job)
        finer = 2 if self._is_length and units() is Units.INCHES else 0
        text = (
            "" if value is None else number(float(value) / self._per_unit(), self._digits + finer)
        )
        # Every field is asked at every edit: what shows already is not shown anew.
        if text != self.text() or self.isModified():
            self.setText(text)
            # Where a figure is longer than its field, its beginning shows.
            self.setCursorPosition(0)
        if self._named_in != self._unit:
            self._name_it()
        mark_refused(self, False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()))
        job = self._session.job
        if takes_back(self, event):
            return
        if steps is None or job is None:
            super().keyPressEvent(event)
            return
        many = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        value = float(self._get(job) or 0.0) + steps * many * self._step_now()
        self.setModified(False)
        # A step that cannot be is told, and the figure stays as it is.
        self._edit(round(value, 6))
        self.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._unit and (self.text() or not self._none):
            painter = QPainter(self)
            painter.setPen(QColor(theme().faint))
            painter.drawText(
                self.rect().adjusted(0, 0, -8, 0),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                self._unit,
            )
            painter.end()

    def _commit(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        value: float | None = None
        try:
            if self.text().strip() or not self._none:
                value = parse_amount(self.text(), "mm" if self._is_length else self._unit)
        except BadInput as error:
            self._session.said.emit(str(error))
            entered(self, False)
            return
        # What is typed and entered is an action of its own; steps by the arrow keys are one.
        self._session.end_action()
        entered(self, self._edit(value))
        self._session.end_action()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._session.end_action()

    def _edit(self, value: float | None) -> bool:
        return self._session.edit(self._name, lambda job: self._set(job, value), joins=True)


class TextField(Following, QLineEdit):
    """A name or other text of the job."""

    def __init__(self, session: Session, name: str, get: Get, set_: Set) -> None:
        super().__init__()
        self._session, self._name, self._get, self._set = session, name, get, set_
        self.setAccessibleName(name)
        self.setToolTip(told(name))
        self.editingFinished.connect(self._commit)
        self.textEdited.connect(lambda _: mark_refused(self, False))
        self.follow(session)

    def refresh(self) -> None:
        """Show the job's text, unless it is being typed over."""
        job = self._session.job
        if job is not None and not (self.isModified() and self.hasFocus()):
            self.setText(str(self._get(job)))
            self.setCursorPosition(0)
            mark_refused(self, False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not takes_back(self, event):
            super().keyPressEvent(event)

    def _commit(self) -> None:
        if self.isModified():
            self.setModified(False)
            text = self.text().strip()
            entered(self, self._session.edit(self._name, lambda job: self._set(job, text)))


class LinesField(Following, QPlainTextEdit):
    """Text of several lines; it is taken when the field is left, or by Ctrl+Return."""

    def __init__(self, session: Session, name: str, get: Get, set_: Set, *, lines: int = 2) -> None:
        super().__init__()
        self._session, self._name, self._get, self._set = session, name, get, set_
        self.setAccessibleName(name)
        self.setTabChangesFocus(True)
        self.textChanged.connect(lambda: mark_refused(self, False))
        fixed(self, high=17 * lines + 16)
        self.follow(session)

    def refresh(self) -> None:
        """Show the job's text, unless it is being typed over."""
        job = self._session.job
        if job is not None and not (self.document().isModified() and self.hasFocus()):
            text = str(self._get(job))
            if text != self.toPlainText():
                self.setPlainText(text)
            self.document().setModified(False)
            mark_refused(self, False)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._commit()
        super().focusOutEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if takes_back(self, event):
            return
        held = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if held and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._commit()
            return
        super().keyPressEvent(event)

    def _commit(self) -> None:
        if self.document().isModified():
            self.document().setModified(False)
            text = self.toPlainText().strip("\n")
            entered(self, self._session.edit(self._name, lambda job: self._set(job, text)))


class ChoiceField(Following, QComboBox):
    """One of a closed list, as pairs of value and words."""

    def __init__(
        self, session: Session, name: str, choices: Sequence[tuple[Any, str]], get: Get, set_: Set
    ) -> None:
        super().__init__()
        self._session, self._name, self._get, self._set = session, name, get, set_
        self._values = [value for value, _ in choices]
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumContentsLength(6)
        self.addItems([words for _, words in choices])
        self.activated.connect(self._commit)
        self.follow(session)

    def refresh(self) -> None:
        job = self._session.job
        if job is not None:
            value = self._get(job)
            index = self._values.index(value) if value in self._values else -1
            if index == self.currentIndex() and self.toolTip():
                return
            self.setCurrentIndex(index)
            # What is too long for the field is read in full on it.
            self.setToolTip(
                say("{told}\nNow: {words}", told=told(self._name), words=self.currentText())
            )

    def _commit(self, index: int) -> None:
        value = self._values[index]
        self._session.edit(self._name, lambda job: self._set(job, value))
        self.refresh()


class ButtonsField(Following, QWidget):
    """A few choices side by side, those in force filled."""

    GAP = 0

    def __init__(
        self,
        session: Session,
        name: str,
        choices: Sequence[tuple[StrEnum, str]],
        get: Get,
        set_: Set,
    ) -> None:
        super().__init__()
        self._session, self._name, self._get, self._set = session, name, get, set_
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(self.GAP)
        self._columns = len(choices)
        self._buttons: list[tuple[StrEnum, QPushButton]] = []
        for value, words in choices:
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAccessibleName(f"{name}: {words}")
            button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            button.setMinimumWidth(30)
            button.setProperty("role", "choice")
            button.clicked.connect(lambda _=False, value=value: self._choose(value))
            self._grid.addWidget(button, 0, len(self._buttons))
            self._buttons.append((value, button))
        self.follow(session)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        """Side by side, or two in a row where that is too narrow for their words."""
        buttons = [button for _, button in self._buttons]
        needed = sum(button.sizeHint().width() + self.GAP for button in buttons)
        columns = len(buttons) if needed <= self.width() or len(buttons) < 3 else 2
        if columns == self._columns:
            return
        self._columns = columns
        for place, button in enumerate(buttons):
            self._grid.addWidget(button, place // columns, place % columns)

    def _choose(self, value: StrEnum) -> None:
        chosen = self.chosen(value)
        self._session.edit(self._name, lambda job: self._set(job, chosen))
        # A choice that was refused or in force already must not look otherwise.
        self.refresh()

    def refresh(self) -> None:
        job = self._session.job
        if job is not None:
            value = self._get(job)
            for choice, button in self._buttons:
                fill(button, self.in_force(choice, value))

    def chosen(self, clicked: StrEnum) -> Any:
        """The job's value after a click."""
        return clicked

    def in_force(self, choice: StrEnum, value: Any) -> bool:
        return bool(choice == value)


class SwitchField(ButtonsField):
    """One of a closed list."""


class ToggleField(ButtonsField):
    """Several of a closed list, each on or off."""

    GAP = 3

    def chosen(self, clicked: StrEnum) -> Any:
        return frozenset(value for value, button in self._buttons if button.isChecked())

    def in_force(self, choice: StrEnum, value: Any) -> bool:
        return choice in value


class ColourField(Following, QPushButton):
    """A colour, shown and chosen."""

    chosen = Signal(str)

    def __init__(self, session: Session, name: str, get: Get, set_: Set) -> None:
        super().__init__()
        self._session, self._name, self._get, self._set = session, name, get, set_
        self.setAccessibleName(name)
        self.setToolTip(told(name))
        self.setProperty("role", "colour")
        self.setIconSize(QSize(28, 16))
        self.clicked.connect(self._ask)
        self.follow(session)

    def refresh(self) -> None:
        job = self._session.job
        if job is None:
            return
        colour = str(self._get(job))
        swatch = QPixmap(self.iconSize())
        swatch.fill(QColor(colour))
        self.setIcon(QIcon(swatch))
        self.setToolTip(f"{told(self._name)} ({colour})")
        self._word(colour)

    def _beside(self) -> int:
        return self.iconSize().width() + self.fontMetrics().horizontalAdvance(" #000000") + 28

    def sizeHint(self) -> QSize:
        return QSize(self._beside(), super().sizeHint().height())

    def _word(self, colour: str) -> None:
        """Name the colour beside its swatch where there is room; it is told on hover, too."""
        self.setText(f" {colour}" if self._beside() <= self.width() else "")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        job = self._session.job
        if job is not None:
            self._word(str(self._get(job)))

    def _ask(self) -> None:
        job = self._session.job
        if job is None:
            return
        picked = QColorDialog.getColor(QColor(str(self._get(job))), self, self._name)
        if picked.isValid():
            self._session.edit(self._name, lambda j: self._set(j, picked.name()))
