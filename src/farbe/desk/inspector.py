"""The inspector: a short list of the things of a station, and the values of the chosen one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QHideEvent, QPainter, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from farbe.checks.weight import Weight
from farbe.desk.form import Form
from farbe.desk.marks import paint_weight
from farbe.desk.theme import fixed, font, px, theme
from farbe.said import say, spoken

ROW = 21
_STATE, _WEIGHT, _NAME = (Qt.ItemDataRole.UserRole + nth for nth in range(3))


class _RowPainter(QStyledItemDelegate):
    """A thing: its name, the mark of its worst finding, its state in a word."""

    def sizeHint(
        self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> QSize:
        return QSize(80, px(ROW))

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        t, area = theme(), QRectF(option.rect)
        state = option.state
        chosen = bool(state & QStyle.StateFlag.State_Selected)
        painter.save()
        if chosen:
            painter.fillRect(area, QColor(t.panel))
            painter.fillRect(QRectF(area.left(), area.top(), px(3), area.height()),
                             QColor(t.accent))  # fmt: skip
        name, room = str(index.data()), area.adjusted(px(16), 0, -px(16), 0)
        painter.setFont(font(13, bold=chosen))
        painter.setPen(QColor(t.text))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(room, middle, name)
        taken = painter.fontMetrics().horizontalAdvance(name) + px(8)
        weight = index.data(_WEIGHT)
        if weight is not None:
            side = px(10)
            mark = QRectF(room.left() + taken, area.center().y() - side / 2, side, side)
            paint_weight(painter, mark, Weight(weight))
            taken += side + px(8)
        painter.setFont(font(12.5))
        painter.setPen(QColor(t.faint))
        left = room.adjusted(taken, 0, 0, 0)
        words = painter.fontMetrics().elidedText(
            str(index.data(_STATE) or ""), Qt.TextElideMode.ElideRight, int(left.width())
        )
        painter.drawText(left, middle | Qt.AlignmentFlag.AlignRight, words)
        if chosen and state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QColor(t.accent))
            painter.drawRect(area.adjusted(0.5, 0.5, -0.5, -0.5))
        painter.restore()


class Thing:
    """One line of the list, and the page of its values."""

    def __init__(self, name: str, page: QScrollArea) -> None:
        self._item, self.page = QListWidgetItem(), page
        self.rename(name)

    @property
    def item(self) -> QListWidgetItem:
        """Its line."""
        return self._item

    @property
    def name(self) -> str:
        """By what it is known; a layer's own name may be read in another language."""
        return str(self._item.data(_NAME) or "")

    @property
    def state(self) -> str:
        """What is said of it in the list."""
        return str(self._item.data(_STATE) or "")

    def say(self, state: str) -> None:
        """Its state, in a word or a figure."""
        if self._item.data(_STATE) != state:
            self._item.setData(_STATE, state)
            self._tell()

    def mark(self, weight: Weight | None) -> None:
        """The worst that was found in it; None for nothing."""
        if self._item.data(_WEIGHT) != weight:
            self._item.setData(_WEIGHT, weight)
            self._tell()

    def _tell(self) -> None:
        state, weight = self._item.data(_STATE), self._item.data(_WEIGHT)
        words = ", ".join(filter(None, (self._item.text(), state, weight and Weight(weight).words)))
        self._item.setData(Qt.ItemDataRole.AccessibleTextRole, words)
        self._item.setToolTip(words)

    def rename(self, name: str) -> None:
        """Call it otherwise."""
        if name != self.name:
            self._item.setData(_NAME, name)
            self._item.setText(spoken(name))
            self._tell()

    def offer(self, there: bool) -> None:
        """Whether this job has it."""
        listed = self._item.listWidget()
        if listed is not None and self._item.isHidden() == there:
            self._item.setHidden(not there)
            listed.updateGeometry()
            if not there and listed.currentItem() is self._item:
                shown = (listed.item(row) for row in range(listed.count()))
                listed.setCurrentItem(next(item for item in shown if not item.isHidden()))

    @property
    def is_there(self) -> bool:
        return not self._item.isHidden()


class _ThingList(QListWidget):
    """As high as what it lists."""

    def sizeHint(self) -> QSize:
        shown = sum(not self.item(row).isHidden() for row in range(self.count()))
        return QSize(200, shown * px(ROW) + px(12))

    def minimumSizeHint(self) -> QSize:
        return QSize(200, min(self.sizeHint().height(), px(3 * ROW)))


def scrolled(form: QWidget) -> QScrollArea:
    """A form that scrolls where it has no room."""
    area = QScrollArea()
    area.setWidget(form)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


