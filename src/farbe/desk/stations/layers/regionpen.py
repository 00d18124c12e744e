"""Drawing a region on a picture: a rectangle by dragging, any other shape corner by corner."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from farbe.desk.canvas import Canvas
from farbe.desk.marks import choice_pens
from farbe.desk.theme import theme
from farbe.model.piece import Ring

#: Pixels within which a click is on the first corner, and a drag is only a click.
NEAR = 8.0


@dataclass(frozen=True)
class RegionPen:
    """Corners set so far, in mm; where the button went down; where the pointer is.

    A value: each step gives the next pen, and the ring once it is closed.
    """

    corners: tuple[QPointF, ...] = ()
    down: QPointF | None = None
    here: QPointF | None = None

    def press(self, place: QPointF) -> RegionPen:
        return RegionPen(self.corners, place, place)

    def move(self, place: QPointF) -> RegionPen:
        return RegionPen(self.corners, self.down, place)

    def release(self, near: float) -> tuple[RegionPen, Ring | None]:
        """A drag is a rectangle; a click is a corner, on the first one it closes the shape.

        ``near`` is :data:`NEAR` in mm.
        """
        if self.down is None or self.here is None:
            return self, None
        box = QRectF(self.down, self.here).normalized()
        if not self.corners and box.width() > near / 2 and box.height() > near / 2:
            corners = (box.topLeft(), box.topRight(), box.bottomRight(), box.bottomLeft())
            return RegionPen(), _ring(corners)
        first = self.corners[0] if self.corners else None
        if first is not None and (first - self.here).manhattanLength() < near:
            return self.close()
        return RegionPen((*self.corners, self.here), None, self.here), None

    def close(self) -> tuple[RegionPen, Ring | None]:
        """The shape, if it has three corners."""
        if len(self.corners) < 3:
            return self, None
        return RegionPen(), _ring(self.corners)

    def back(self) -> RegionPen:
        """Take the last corner away."""
        return RegionPen(self.corners[:-1], None, self.here)

    def paint(self, painter: QPainter, canvas: Canvas) -> None:
        """Draw what is there so far."""
        for pen in choice_pens(1.5, Qt.PenStyle.DashLine):
            painter.setPen(pen)
            self._paint_lines(painter, canvas)

    def _paint_lines(self, painter: QPainter, canvas: Canvas) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.down is not None and self.here is not None and not self.corners:
            start, end = (canvas.at(p.x(), p.y()) for p in (self.down, self.here))
            painter.drawRect(QRectF(start, end).normalized())
        places = [canvas.at(p.x(), p.y()) for p in self.corners]
        ahead = [canvas.at(self.here.x(), self.here.y())] if places and self.here else []
        painter.drawPolyline(QPolygonF([*places, *ahead]))
        painter.setBrush(QColor(theme().accent))
        for place in places:
            painter.drawEllipse(place, 3.5, 3.5)


def _ring(corners: tuple[QPointF, ...]) -> Ring:
    return tuple((round(corner.x(), 2), round(corner.y(), 2)) for corner in corners)
