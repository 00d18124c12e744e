"""A load seen from above: its pockets or places with their numbers, and whose piece lies there."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QHelpEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QToolTip, QWidget

from farbe.desk.theme import area_of, drawn_at_scale, plain_font, theme
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.laid import LaidPiece, laid
from farbe.layout.outline import corners
from farbe.orders.plan import Load
from farbe.said import say

#: Pixels that stay free around, and from which an order's number is written out.
FREE, LEGIBLE = 8.0, 40.0
_PLAIN, _CHOSEN, _LOST = 0, 1, 2


class LoadPicture(QWidget):
    """Where each piece of a load lies."""

    def __init__(self) -> None:
        super().__init__()
        self._job: Faced | None = None
        self._orders: Mapping[int, str] = {}
        self._lost: frozenset[int] = frozenset()
        self._chosen: frozenset[str] = frozenset()
        self.setAccessibleName(say("The load from above"))
        self.setMinimumHeight(120)

    def sizeHint(self) -> QSize:
        return QSize(420, 220)

    def show_load(self, load: Load | None, job: Faced | None) -> None:
        """Show another load; None shows none."""
        self._job = job
        self._orders = {} if load is None else {p.number: p.order for p in load.places}
        self._lost = frozenset() if load is None else frozenset(load.failed)
        told = "" if load is None else say("{load} from above", load=load.name)
        self.setAccessibleDescription(told)
        self.update()

    def choose(self, orders: frozenset[str]) -> None:
        """Mark the pieces of some orders."""
        self._chosen = orders
        self.update()

    def _frame(self) -> tuple[QRectF, float]:
        """Where the board or film lies in the widget, and pixels to a millimetre."""
        job = self._job
        base = carrier_of(job).base(job) if job is not None else None
        area = area_of(self).adjusted(FREE, FREE, -FREE, -FREE)
        if base is None or base.width <= 0 or base.height <= 0:
            return area, 1.0
        # A length of film lies along the picture.
        wide, high = (base.height, base.width) if self._lies else (base.width, base.height)
        scale = min(area.width() / wide, area.height() / high)
        size = QSize(round(wide * scale), round(high * scale))
        left = area.left() + (area.width() - size.width()) / 2
        top = area.top() + (area.height() - size.height()) / 2
        return QRectF(left, top, size.width(), size.height()), scale

    @property
    def _lies(self) -> bool:
        return self._job is not None and self._job.roll is not None

    def _at(self, x: float, y: float) -> QPointF:
        """The pixel of a place in mm from the bed's near left corner."""
        frame, scale = self._frame()
        job = self._job
        if job is None:
            return frame.topLeft()
        base = carrier_of(job).base(job)
        across, along = x - base.x, y - base.y
        if self._lies:
            return QPointF(frame.left() + along * scale, frame.top() + across * scale)
        return QPointF(frame.left() + across * scale, frame.bottom() - along * scale)

    def _shape(self, piece: LaidPiece) -> QPolygonF:
        points = corners(piece.outline)
        return QPolygonF([self._at(piece.x + float(x), piece.y + float(y)) for x, y in points])

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, t, job = QPainter(self), theme(), self._job
        drawn_at_scale(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if job is None:
            painter.setPen(QColor(t.faint))
            painter.setFont(plain_font())
            painter.drawText(area_of(self), Qt.AlignmentFlag.AlignCenter,
                             say("Choose a load to see whose piece lies where."))  # fmt: skip
            painter.end()
            return
        frame, _scale = self._frame()
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.field))
        painter.drawRect(frame)
        for piece in laid(job):
            self._piece(painter, piece)
        painter.end()

    def _piece(self, painter: QPainter, piece: LaidPiece) -> None:
        t, shape = theme(), self._shape(piece)
        order = self._orders.get(piece.shown, "")
        chosen, lost = order in self._chosen, piece.shown in self._lost
        painter.setPen(QPen(QColor(t.accent if chosen else t.faint), 2.0 if chosen else 1.0))
        painter.setBrush(QColor(t.panel) if order else Qt.BrushStyle.NoBrush)
        painter.drawPolygon(shape)
        box = shape.boundingRect()
        if lost:
            painter.drawLine(box.topLeft(), box.bottomRight())
            painter.drawLine(box.topRight(), box.bottomLeft())
        painter.setPen(QColor(t.text))
        legible = box.width() >= LEGIBLE and box.height() >= 26
        painter.setFont(plain_font(11, bold=True))
        flags = Qt.AlignmentFlag
        upper = box.adjusted(0, 0, 0, -box.height() / 2) if legible else box
        side = flags.AlignBottom if legible else flags.AlignVCenter
        if box.width() > 12:
            painter.drawText(upper, int(side | flags.AlignHCenter), str(piece.shown))
        if legible:
            painter.setFont(plain_font(10))
            lower = box.adjusted(0, box.height() / 2, 0, 0)
            words = painter.fontMetrics().elidedText(
                order, Qt.TextElideMode.ElideRight, int(box.width() - 4)
            )
            painter.drawText(lower, int(flags.AlignTop | flags.AlignHCenter), words)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent) and self._job:
            for piece in laid(self._job):
                if self._shape(piece).containsPoint(
                    QPointF(event.pos()), Qt.FillRule.OddEvenFill
                ) and (order := self._orders.get(piece.shown)):
                    words = say("Place {number}: order {order}", number=piece.shown, order=order)
                    QToolTip.showText(event.globalPos(), words, self)
                    return True
            QToolTip.hideText()
            return True
        return super().event(event)
