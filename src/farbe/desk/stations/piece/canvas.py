"""The piece in plan and from the side."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPen, QPolygonF

from farbe.desk.canvas import Canvas
from farbe.desk.stations.base import Desk
from farbe.desk.theme import font
from farbe.edits.piece import with_depth, with_height, with_width
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.outline import outline
from farbe.layout.shapewords import shape_words
from farbe.model.piece import (
    Circle,
    Material,
    RoundBody,
    Surface,
)
from farbe.said import Spoken, say, spoken

#: Pixels within which an edge is taken hold of.
GRIP = 7.0


class Edge(Spoken):
    """What an edge that is dragged is of."""

    WIDTH = "width"
    LENGTH = "length"
    HEIGHT = "height"


_CHANGES = {Edge.WIDTH: with_width, Edge.LENGTH: with_height, Edge.HEIGHT: with_depth}


class PieceCanvas(Canvas):
    """The piece in plan and from the side, to scale, with its dimension lines."""

    SIDE_GAP = 0.24

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._drag_edge: Edge | None = None
        self._from: Faced | None = None
        self.setAccessibleName(say("The piece in plan and from the side; drag its edges"))
        desk.session.changed.connect(self._changed)

    def _changed(self) -> None:
        # While an edge is dragged the picture keeps its scale, or the edge would run away.
        if self._drag_edge is None:
            self.refit()
        else:
            self.update()

    def edge_at(self, place: QPointF) -> Edge | None:
        """The edge under a place in mm."""
        job = self._desk.session.job
        if job is None:
            return None
        if isinstance(job.piece.shape, RoundBody):
            # Its figures are typed.
            return None
        half_w, half_h = job.piece.shape.width / 2, job.piece.shape.height / 2
        near = GRIP / self.scale
        bottom = self._side_top(job) - job.piece.height
        if abs(place.y() - bottom) <= near and abs(place.x()) <= half_w:
            return Edge.HEIGHT
        if abs(abs(place.x()) - half_w) <= near and abs(place.y()) <= half_h + near:
            return Edge.WIDTH
        if abs(abs(place.y()) - half_h) <= near and abs(place.x()) <= half_w + near:
            return Edge.LENGTH
        return None

    def _side_top(self, job: Faced) -> float:
        """Where the side view's upper edge lies, in mm."""
        shape = job.piece.shape
        return -shape.height / 2 - self.SIDE_GAP * max(shape.width, shape.height)

    def pressed(self, place: QPointF) -> None:
        self._drag_edge = self.edge_at(place)
        self._from = self._desk.session.job

    def give_up(self) -> bool:
        if self._drag_edge is None:
            return False
        self._drag_edge = None
        self._desk.session.take_back(self._from)
        self.refit()
        return True

    def moved(self, event: QMouseEvent) -> None:
        place = self.millimetres(event.position())
        job, edge = self._desk.session.job, self._drag_edge
        if job is None:
            return
        if edge is None:
            shapes = {Edge.WIDTH: Qt.CursorShape.SizeHorCursor, None: Qt.CursorShape.ArrowCursor}
            self.setCursor(shapes.get(self.edge_at(place), Qt.CursorShape.SizeVerCursor))
            return
        fine = event.modifiers() & Qt.KeyboardModifier.AltModifier
        step = 0.1 if fine else 0.5
        if edge is Edge.HEIGHT:
            # The side view hangs from its upper edge; its lower edge is dragged.
            value = max(0.0, self._side_top(job) - place.y())
        else:
            value = max(step, 2 * abs(place.x() if edge is Edge.WIDTH else place.y()))
        stepped = round(round(value / step) * step, 2)
        change = _CHANGES[edge]
        self._desk.session.edit(
            say("Drag the {edge}", edge=edge.words), lambda j: change(j, stepped), joins=True
        )

    def released(self) -> None:
        if self._drag_edge is not None:
            self._drag_edge = None
            self._desk.session.end_action()
            self.refit()

    def world(self) -> QRectF:
        job = self._desk.session.job
        if job is None:
            return super().world()
        width, height = job.piece.shape.width, job.piece.shape.height
        margin = 0.2 * max(width, height)
        if isinstance(job.piece.shape, RoundBody):
            body = job.piece.shape
            deep = body.base + body.zone + max(body.rest, 0.0)
            deep += 0.26 * max(width, height) + 0.6 * margin
            return QRectF(-width / 2 - margin, -height / 2 - deep, width + 2 * margin,
                          height + deep + 0.4 * margin)  # fmt: skip
        below = self.SIDE_GAP * max(width, height) + job.piece.height
        return QRectF(
            -width / 2 - margin,
            -height / 2 - below - margin * 0.55,
            width + 2.4 * margin,
            height + below + margin * 0.85,
        )

    def paint_world(self, painter: QPainter) -> None:
        job = self._desk.session.job
        if job is None:
            return
        shape, surface = job.piece.shape, job.piece.surface
        edge = QPen(QColor("#2a2a2a"), 1.4)
        plan = self.shape_path(outline(job.piece.shape), self.at(0, 0))
        painter.setPen(edge)
        painter.setBrush(surface_brush(surface))
        painter.drawPath(plan)
        self._crosshair(painter)
        width, height = shape.width, shape.height
        gap = self.SIDE_GAP * max(width, height)
        if isinstance(shape, RoundBody):
            self._paint_body(painter, job, shape)
            return
        side = self.box(-width / 2, -height / 2 - gap - job.piece.height, width, job.piece.height)
        painter.setPen(edge)
        painter.setBrush(surface_brush(surface))
        painter.drawRect(side if side.height() >= 2 else side.adjusted(0, 0, 0, 2))
        if job.piece.relief:
            relief = side.top() + job.piece.relief * self.scale
            painter.setPen(QPen(QColor("#f0f0f0"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(side.left(), relief), QPointF(side.right(), relief))
        self._dimension(
            painter,
            QPointF(side.left(), side.bottom() + 20),
            QPointF(side.right(), side.bottom() + 20),
            measure(width),
        )
        right = self.at(width / 2, 0).x()
        if side.height() >= 1:
            self._dimension(
                painter,
                QPointF(right + 26, side.bottom()),
                QPointF(right + 26, side.top()),
                say("{height} high", height=measure(job.piece.height)),
            )
        if not isinstance(shape, Circle):
            top, bottom = self.at(0, height / 2).y(), self.at(0, -height / 2).y()
            self._dimension(
                painter,
                QPointF(right + 26, bottom),
                QPointF(right + 26, top),
                measure(height),
            )
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        left = self.at(-width / 2, 0).x()
        painter.drawText(
            QPointF(16, 24),
            say(
                "{piece}, {shape}, in plan",
                piece=spoken(job.piece.name),
                shape=shape_words(job.piece),
            ),
        )
        painter.drawText(QPointF(left, side.top() - 8), say("from the side"))

    def _paint_body(self, painter: QPainter, job: Faced, body: RoundBody) -> None:
        """The body from the side under its print rolled out, with their dimensions."""
        rest = max(body.rest, 0.0)
        top = -body.height / 2 - 0.26 * max(body.width, body.height) - rest
        near, far, zone = body.diameter, body.far_diameter, body.zone
        corners = [(-far / 2, top), (far / 2, top), (near / 2, top - zone), (-near / 2, top - zone)]
        painter.setPen(QPen(QColor("#2a2a2a"), 1.4))
        bottom = top - zone - body.base
        # What lies before the print and behind it is darker.
        painter.setBrush(surface_brush(job.piece.surface).color().darker(125))
        painter.drawRect(self.box(-near / 2, bottom, near, body.base))
        painter.drawRect(self.box(-far / 2, top, far, rest))
        painter.setBrush(surface_brush(job.piece.surface))
        painter.drawPolygon(QPolygonF([self.at(x, y) for x, y in corners]))
        down = QPointF(0, 16)
        self._dimension(
            painter, self.at(-near / 2, bottom) + down, self.at(near / 2, bottom) + down,
            measure(near),
        )  # fmt: skip
        side = QPointF(20, 0)
        wide = body.widest / 2
        self._dimension(
            painter, self.at(wide, top - zone) + side, self.at(wide, top) + side,
            say("{zone} printed", zone=measure(zone)),
        )  # fmt: skip
        if body.base:
            self._dimension(
                painter, self.at(wide, bottom) + side, self.at(wide, top - zone) + side,
                measure(body.base),
            )  # fmt: skip
        if body.length is not None:
            away = QPointF(-14, 0)
            start, end = self.at(-wide, bottom) + away, self.at(-wide, top + rest) + away
            self._dimension(painter, start, end, measure(body.length), before=True)
        if body.slope:
            left = QPointF(-12, -8)
            painter.drawText(self.at(-far / 2, top) + left + QPointF(0, 2), measure(far))
        below = QPointF(0, 14)
        low = -body.height / 2
        self._dimension(
            painter, self.at(-body.width / 2, low) + below, self.at(body.width / 2, low) + below,
            measure(body.width),
        )  # fmt: skip
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        words = say(
            "{piece}, what passes under the heads, {unrolled}",
            piece=spoken(job.piece.name),
            unrolled=body.unrolled.words,
        )
        painter.drawText(QPointF(16, 24), words)
        painter.drawText(
            self.at(-far / 2, top + rest) + QPointF(0, -24 if body.slope else -8), say("the body")
        )

    def _crosshair(self, painter: QPainter) -> None:
        painter.setPen(QPen(QColor(255, 255, 255, 90), 1, Qt.PenStyle.DashDotLine))
        centre = self.at(0, 0)
        painter.drawLine(centre - QPointF(14, 0), centre + QPointF(14, 0))
        painter.drawLine(centre - QPointF(0, 14), centre + QPointF(0, 14))

    def _dimension(
        self, painter: QPainter, start: QPointF, end: QPointF, text: str, *, before: bool = False
    ) -> None:
        """A line with end strokes and its figure in the middle or beside it."""
        painter.setPen(QPen(QColor("#f4f4f4"), 1.2))
        painter.drawLine(start, end)
        level = abs(start.y() - end.y()) < 1
        across = QPointF(0, 5) if level else QPointF(5, 0)
        for point in (start, end):
            painter.drawLine(point - across, point + across)
        painter.setFont(font(13, bold=True))
        middle = (start + end) / 2
        if level:
            painter.drawText(
                QRectF(middle.x() - 80, middle.y() + 3, 160, 18), Qt.AlignmentFlag.AlignCenter, text
            )
        else:
            left = middle.x() - 140 if before else middle.x() + 10
            side = Qt.AlignmentFlag.AlignRight if before else Qt.AlignmentFlag.AlignLeft
            painter.drawText(
                QRectF(left, middle.y() - 10, 130, 20), side | Qt.AlignmentFlag.AlignVCenter, text
            )


def surface_brush(surface: Surface) -> QBrush:
    """A surface as it looks, roughly: clear ones show a slanted gleam."""
    if surface.material is Material.CLEAR:
        return QBrush(QColor(225, 238, 244, 70))
    colour = QColor(surface.colour)
    if surface.material is Material.TRANSLUCENT:
        colour.setAlpha(200)
    return QBrush(colour)
