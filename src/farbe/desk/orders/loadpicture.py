"""A load seen from above: its pockets or places with their numbers, and whose piece lies there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

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


@dataclass(frozen=True)
class _View:
    """Where a board lies in the widget, pixels to a millimetre, and its corner in mm."""

    frame: QRectF
    scale: float
    x: float
    y: float
    lies: bool

    def shape(self, piece: LaidPiece) -> QPolygonF:
        """A piece's outline in pixels."""
        return QPolygonF([self._at(piece.x + float(x), piece.y + float(y))
                          for x, y in corners(piece.outline)])  # fmt: skip

    def _at(self, x: float, y: float) -> QPointF:
        across, along = (x - self.x) * self.scale, (y - self.y) * self.scale
        if self.lies:
            return QPointF(self.frame.left() + along, self.frame.top() + across)
        return QPointF(self.frame.left() + across, self.frame.bottom() - along)


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

    def _view(self, job: Faced) -> _View:
        """How a board or film is seen in the widget; a length of film lies along it."""
        base, lies = carrier_of(job).base(job), carrier_of(job).one_sheet
        area = area_of(self).adjusted(FREE, FREE, -FREE, -FREE)
        wide, high = (base.height, base.width) if lies else (base.width, base.height)
        scale = min(area.width() / max(wide, 1e-6), area.height() / max(high, 1e-6))
        frame = QRectF(0.0, 0.0, wide * scale, high * scale)
        frame.moveCenter(area.center())
        return _View(frame, scale, base.x, base.y, lies)

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
        view = self._view(job)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.field))
        painter.drawRect(view.frame)
        for piece in laid(job):
            self._piece(painter, piece, view.shape(piece))
        painter.end()

    def _piece(self, painter: QPainter, piece: LaidPiece, shape: QPolygonF) -> None:
        t = theme()
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
            view = self._view(self._job)
            for piece in laid(self._job):
                if view.shape(piece).containsPoint(
                    QPointF(event.pos()), Qt.FillRule.OddEvenFill
                ) and (order := self._orders.get(piece.shown)):
                    words = say("Place {number}: order {order}", number=piece.shown, order=order)
                    QToolTip.showText(event.globalPos(), words, self)
                    return True
            QToolTip.hideText()
            return True
        return super().event(event)