class Inspector(QWidget):
    """What can be chosen at a station, and the values of what is.

    With one thing alone there is no list.
    """

    #: The name of the thing that is chosen now.
    chosen = Signal(str)
    #: It comes into view, and out of it.
    shown = Signal()
    left = Signal()
    WIDE = 316

    def __init__(self, name: str) -> None:
        super().__init__()
        fixed(self, wide=self.WIDE)
        self.things: list[Thing] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        #: The list of what can be chosen.
        self.listed = _ThingList()
        self.listed.setProperty("role", "things")
        self.listed.setAccessibleName(say("{name}: what can be chosen", name=name))
        self.listed.setItemDelegate(_RowPainter(self.listed))
        # Of hundreds of rows all would be asked how high they are whenever one changes.
        self.listed.setUniformItemSizes(True)
        self.listed.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.listed.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.listed.hide()
        self._pages = QStackedWidget()
        self._column.addWidget(self.listed)
        self._column.addWidget(self._pages, 1)
        self.listed.currentRowChanged.connect(self._turned)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.shown.emit()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.left.emit()

    def above(self, widget: QWidget) -> None:
        """Put something above the list: what the station is for."""
        self._column.insertWidget(0, widget)

    def add(self, name: str, form: Form) -> Thing:
        """One more thing, with the rows of its values."""
        page = scrolled(form)
        page.setAccessibleName(name)
        self.add_page(page)
        return self.insert(len(self.things), name, page)

    def add_page(self, page: QScrollArea) -> None:
        """A page for things that are inserted later."""
        self._pages.addWidget(page)

    def insert(self, at: int, name: str, page: QScrollArea) -> Thing:
        """A thing whose values are on a page that others share.

        Parameters
        ----------
        at : its place in the list
        name : what it is called there
        page : of another thing
        """
        thing = Thing(name, page)
        self.things.insert(at, thing)
        self.listed.insertItem(at, thing.item)
        self.listed.setVisible(len(self.things) > 1)
        if len(self.things) == 1:
            self.listed.setCurrentRow(0)
        self.listed.updateGeometry()
        return thing

    def remove(self, thing: Thing) -> None:
        """Take a thing off the list; its page stays for others."""
        row = self.things.index(thing)
        del self.things[row]
        self.listed.takeItem(row)
        self.listed.updateGeometry()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        # In low windows the values keep the larger share.
        self.listed.setMaximumHeight(max(px(3 * ROW), round(self.height() * 0.45)))

    def _turned(self, row: int) -> None:
        if 0 <= row < len(self.things):
            self._pages.setCurrentWidget(self.things[row].page)
            self.chosen.emit(self.things[row].name)

    @property
    def current(self) -> Thing:
        """The thing whose values are seen."""
        return self.things[max(0, self.listed.currentRow())]

    def choose(self, thing: Thing) -> None:
        """Show the values of a thing."""
        self.listed.setCurrentRow(self.things.index(thing))
        self._pages.setCurrentWidget(thing.page)

    def holding(self, field: QWidget) -> Thing | None:
        """The thing that a value belongs to."""
        return next((one for one in self.things if one.page.isAncestorOf(field)), None)

    def thing_named(self, name: str) -> Thing | None:
        """A thing of the list by its name; of two, the one that this job has."""
        return next((one for one in self.things if one.name == name and one.is_there), None)

    def values(self) -> dict[str, list[QWidget]]:
        """What values are set by, by their names without units."""
        found: dict[str, list[QWidget]] = {}
        for kind in (QLineEdit, QComboBox, QAbstractButton, QPlainTextEdit):
            for field in self.findChildren(kind):
                said = field.accessibleName() or getattr(field, "text", str)()
                found.setdefault(said.split(",")[0], []).append(field)
        return found

    def first_of(
        self, names: Iterable[str], values: Mapping[str, list[QWidget]] | None = None
    ) -> QWidget | None:
        """The first of some values that this job has.

        Parameters
        ----------
        names : of the values, without units
        values : where many are asked for, :meth:`values`, since to look for them takes long
        """
        found = self.values() if values is None else values
        fields = (field for name in names for field in found.get(name, ()))
        return next((field for field in fields if self.offers(field)), None)

    def offers(self, field: QWidget) -> bool:
        """Whether a value can be set in this job: its thing is there and its row is shown."""
        thing = self.holding(field)
        if thing is None or not thing.is_there:
            return False
        form, at = thing.page.widget(), field
        while at is not form and at is not None:
            if at.isHidden() and not at.property("folded"):
                return False
            at = at.parentWidget()  # type: ignore[assignment]
        return True

    def reveal(self, field: QWidget) -> None:
        """Choose the thing of a value, unfold what hides it, and give it the keys."""
        thing = self.holding(field)
        if thing is None:
            return
        self.choose(thing)
        for form in (thing.page.widget(), *thing.page.findChildren(Form)):
            if isinstance(form, Form):
                form.reveal(field)
        thing.page.ensureWidgetVisible(field)
        field.setFocus(Qt.FocusReason.OtherFocusReason)

    def mark(self, weights: Mapping[str, Weight]) -> None:
        """Mark things with what was found in them.

        Parameters
        ----------
        weights : the worst one of each thing, by its name
        """
        for thing in self.things:
            thing.mark(weights.get(thing.name))
