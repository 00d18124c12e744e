"""Canvases whose world is the job's piece, or the job's bed."""

from __future__ import annotations

from PySide6.QtCore import QRectF

from farbe.desk.canvas import Canvas
from farbe.desk.stations.base import Desk
from farbe.layout.frame import printer_frame


class PieceWorld(Canvas):
    """Millimetres around the piece's middle."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk

    def world(self) -> QRectF:
        job = self._desk.session.job
        if job is None:
            return super().world()
        width, height = job.piece.shape.width, job.piece.shape.height
        return QRectF(-width / 2, -height / 2, width, height)


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
