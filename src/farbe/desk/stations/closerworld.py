"""A piece's picture that becomes finer where it is looked at more closely."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPen

from farbe.desk.closeup import CloseUp
from farbe.desk.stations.base import Desk
from farbe.desk.stations.worlds import PieceWorld
from farbe.desk.theme import font
from farbe.follows.looking import grid_for
from farbe.layout.figures import measure, mm_per_unit
from farbe.render.glimpse import Box, Glimpse
from farbe.said import say
from farbe.separate.grid import Grid

#: Screen pixels for each of a picture's from which a finer one is worked out.
COARSE = 1.6
#: Milliseconds of rest before that.
REST = 160
#: Lengths in mm that a scale bar may have.
SCALES = (1000.0, 500.0, 200.0, 100.0, 50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1, 0.05)


def is_output(part: Glimpse) -> bool:
    """Whether its pixels are those that are printed."""
    printer = part.job.printer
    return part.grid == Grid(printer.dpi_x, printer.dpi_y)


class CloserWorld(PieceWorld):
    """What is in view is worked out on the screen's own grid once it rests."""

    def __init__(self, desk: Desk, close_up: CloseUp[Any]) -> None:
        super().__init__(desk)
        self._close_up = close_up
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self.look_closer)

    def whole(self) -> Glimpse | None:
        """The picture of all of the piece; None before it is there."""
        raise NotImplementedError

    def near(self) -> Glimpse | None:
        """What is in view on a finer grid; None where it is not wanted, or not there yet."""
        raise NotImplementedError

    def view_moved(self) -> None:
        super().view_moved()
        self._rest.start()

    def fit(self) -> None:
        super().fit()
        if self.closer() is None:
            self._close_up.leave()
        else:
            self._rest.start()

    def closer(self) -> tuple[Box, Grid] | None:
        """The part that is in view and the screen's grid, where the whole is too coarse for it.

        None as well where nothing of the piece is in view.
        """
        whole, scale = self.whole(), self.scale * self.devicePixelRatioF()
        if whole is None or is_output(whole) or scale < COARSE * whole.grid.per_mm_x:
            return None
        low = self.millimetres(QPointF(0, self.height()))
        high = self.millimetres(QPointF(self.width(), 0))
        view = Box(low.x(), low.y(), high.x() - low.x(), high.y() - low.y())
        seen = view.shared(whole.box)
        return None if seen is None else (seen, grid_for(whole.job, scale))

    def look_closer(self) -> None:
        """Work out what is in view, where the picture is too coarse for it."""
        wanted = self.closer()
        if wanted is not None:
            self._close_up.zoom(*wanted)
            return
        if self.near() is not None:
            self.update()
        self._close_up.leave()

    def paint_scale(self, painter: QPainter) -> None:
        """A bar of so many mm, and the size of an output pixel when those can be told."""
        if self._fitted:
            return
        steps = [step * mm_per_unit() for step in SCALES]
        length = next((mm for mm in steps if mm * self.scale <= 160), steps[-1])
        wide = length * self.scale
        words, shown = measure(length), self.near() or self.whole()
        if shown is not None and is_output(shown):
            words = say(
                "output pixels, {dpi_x} × {dpi_y} dpi; {words}",
                dpi_x=f"{shown.grid.dpi_x:g}",
                dpi_y=f"{shown.grid.dpi_y:g}",
                words=words,
            )
        painter.setFont(font(12))
        right, y = self.width() - 18.0, self.height() - 18.0
        high, long_ = painter.fontMetrics().height(), painter.fontMetrics().horizontalAdvance(words)
        area = QRectF(right - max(long_, wide), y - 10 - high, max(long_, wide), high)
        # Whatever lies under it, it can be read.
        painter.fillRect(area.adjusted(-8, -4, 8, 18), QColor(48, 48, 48, 200))
        painter.setPen(QPen(QColor("#f4f4f4"), 1.6))
        painter.drawPolyline([
            QPointF(right - wide, y - 5), QPointF(right - wide, y),
            QPointF(right, y), QPointF(right, y - 5),
        ])  # fmt: skip
        painter.drawText(area, Qt.AlignmentFlag.AlignRight, words)
