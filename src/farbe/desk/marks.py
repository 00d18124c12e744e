"""Farbe's own marks: patterns of layers, marks of findings, signs of stations."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from farbe.checks.weight import Weight
from farbe.desk.theme import contrast, theme
from farbe.model.printer import LayerKind
from farbe.plan.stations import Station

BARS = ("#1497c9", "#c73478", "#d9b81c", "#242426")


def choice_pens(
    width: float = 2.5, style: Qt.PenStyle = Qt.PenStyle.SolidLine
) -> tuple[QPen, QPen]:
    """What is chosen is drawn with one after the other: seen on every ground.

    The first is wider, white or nearly black, whichever the accent stands out from.
    """
    accent = theme().accent
    around = max(("#ffffff", "#141414"), key=lambda one: contrast(one, accent))
    return QPen(QColor(around), width + 2.5), QPen(QColor(accent), width, style)


@cache
def pattern(kind: LayerKind) -> QBrush:
    """A tile that tells a layer by its pattern first: hatch for white, dots for varnish."""
    if kind is LayerKind.WHITE:
        tile = QPixmap(12, 12)
        tile.fill(QColor("#ffffff"))
        painter = QPainter(tile)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor("#aab2ba"), 1.1))
        for shift in (-12, 0, 12):
            painter.drawLine(QPointF(shift - 1, 13), QPointF(shift + 13, -1))
        painter.end()
        return QBrush(tile)
    if kind is LayerKind.VARNISH:
        tile = QPixmap(10, 10)
        tile.fill(QColor("#eadfc4"))
        painter = QPainter(tile)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#a9791d"))
        for x, y in ((2.5, 2.5), (7.5, 7.5)):
            painter.drawEllipse(QPointF(x, y), 1.3, 1.3)
        painter.end()
        return QBrush(tile)
    if kind is LayerKind.BLACKOUT:
        return QBrush(QColor("#2a2b2d"))
    tile = QPixmap(10, 10)
    tile.fill(QColor("#d9c27a"))
    painter = QPainter(tile)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor("#7c6420"), 1))
    for shift in (-10, 0, 10):
        painter.drawLine(QPointF(shift - 1, 11), QPointF(shift + 11, -1))
        painter.drawLine(QPointF(shift - 1, -1), QPointF(shift + 11, 11))
    painter.end()
    return QBrush(tile)


def paint_film(painter: QPainter, box: QRectF, kind: LayerKind) -> None:
    """A film in the section, filled in its pattern."""
    painter.setPen(Qt.PenStyle.NoPen)
    if kind is LayerKind.COLOUR:
        height = box.height() / len(BARS)
        for i, colour in enumerate(BARS):
            top = box.bottom() - (i + 1) * height
            painter.fillRect(QRectF(box.left(), top, box.width(), height), QColor(colour))
        return
    painter.save()
    painter.setBrushOrigin(box.topLeft())
    painter.fillRect(box, pattern(kind))
    painter.restore()
    painter.setPen(QPen(QColor("#8a8a8a"), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)


def weight_colour(weight: Weight) -> QColor:
    t = theme()
    return QColor({Weight.STOP: t.stop, Weight.CAUTION: t.caution, Weight.NOTE: t.note}[weight])


def paint_weight(painter: QPainter, box: QRectF, weight: Weight) -> None:
    """A stop is a square, a caution a triangle, a note a circle."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(weight_colour(weight))
    if weight is Weight.STOP:
        painter.drawRect(box)
    elif weight is Weight.CAUTION:
        top = QPointF(box.center().x(), box.top())
        painter.drawPolygon(QPolygonF([top, box.bottomRight(), box.bottomLeft()]))
    else:
        painter.drawEllipse(box)
    painter.restore()


def paint_eye(painter: QPainter, centre: QPointF, size: float, colour: QColor) -> None:
    """The reader's eye."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    x, y, w = centre.x(), centre.y(), size / 2
    lid = QPainterPath(QPointF(x - w, y))
    lid.quadTo(QPointF(x, y - w * 1.15), QPointF(x + w, y))
    lid.quadTo(QPointF(x, y + w * 1.15), QPointF(x - w, y))
    painter.setPen(QPen(colour, 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(lid)
    painter.setBrush(colour)
    painter.drawEllipse(centre, w * 0.3, w * 0.3)
    painter.restore()


def paint_mirror(painter: QPainter, box: QRectF, colour: QColor) -> None:
    """Two halves either side of a dashed line: the output is mirrored."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    x, top, bottom = box.center().x(), box.top(), box.bottom()
    painter.setPen(QPen(colour, 1.4, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))
    for side, filled in ((-1, True), (1, False)):
        edge = x + side * box.width() / 2
        shape = QPolygonF(
            [
                QPointF(x + side * 3, top + 2),
                QPointF(x + side * 3, bottom - 2),
                QPointF(edge, bottom - 2),
            ]
        )
        painter.setPen(QPen(colour, 1.4))
        painter.setBrush(colour if filled else Qt.BrushStyle.NoBrush)
        painter.drawPolygon(shape)
    painter.restore()


def paint_station(painter: QPainter, box: QRectF, station: Station, colour: QColor) -> None:
    """A line drawing for each station, in a box of about 26 x 22."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour, 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    x, y, w, h = box.x(), box.y(), box.width(), box.height()
    middle = box.center()
    match station:
        case Station.PIECE:
            painter.drawEllipse(QRectF(x + 1, y + 3, w - 2, h * 0.42))
            wall = QPainterPath(QPointF(x + 1, y + 3 + h * 0.21))
            wall.lineTo(x + 1, y + h * 0.58)
            wall.arcTo(QRectF(x + 1, y + h * 0.37, w - 2, h * 0.42), 180, 180)
            wall.lineTo(x + w - 1, y + 3 + h * 0.21)
            painter.drawPath(wall)
        case Station.BED:
            painter.drawRect(QRectF(x, y + 1, w, h - 2))
            for i in range(3):
                for j in range(2):
                    at = QPointF(x + w * (i + 0.5) / 3, y + 1 + (h - 2) * (j + 0.5) / 2)
                    painter.drawEllipse(at, 2.6, 2.6)
        case Station.LAYERS:
            for i, share in enumerate((0.5, 0.72, 1.0)):
                half, top = w * share / 2, y + 3 + i * h * 0.32
                painter.drawRect(QRectF(middle.x() - half, top, half * 2, 3.4))
        case Station.PROOF:
            paint_eye(painter, middle, w, colour)
        case Station.RUN:
            painter.drawLine(QPointF(x, y + h - 3), QPointF(x + w, y + h - 3))
            painter.drawLine(QPointF(x, y + 6), QPointF(x + w, y + 6))
            painter.drawRect(QRectF(middle.x() - 5, y + 1, 10, 10))
            painter.drawLine(QPointF(middle.x(), y + 11), QPointF(middle.x(), y + h - 6))
    painter.restore()
