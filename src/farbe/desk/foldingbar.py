"""A row of buttons that folds those into a menu for which it has no room."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRect, QSize
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QMenu, QPushButton, QSizePolicy, QWidget


class FoldingBar(QWidget):
    """Buttons and other controls from left to right; the last ones give way first.

    Parameters
    ----------
    name : of the button that opens the menu, for those who do not see it
    gap : pixels between two controls
    """

    def __init__(self, name: str, gap: int = 4) -> None:
        super().__init__()
        self._gap = gap
        self._parts: list[QWidget] = []
        self._unwanted: set[QWidget] = set()
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill)
        self.more = QPushButton("⋯", self)
        self.more.setAccessibleName(name)
        self.more.setToolTip(name)
        self.more.clicked.connect(self._open)
        self._folded: list[QAbstractButton] = []
        #: The size that was asked for last.
        self._told = QSize()
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def add(self, part: QWidget) -> None:
        """One more control at the right end."""
        part.setParent(self)
        self._parts.append(part)
        self.arrange()

    def want(self, part: QWidget, wanted: bool) -> None:
        """Whether a control is of use now."""
        if (part in self._unwanted) == wanted:
            (self._unwanted.discard if wanted else self._unwanted.add)(part)
            self.arrange()

    def _wanted(self) -> list[QWidget]:
        return [part for part in self._parts if part not in self._unwanted]

    def _together(self, parts: list[QWidget]) -> int:
        wide = sum(part.sizeHint().width() for part in parts)
        return wide + self._gap * max(0, len(parts) - 1)

    def sizeHint(self) -> QSize:
        parts = [*self._wanted(), self.more]
        high = max(part.sizeHint().height() for part in parts)
        return QSize(self._together(self._wanted()), high)

    def minimumSizeHint(self) -> QSize:
        fixed = [part for part in self._wanted() if not isinstance(part, QAbstractButton)]
        return QSize(self._together([*fixed, self.more]), self.sizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.arrange()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.LayoutRequest:
            # A control has other words, or was dressed.
            self.arrange()
        return super().event(event)

    def arrange(self) -> None:
        """Place what there is room for; the rest goes into the menu."""
        shown, self._folded = self._wanted(), []
        if self._together(shown) > self.width():
            room = self.width() - self.more.sizeHint().width() - self._gap
            while self._together(shown) > room:
                last = next((p for p in reversed(shown) if isinstance(p, QAbstractButton)), None)
                if last is None:
                    break
                shown.remove(last)
                self._folded.insert(0, last)
        at, high = 0, self.sizeHint().height()
        for part in [*shown, *([self.more] if self._folded else [])]:
            hint = part.sizeHint()
            part.setGeometry(QRect(at, (high - hint.height()) // 2, hint.width(), hint.height()))
            at += hint.width() + self._gap
        for part in self._parts:
            part.setVisible(part in shown)
        self.more.setVisible(bool(self._folded))
        if self.sizeHint() != self._told:
            self._told = self.sizeHint()
            self.updateGeometry()

    def _fill(self) -> None:
        self._menu.clear()
        for button in self._folded:
            action = self._menu.addAction(button.text() or button.accessibleName(), button.click)
            action.setEnabled(button.isEnabled())
            action.setToolTip(button.toolTip())

    def _open(self) -> None:
        self._menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))
