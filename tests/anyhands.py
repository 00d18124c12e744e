"""Hands that do anything at a window: they know nothing of it but what can be seen and reached."""

from __future__ import annotations

import random
from pathlib import Path

import numpy as np
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QLineEdit,
    QMenu,
    QSlider,
    QTableView,
    QWidget,
)
from shiboken6 import isValid

from conftest import small_art
from farbe.desk.app import settle
from farbe.desk.canvas import Canvas
from farbe.desk.session import SEEN
from farbe.desk.window import MainWindow
from farbe.plan.stations import Station

K, M, LEFT = Qt.Key, Qt.KeyboardModifier, Qt.MouseButton.LeftButton
KEYS = (K.Key_Delete, K.Key_Left, K.Key_Right, K.Key_Up, K.Key_Down, K.Key_Escape, K.Key_Tab,
        K.Key_Plus, K.Key_Minus, K.Key_Space, K.Key_Return, K.Key_Home, K.Key_A)  # fmt: skip
MODIFIERS = (M.NoModifier, M.NoModifier, M.ShiftModifier, M.ControlModifier)
WORDS = ("0", "1", "2.5", "-3", "45", "1000", "abc", "", "3*4", "1/0", "{#}", "Ida", "50%", "12 in")
#: What leaves the job, opens a program, or takes minutes on the press.
LEFT_OUT = ("Print", "Send", "Quit", "lose", "Start page", "New", "Open", "window", "vert", "guide",
            "Recent", "Teach", "Measure")  # fmt: skip


def files(folder: Path) -> list[Path]:
    """What may be dropped: pictures, a drawing, and what is none."""
    folder.mkdir()
    (folder / "bad.png").write_bytes(b"nothing")
    (folder / "words.txt").write_text("hello")
    (folder / "drawn.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="20mm">'
        '<rect width="50" height="30" fill="#c03"/></svg>'
    )
    grey = np.random.default_rng(1).integers(0, 256, (40, 60), dtype=np.uint8)
    Image.fromarray(grey).save(folder / "grey.jpg")
    small_art(folder / "small.png")
    return sorted(folder.iterdir())


def named(widget: QWidget) -> str:
    words = widget.accessibleName() or getattr(widget, "text", str)() or widget.objectName()
    return f"{type(widget).__name__} “{words}”"


