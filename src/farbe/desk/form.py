"""The inspector's form: groups of labelled rows, some of them folded away."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable

from PySide6.QtCore import QEvent, QPointF, QRect, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.theme import fixed, font, px, theme
from farbe.said import say


def label(text: str, role: str = "") -> QLabel:
    made = QLabel(text)
    made.setProperty("role", role)
    return made


def rule() -> QFrame:
    line = QFrame()
    line.setProperty("role", "rule")
    return line


class ElidedButton(QPushButton):
    """A button whose words end in dots where it is narrow; all of them are told on it."""

    #: What is left of its words at least, and kept free beside them.
    LEAST, AROUND = 48, 28

    def __init__(self, words: str = "", tip: str = "") -> None:
        super().__init__(words)
        self._words, self._tip = words, tip
        self._elide()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    @property
    def words(self) -> str:
        """All of its words."""
        return self._words

    def setText(self, words: str) -> None:
        self._words = words
        self._elide()

    def setToolTip(self, tip: str) -> None:
        self._tip = tip
        self._elide()

    def minimumSizeHint(self) -> QSize:
        return QSize(px(self.LEAST), super().minimumSizeHint().height())

    def sizeHint(self) -> QSize:
        wide = self.fontMetrics().horizontalAdvance(self._words) + px(self.AROUND)
        return QSize(wide, super().sizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._elide()

    def _elide(self) -> None:
        room = self.width() - px(self.AROUND)
        shown = self.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, room)
        whole = shown == self._words
        tip = self._tip if whole else f"{self._words}\n{self._tip}".strip()
        # Each of these has everything around it laid out anew.
        if shown != self.text():
            super().setText(shown)
        if not whole or self.accessibleName() == self._words:
            self.setAccessibleName("" if whole else self._words)
        if tip != self.toolTip():
            super().setToolTip(tip)


class Tall(QWidget):
    """As high as its rows need at its width: paragraphs get higher as they get narrower, and
    neither scroll areas nor nested layouts ask for that by themselves."""

    def event(self, event: QEvent) -> bool:
        layout = self.layout()
        if event.type() == QEvent.Type.Show:
            # What a paragraph said before it was first seen was not heard by its layout.
            for paragraph in self.findChildren(QLabel):
                paragraph.updateGeometry()
        if layout is not None and event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Resize):
            # Without a paragraph that shows, rows ask for what they need by themselves.
            needed = max(0, layout.totalHeightForWidth(self.width()))
            if needed != self.minimumHeight():
                self.setMinimumHeight(needed)
        return super().event(event)


class FoldHead(QAbstractButton):
    """A group's heading that opens and closes it."""

    def __init__(self, text: str, body: QWidget) -> None:
        super().__init__()
        self.body, self.faint = body, ""
        self.setText(text)
        self.setCheckable(True)
        fixed(self, high=24)
        self.setAccessibleName(say("Group {text}", text=text))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.toggled.connect(body.setVisible)
        # What is only folded away can still be set.
        body.setProperty("folded", True)
        body.setVisible(False)

    def say(self, faint: str) -> None:
        """The word at the right of the heading."""
        self.faint = faint
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(t.text))
        area = self.rect()
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(area.adjusted(px(16), 0, 0, 0), middle, self.text())
        wide = painter.fontMetrics().horizontalAdvance(self.text()) + px(24)
        painter.setFont(font(13))
        painter.setPen(QColor(t.faint))
        room = area.adjusted(wide, 0, 0, 0)
        words = painter.fontMetrics().elidedText(
            self.faint, Qt.TextElideMode.ElideRight, room.width()
        )
        painter.drawText(room, middle | Qt.AlignmentFlag.AlignRight, words)
        painter.setPen(QPen(QColor(t.accent if self.hasFocus() else t.faint), 1.6))
        x, y = 5.0, area.center().y() + 0.5
        if self.isChecked():
            painter.drawPolyline([QPointF(x - 4, y - 2), QPointF(x, y + 2), QPointF(x + 4, y - 2)])
        else:
            painter.drawPolyline([QPointF(x - 2, y - 4), QPointF(x + 2, y), QPointF(x - 2, y + 4)])
        painter.end()


class Column(QVBoxLayout):
    """Rows at the top of what room there is.

    An alignment does not do: it asks for no more height than its rows would like, and squeezes
    paragraphs that wrap.
    """

    def setGeometry(self, rect: QRect) -> None:
        wanted = self.heightForWidth(rect.width()) if self.hasHeightForWidth() else -1
        high = wanted if wanted >= 0 else self.sizeHint().height()
        super().setGeometry(QRect(rect.topLeft(), QSize(rect.width(), min(rect.height(), high))))


