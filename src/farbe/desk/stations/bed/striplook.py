"""A job's control strip in the picture of the bed or the film."""

from __future__ import annotations

from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from farbe.desk.canvas import Canvas
from farbe.layout.faced import Faced
from farbe.layout.lengths import STRIP_LINE
from farbe.layout.strip import LaidStrip, laid_strips
from farbe.model.patch import Patch


def paint_strip(canvas: Canvas, painter: QPainter, job: Faced, *, turned: bool = False) -> None:
    """Each strip's patches where they lie, in colours that tell them apart.

    They are shown as they are read, or ``turned`` as they are printed where that is mirrored.
    """
    for strip in laid_strips(job):
        for at, patch in enumerate(strip.patches):
            painter.fillRect(_box(canvas, strip, at, turned), _colour(patch))
        painter.setPen(QPen(QColor("#6d7478"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        wide, high = strip.size
        painter.drawRect(
            QRectF(canvas.at(strip.x, strip.y + high), canvas.at(strip.x + wide, strip.y))
        )


def _box(canvas: Canvas, strip: LaidStrip, at: int, turned: bool) -> QRectF:
    row, column = divmod(at, strip.columns)
    if turned:
        column = strip.columns - 1 - column
    left = strip.x + column * strip.wide
    top = strip.y + STRIP_LINE + (strip.rows - row) * strip.high
    corner: QPointF = canvas.at(left, top)
    return QRectF(corner, canvas.at(left + strip.wide, top - strip.high))


@lru_cache(maxsize=64)
def _colour(patch: Patch) -> QColor:
    """A sign for a patch, not a proof of it; nothing where nothing prints."""
    if not patch.total and not patch.white:
        return QColor(0, 0, 0, 0)
    cyan, magenta, yellow, black = (share / 100 for share in patch.inks)
    light = [round(255 * (1 - ink) * (1 - black)) for ink in (cyan, magenta, yellow)]
    return QColor(*light)
