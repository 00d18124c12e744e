"""Rulers of the bed's picture: they measure from the datum, as every figure of the job does."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QPainter, QPixmap

from farbe.desk.canvas import Canvas
from farbe.desk.theme import font, px, theme
from farbe.layout.bedframe import from_bed, to_bed
from farbe.layout.faced import Faced
from farbe.layout.figures import Units, mm_per_unit, number, units

#: Width of the rulers at the usual size of text, and of what stands beyond the upright one.
RULER, MARK = 30, 6
#: Distances of a ruler's marks, in mm and in inches.
STEPS = {
    Units.MM: (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 5000),
    Units.INCHES: (0.125, 0.25, 0.5, 1, 2, 5, 10, 20, 50, 200),
}


def ruler_step(scale: float, least: float) -> float:
    """The distance of a ruler's marks in mm: round in the user's units.

    Parameters
    ----------
    scale : pixels to the millimetre
    least : pixels between two marks
    """
    steps = [step * mm_per_unit() for step in STEPS[units()]]
    return next((step for step in steps if step * scale >= least), steps[-1])


def ruler_words(mm: float) -> str:
    """What stands at a mark of a ruler.

    Parameters
    ----------
    mm : from where it starts
    """
    return number(mm / mm_per_unit(), 3)


class Rulers:
    """Two rulers along the edges of a picture, drawn once for each view of it.

    Their figures take a sixth of the time of a bed's picture, and edits leave them as they are.
    """

    def __init__(self, canvas: Canvas) -> None:
        self._canvas = canvas
        self._of: object = None
        self._across, self._along = QPixmap(), QPixmap()

    def paint(self, painter: QPainter, job: Faced) -> None:
        """Draw them over the picture of a job."""
        canvas = self._canvas
        ruler, printer = px(RULER), job.printer
        of = (
            canvas.size().toTuple(), canvas.devicePixelRatioF(), canvas.scale,
            canvas.at(0, 0).toTuple(), ruler, theme(), units(), number(0.5, 1),
            job.jig.datum, printer.bed_width, printer.bed_height,
        )  # fmt: skip
        if of != self._of:
            self._of = of
            start = from_bed(job.jig.datum, printer, *self._mm(ruler + MARK, canvas.height()))
            end = from_bed(job.jig.datum, printer, *self._mm(canvas.width(), ruler))
            (left, right), (bottom, top) = (sorted(ends) for ends in zip(start, end, strict=True))
            self._across = self._made(QSizeF(canvas.width(), ruler))
            self._along = self._made(QSizeF(ruler + MARK, canvas.height()))
            self._draw_across(job, left, right)
            self._draw_along(job, bottom, top)
        painter.drawPixmap(QPointF(0, 0), self._across)
        painter.drawPixmap(QPointF(0, 0), self._along)

    def _mm(self, x: float, y: float) -> tuple[float, float]:
        place = self._canvas.millimetres(QPointF(x, y))
        return place.x(), place.y()

    def _made(self, size: QSizeF) -> QPixmap:
        ratio = self._canvas.devicePixelRatioF()
        made = QPixmap((size * ratio).toSize())
        made.setDevicePixelRatio(ratio)
        made.fill(QColor(theme().paper))
        return made

    @staticmethod
    def _drawing_on(ruler: QPixmap) -> QPainter:
        painter = QPainter(ruler)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(11))
        painter.setPen(QColor(theme().faint))
        return painter

    def _marks(self, start: float, end: float) -> list[float]:
        """Where marks stand between two places, in mm from the datum."""
        step = ruler_step(self._canvas.scale, px(44))
        return [i * step for i in range(int(start // step) + 1, int(end // step) + 1)]

    def _draw_across(self, job: Faced, start: float, end: float) -> None:
        ruler = px(RULER)
        painter = self._drawing_on(self._across)
        for mm in self._marks(start, end):
            x = self._canvas.at(*to_bed(job.jig.datum, job.printer, mm, 0)).x()
            painter.drawLine(QPointF(x, ruler - MARK), QPointF(x, ruler))
            room = QRectF(x - 30, 2, 60, ruler - 10)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, ruler_words(mm))
        painter.end()

    def _draw_along(self, job: Faced, start: float, end: float) -> None:
        ruler = px(RULER)
        painter = self._drawing_on(self._along)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for mm in self._marks(start, end):
            y = self._canvas.at(*to_bed(job.jig.datum, job.printer, 0, mm)).y()
            if y > ruler + 8:
                painter.drawLine(QPointF(ruler, y), QPointF(ruler + MARK, y))
                painter.drawText(QRectF(0, y - 9, ruler - 3, 18), side, ruler_words(mm))
        corner = QRectF(0, 0, ruler + MARK, ruler)
        painter.fillRect(corner, QColor(theme().paper))
        painter.drawText(corner, Qt.AlignmentFlag.AlignCenter, units().value)
        painter.end()
