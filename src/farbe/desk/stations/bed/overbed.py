"""What is drawn in the bed's picture beside pockets: datum, rollers, what is measured."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from farbe.desk.canvas import Canvas
from farbe.desk.marks import choice_pens
from farbe.desk.stations.bed.rulers import RULER
from farbe.desk.stations.bed.snapping import Snapped
from farbe.desk.stations.piece.canvas import surface_brush
from farbe.desk.theme import font, px, theme
from farbe.layout.bedframe import axes, to_bed
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, measure
from farbe.layout.laid import laid
from farbe.layout.otherpockets import OtherPocket
from farbe.layout.rollers import bodies_on_bed
from farbe.model.piece import RoundBody
from farbe.said import say


def paint_datum(canvas: Canvas, painter: QPainter, job: Faced) -> None:
    """The place from which the job is measured, and its axes."""
    datum = canvas.at(*to_bed(job.jig.datum, job.printer, 0, 0))
    across, along = axes(job.jig.datum)
    painter.setPen(QPen(QColor("#d0453a"), 3))
    painter.drawLine(datum, datum + QPointF(34 * across, 0))
    painter.drawLine(datum, datum - QPointF(0, 34 * along))
    painter.setBrush(QColor("#d0453a"))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawEllipse(datum, 5, 5)
    painter.setFont(font(12, bold=True))
    painter.setPen(QColor("#ffffff"))
    painter.drawText(
        datum + QPointF(10 if across > 0 else -52, 20 if along > 0 else -10), say("datum")
    )
    painter.setPen(QColor("#d0453a"))
    painter.drawText(datum + QPointF(42 * across - (0 if across > 0 else 8), 4), "x")
    painter.drawText(datum + QPointF(-4, -42 * along + (0 if along > 0 else 8)), "y")


def paint_measure(
    canvas: Canvas, painter: QPainter, job: Faced, measured: tuple[QPointF, QPointF] | None
) -> None:
    """The line that measures, with its length; how it is drawn while there is none."""
    words = say("Drag from one place to another; corners and middles are taken exactly. Esc ends.")
    if measured is not None:
        start, end = measured
        accent = QColor(theme().accent)
        painter.setPen(QPen(accent, 2))
        painter.setBrush(accent)
        one, two = (canvas.at(p.x(), p.y()) for p in measured)
        painter.drawLine(one, two)
        for point in (one, two):
            painter.drawEllipse(point, 3.5, 3.5)
        across, along = axes(job.jig.datum)
        x, y = (end.x() - start.x()) * across, (end.y() - start.y()) * along
        far = math.hypot(x, y)
        along_x, along_y = (bare_length(one, signed=True) for one in (x, y))
        words = f"{measure(far, 2)}    x {along_x}    y {along_y}"
    paint_words(canvas, painter, words)


def paint_words(canvas: Canvas, painter: QPainter, words: str) -> None:
    """What can be done in the picture as it is now, on a plate at its upper edge."""
    painter.setFont(font(12.5))
    wide = painter.fontMetrics().horizontalAdvance(words) + 20
    plate = QRectF((canvas.width() - wide) / 2, px(RULER) + 6, wide, px(24))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme().footer))
    painter.drawRoundedRect(plate, 4, 4)
    painter.setPen(QColor(theme().footer_text))
    painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)


def paint_rollers(canvas: Canvas, painter: QPainter, job: Faced) -> None:
    """Two rollers across the bed, and the bodies on them, whose prints are rolled out."""
    body, used = job.piece.shape, laid(job)
    if not isinstance(body, RoundBody) or not used:
        return
    lying = bodies_on_bed(job)
    left, right = lying[0][1] - body.zone / 2, max(end for _, _, end in lying) + body.zone / 2
    y = used[0].y
    painter.setPen(QPen(QColor("#1d1d1d"), 1))
    painter.setBrush(QColor("#2f3133"))
    for off in (-0.3, 0.3):
        bar = canvas.box(left, y + off * body.widest - 6, right - left, 12)
        painter.drawRoundedRect(bar, 3, 3)
    painter.setBrush(surface_brush(job.piece.surface))
    # Turned anticlockwise by a quarter, the far end lies at the left.
    to_far = -1 if job.jig.turned == 90 else 1
    for pocket in used:
        half, near, far = body.zone / 2 * to_far, body.diameter / 2, body.far_diameter / 2
        foot = -half - body.base * to_far
        corners = [(foot, -near), (-half, -near), (half, -far), (half, far), (-half, near),
                   (foot, near)]  # fmt: skip
        painter.drawPolygon(
            QPolygonF([canvas.at(pocket.x + x, pocket.y + dy) for x, dy in corners])
        )
        # What lies beyond the printed zone; a neck, where nobody said how long it is.
        rest, thin = (
            (max(body.rest, 0.0), 0.8) if body.length is not None else (body.zone * 0.3, 0.4)
        )
        neck = [(half, -far * thin), (half + rest * to_far, -far * thin * 0.7),
                (half + rest * to_far, far * thin * 0.7), (half, far * thin)]  # fmt: skip
        painter.drawPolygon(QPolygonF([canvas.at(pocket.x + x, pocket.y + dy) for x, dy in neck]))


def paint_others(
    canvas: Canvas, painter: QPainter, others: tuple[OtherPocket, ...], ink: QColor
) -> None:
    """Pockets of other kinds, which other jobs print into."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setFont(font(10.5))
    faint = QColor(ink)
    faint.setAlpha(170)
    painter.setPen(QPen(faint, 1, Qt.PenStyle.DotLine))
    for one in others:
        painter.drawPath(canvas.shape_path(one.outline, canvas.at(one.x, one.y)))
        painter.drawText(canvas.at(one.x, one.y) + QPointF(-6, 4), str(one.shown))


def paint_snap(canvas: Canvas, painter: QPainter, snapped: Snapped) -> None:
    """Lines along which a dragged thing has snapped."""
    for pen in choice_pens(1, Qt.PenStyle.DashLine):
        painter.setPen(pen)
        if snapped.across is not None:
            x = canvas.at(snapped.across, 0).x()
            painter.drawLine(QPointF(x, 0), QPointF(x, canvas.height()))
        if snapped.along is not None:
            y = canvas.at(0, snapped.along).y()
            painter.drawLine(QPointF(0, y), QPointF(canvas.width(), y))