class Hands:
    """What they did is told in ``did``, for whoever wants to do it again."""

    def __init__(self, window: MainWindow, seed: int, dropped: list[Path]) -> None:
        assert window.bench is not None
        self.window, self.rng, self.dropped = window, random.Random(seed), dropped
        self.did: list[str] = []
        self.at: QWidget = window.bench

    def do(self) -> None:
        """Any one thing; now and then with time for what follows from it."""
        # As before each key and click that comes through the window.
        self.window.workers.do_now(SEEN)
        acts = {
            self.type: 8, self.choose: 5, self.press: 10, self.slide: 2, self.point: 10,
            self.key: 4, self.pick: 2, self.visit: 3, self.step: 4, self.side: 1, self.menu: 3,
            self.drop: 1, self.around: 3, self.wait: 2,
        }  # fmt: skip
        self.rng.choices(list(acts), list(acts.values()))[0]()
        if self.rng.random() < 0.5:
            QApplication.processEvents()
        for other in QApplication.topLevelWidgets():
            if other is not self.window and other.isVisible() and not isinstance(other, QMenu):
                self.within(other)
                if isValid(other):
                    other.close()

    def tell(self, words: str) -> None:
        self.did.append(words)

    def one(self, kind: type[QWidget]) -> QWidget | None:
        """Any widget of a kind that can be seen and used."""
        found = [
            one for one in self.at.findChildren(kind)
            if one.isVisible() and one.isEnabled() and not one.visibleRegion().isEmpty()
            and not any(words in named(one) for words in LEFT_OUT)
        ]  # fmt: skip
        return self.rng.choice(found) if found else None

    # what lies in a form

    def type(self) -> None:
        if (field := self.one(QLineEdit)) is not None:
            words = self.rng.choice(WORDS)
            self.tell(f"type {words!r} into {named(field)}")
            field.setFocus()
            field.selectAll()  # type: ignore[attr-defined]
            QTest.keyClicks(field, words)
            QTest.keyClick(field, self.rng.choice((K.Key_Return, K.Key_Tab, K.Key_Escape)))

    def choose(self) -> None:
        box = self.one(QComboBox)
        if isinstance(box, QComboBox) and box.count():
            index = self.rng.randrange(box.count())
            self.tell(f"choose {box.itemText(index)} of {named(box)}")
            box.setCurrentIndex(index)
            box.activated.emit(index)

    def press(self) -> None:
        if (button := self.one(QAbstractButton)) is not None:
            self.tell(f"press {named(button)}")
            menu = button.menu() if hasattr(button, "menu") else None
            if isinstance(menu, QMenu):
                self.take_of(menu)
            else:
                QTest.mouseClick(button, LEFT)

    def take_of(self, menu: QMenu) -> None:
        menu.aboutToShow.emit()
        acts = [act for act in menu.actions() if act.isEnabled() and not act.isSeparator()]
        if acts:
            act = self.rng.choice(acts)
            self.tell(f"  and take {act.text()}")
            more = act.menu()
            self.take_of(more) if isinstance(more, QMenu) else act.trigger()

    def slide(self) -> None:
        slider = self.one(QSlider)
        if isinstance(slider, QSlider):
            self.tell(f"slide {named(slider)}")
            slider.setValue(self.rng.randint(slider.minimum(), slider.maximum()))

    def pick(self) -> None:
        view = self.one(QAbstractItemView)
        model = view.model() if isinstance(view, QAbstractItemView) else None
        if isinstance(view, QAbstractItemView) and model is not None and model.rowCount():
            columns = model.columnCount() if isinstance(view, QTableView) else 1
            index = model.index(self.rng.randrange(model.rowCount()), self.rng.randrange(columns))
            self.tell(f"pick {index.row()}, {index.column()} of {named(view)}")
            view.scrollTo(index)
            QTest.mouseClick(view.viewport(), LEFT, pos=view.visualRect(index).center())
            if self.rng.random() < 0.5:
                QTest.keyClick(view, self.rng.choice(KEYS))

    # pictures

    def spot(self, canvas: QWidget) -> QPoint:
        return QPoint(self.rng.randrange(canvas.width()), self.rng.randrange(canvas.height()))

    def point(self) -> None:
        if (canvas := self.one(Canvas)) is not None:
            act = self.rng.choice((self.click, self.drag, self.roll, self.strike))
            where, held = self.spot(canvas), self.rng.choice(MODIFIERS)
            self.tell(f"{act.__name__} at {where.toTuple()} of {named(canvas)}, {held}")
            act(canvas, where, held)

    def click(self, canvas: QWidget, where: QPoint, held: M) -> None:
        button = self.rng.choice((LEFT, LEFT, Qt.MouseButton.RightButton))
        self.rng.choice((QTest.mouseClick, QTest.mouseDClick))(canvas, button, held, where)

    def drag(self, canvas: QWidget, where: QPoint, held: M) -> None:
        QTest.mousePress(canvas, LEFT, held, where)
        for _ in range(self.rng.randint(1, 5)):
            where += QPoint(self.rng.randint(-60, 60), self.rng.randint(-60, 60))
            QTest.mouseMove(canvas, where)
            if self.rng.random() < 0.1:
                QTest.keyClick(canvas, K.Key_Escape)
        QTest.mouseRelease(canvas, LEFT, held, where)

    def roll(self, canvas: QWidget, where: QPoint, held: M) -> None:
        for _ in range(self.rng.randint(1, 6)):
            QApplication.sendEvent(canvas, QWheelEvent(
                QPointF(where), QPointF(canvas.mapToGlobal(where)), QPoint(),
                QPoint(0, self.rng.choice((120, 120, -120))), Qt.MouseButton.NoButton, held,
                Qt.ScrollPhase.NoScrollPhase, False,
            ))  # fmt: skip

    def strike(self, canvas: QWidget, _: QPoint, held: M) -> None:
        canvas.setFocus()
        QTest.keyClick(canvas, self.rng.choice(KEYS), held)

    # the window

    def key(self) -> None:
        key, to = self.rng.choice(KEYS), QApplication.focusWidget() or self.window
        self.tell(f"key {key} to {named(to)}")
        QTest.keyClick(to, key)

    def visit(self) -> None:
        station = self.rng.choice(list(Station))
        self.tell(f"visit {station}")
        self.window.visit(station)

    def step(self) -> None:
        session = self.window.session
        if self.rng.random() < 0.7 and session.undo_name:
            self.tell(f"undo {session.undo_name}")
            session.undo()
        elif session.redo_name:
            self.tell(f"redo {session.redo_name}")
            session.redo()

    def side(self) -> None:
        self.tell("other side")
        self.window.switch_side()

    def menu(self) -> None:
        # What is told beside an action is what it opens anew.
        acts = [
            act for act in self.window._menus.actions
            if act.isEnabled() and act.data() not in ("Sample", "New job")
            and not any(words in act.text().replace("&", "") for words in LEFT_OUT)
        ]  # fmt: skip
        act = self.rng.choice(acts)
        self.tell(f"menu {act.text()}")
        act.trigger()

    def drop(self) -> None:
        path, pocket = self.rng.choice(self.dropped), self.rng.choice((None, None, 1, 2))
        self.tell(f"drop {path.name} on {pocket}")
        self.window.intake.add([path], pocket=pocket)

    def around(self) -> None:
        """At what lies around the stations."""
        window, before = self.window, self.at
        self.at = self.rng.choice(
            (window.check_bar, window.job_line, window.look_strip, window.rail)
        )
        self.press()
        self.at = before

    def wait(self) -> None:
        self.tell("wait")
        settle(self.window)

    # other windows

    def within(self, other: QWidget) -> None:
        """Some things in another window or a dialog."""
        self.tell(f"in {named(other)} {other.windowTitle()}")
        before, self.at = self.at, other
        for _ in range(self.rng.randrange(5)):
            if isValid(other) and other.isVisible():
                self.rng.choice((self.type, self.choose, self.press, self.pick, self.point))()
        self.at = before

    def execute(self, dialog: QDialog) -> int:
        """What a dialog is asked that the window waits for."""
        dialog.show()
        self.within(dialog)
        if isValid(dialog) and dialog.isVisible():
            self.rng.choice((dialog.accept, dialog.reject))()
        return dialog.result() if isValid(dialog) else 0
