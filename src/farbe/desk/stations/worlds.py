"""Canvases whose world is the job's piece, or the job's bed."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from farbe.checks.check import Check, CheckPlace
from farbe.checks.weight import Weight
from farbe.desk.canvas import Canvas
from farbe.desk.stations.base import Desk
from farbe.follows.preview import around
from farbe.layout.frame import printer_frame
from farbe.separate.grid import Grid

#: Pixels of the screen for an output pixel, fewest, where a place is framed.
TELL = 4.0
#: Places on the picture that are smaller than this on the screen get a ring.
RING = 9.0
PLACE_COLOURS = {Weight.STOP: "#e0413a", Weight.CAUTION: "#f0b429", Weight.NOTE: "#7fb0ee"}


class PieceWorld(Canvas):
    """Millimetres around the piece's middle."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._marked: list[tuple[Check, CheckPlace]] = []
        desk.results.place_changed.connect(self.update)
        desk.results.findings_changed.connect(self._mark)

    def _mark(self) -> None:
        """Show the places of findings anew, if they are others."""
        places = self._desk.results.places_here()
        if places != self._marked:
            self._marked = places
            self.update()

    def world(self) -> QRectF:
        job = self._desk.session.job
        if job is None:
            return super().world()
        width, height = job.piece.shape.width, job.piece.shape.height
        return QRectF(-width / 2, -height / 2, width, height)

    def frame_place(self, place: CheckPlace) -> None:
        """Zoom to a place, so that its output pixels can be told."""
        job = self._desk.session.job
        if job is None:
            return
        grid = Grid(job.printer.dpi_x, job.printer.dpi_y)
        box, frame = around(place, grid), self.frame()
        whole = min(frame.width() / box.width, frame.height() / box.height)
        self.scale = min(self.MAX_SCALE, max(whole, TELL * grid.per_mm_x))
        x, y = box.left + box.width / 2, box.bottom + box.height / 2
        self._origin = QPointF(
            frame.center().x() - x * self.scale, frame.center().y() + y * self.scale
        )
        self._fitted = False
        self.view_moved()

    def paint_places(self, painter: QPainter, *, about: str | None = None) -> None:
        """Small marks where something is the matter, and a frame around the place in view.

        Parameters
        ----------
        about : only what is about this layer, or about none
        """
        here = self._desk.results.place
        # All of a weight are one path: one by one they take three times as long.
        marks = dict[Weight, QPainterPath]()
        for check, place in self._desk.results.places_here():
            if place == here or (about is not None and check.about not in ("", about)):
                continue
            path = marks.setdefault(check.weight, QPainterPath())
            box = self.box(place.left, place.bottom, place.width, place.height)
            if max(box.width(), box.height()) < RING:
                path.addEllipse(box.center(), RING / 2, RING / 2)
            else:
                path.addRoundedRect(box.adjusted(-2, -2, 2, 2), 3, 3)
        dark = QPen(QColor(0, 0, 0, 150), 3.2)
        # The worst are found first, and are seen over the others.
        for weight, path in reversed(marks.items()):
            painter.strokePath(path, dark)
            painter.strokePath(path, QPen(QColor(PLACE_COLOURS[weight]), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if here is not None:
            box = self.box(here.left, here.bottom, here.width, here.height)
            pixel = 4.0
            for width, colour in ((4.0, QColor(0, 0, 0, 170)), (2.0, QColor("#ffffff"))):
                painter.setPen(QPen(colour, width))
                painter.drawRect(box.adjusted(-pixel, -pixel, pixel, pixel))
                painter.drawEllipse(self.at(here.x, here.y), 2 * RING, 2 * RING)


class BedWorld(Canvas):
    """Millimetres from the bed's near left corner."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk

    def world(self) -> QRectF:
        job = self._desk.session.job
        if job is None:
            return super().world()
        frame = printer_frame(job)
        return QRectF(0, 0, frame.width, frame.height)