#: What a part of a form is, and what fills it.
Block = tuple[Hashable, Callable[["Form"], object]]


class Form(Tall):
    """Rows of label and control, in the order in which they are decided."""

    LABEL = 98

    def __init__(self) -> None:
        super().__init__()
        self._whole = Column(self)
        self._column: QVBoxLayout = self._whole
        self._column.setContentsMargins(16, 12, 16, 12)
        self._column.setSpacing(8)

    def title(self, text: str, faint: str = "") -> tuple[QLabel, QLabel]:
        """The heading of the inspector and the line under it; both may be set anew."""
        first, second = label(text, "title"), label(faint, "faint")
        second.setWordWrap(True)
        self._column.addWidget(first)
        self._column.addWidget(second)
        self._column.addSpacing(4)
        return first, second

    def head(self, text: str, faint: str = "") -> QLabel:
        """A group's heading under a line, with a word at its right; that may be set anew."""
        self._column.addSpacing(6)
        self._column.addWidget(rule())
        row = QHBoxLayout()
        first, second = label(text, "head"), label(faint, "faint")
        first.setWordWrap(True)
        row.addWidget(first, 1)
        row.addWidget(second)
        self._column.addLayout(row)
        return second

    def fold(self, text: str, *, opened: bool = False) -> FoldHead:
        """A group that can be folded away; what is added next belongs to it."""
        body = Tall()
        head = FoldHead(text, body)
        self._whole.addSpacing(2)
        self._whole.addWidget(rule())
        self._whole.addWidget(head)
        self._whole.addWidget(body)
        self._column = QVBoxLayout(body)
        self._column.setContentsMargins(0, 0, 0, 6)
        self._column.setSpacing(8)
        head.setChecked(opened)
        return head

    def reveal(self, field: QWidget) -> None:
        """Open the group that a field is in."""
        for head in self.findChildren(FoldHead):
            if head.body.isAncestorOf(field):
                head.setChecked(True)

    def button(self, words: str, run: Callable[[], object], tip: str = "") -> QPushButton:
        """A button over the whole width."""
        made = ElidedButton(words, tip)
        made.clicked.connect(lambda: run())
        self._column.addWidget(made)
        return made

    def row(self, text: str, *controls: QWidget) -> QWidget:
        """A labelled row of one or two controls; hide the widget it returns to hide the row."""
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        name = label(text)
        name.setWordWrap(True)
        fixed(name, wide=self.LABEL)
        name.setBuddy(controls[0])
        if name.sizeHint().width() > name.width():
            # A long word is told in full on it.
            name.setToolTip(text)
        grid.addWidget(name, 0, 0)
        for column, control in enumerate(controls, start=1):
            grid.addWidget(control, 0, column)
            grid.setColumnStretch(column, 1)
        self._column.addWidget(holder)
        return holder

    def beside(self, *buttons: QWidget) -> QWidget:
        """Buttons side by side over the whole width."""
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for button in buttons:
            row.addWidget(button)
        return self.wide(holder)

    def wide(self, widget: QWidget) -> QWidget:
        """A widget over the whole width."""
        self._column.addWidget(widget)
        return widget

    def words(self, text: str = "") -> QLabel:
        """A faint paragraph that may be set anew."""
        made = label(text, "faint")
        made.setWordWrap(True)
        self._column.addWidget(made)
        return made


class Blocks(QWidget):
    """Forms under each other, of which those that are wanted again are kept.

    A row takes longer to make than to be filled: where a step is added or moved, all else stays.
    """

    def __init__(self) -> None:
        super().__init__()
        self._forms: dict[Hashable, Form] = {}
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(8)

    def show_blocks(self, wanted: Iterable[Block]) -> None:
        """Show these and no others.

        Parameters
        ----------
        wanted : each with what it is, no two the same, and what fills it where it is not there
        """
        fillers = dict(wanted)
        for what in [what for what in self._forms if what not in fillers]:
            form = self._forms.pop(what)
            self._column.removeWidget(form)
            _let_go(form)
        for place, (what, fill) in enumerate(fillers.items()):
            form = self._forms.get(what) or self._filled(what, fill)
            if self._column.indexOf(form) != place:
                self._column.insertWidget(place, form)

    def _filled(self, what: Hashable, fill: Callable[[Form], object]) -> Form:
        form = self._forms[what] = Form()
        form.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        fill(form)
        return form


def emptied(column: QVBoxLayout) -> None:
    """Take all widgets out of a layout, for others.

    Parameters
    ----------
    column : that holds them
    """
    while (item := column.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            _let_go(widget)


def _let_go(widget: QWidget) -> None:
    """Have a widget go that was taken out; until then it is not seen."""
    widget.hide()
    widget.deleteLater()
