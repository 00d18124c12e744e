"""Output pixels at an edge: white ink, the rim of colour alone, no ink."""

from __future__ import annotations

from math import ceil, floor

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from farbe.art.artwork import Pixels
from farbe.desk.images import paint_picture, rgb_image
from farbe.desk.results import Results
from farbe.desk.theme import font, theme
from farbe.layout.figures import number
from farbe.optics.shake import moved_out
from farbe.said import say
from farbe.separate.choke import Plate

#: Coverage, 0 to 255, from which on a pixel has ink.
SOME = 128


def paint_edge(
    painter: QPainter,
    area: QRectF,
    colour: Plate,
    white: Plate,
    pixel: tuple[float, float],
    *,
    named: bool = True,
) -> None:
    """Draw plates of colour and white pixel by pixel; ``pixel`` is the size of one in mm."""
    rows, columns = colour.shape
    # Pixels keep their true shape where x and y resolution differ.
    tall = pixel[1] / pixel[0]
    cell = max(area.width() / columns, area.height() / rows / tall)
    painter.save()
    painter.setClipRect(area)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    whole = QRectF(0, 0, columns * cell, rows * cell * tall)
    whole.moveCenter(area.center())
    paint_picture(painter, whole, rgb_image(mixed(colour, white)), smooth=False)
    if named:
        painter.setPen(QPen(QColor(0, 0, 0, 38), 1))
        for column in range(columns + 1):
            x = area.center().x() + (column - columns / 2) * cell
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        for row in range(rows + 1):
            y = area.center().y() + (row - rows / 2) * cell * tall
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
    painter.restore()
    if named:
        _name_inks(painter, area, whole, colour, white)


def _name_inks(painter: QPainter, area: QRectF, whole: QRectF, colour: Plate, white: Plate) -> None:
    """Write in a corner what all pixels under the words are, where there is such a corner.

    ``whole`` is where all pixels lie, of which ``area`` is seen.
    """
    painter.setFont(font(11, bold=True))
    inked = white >= SOME
    for text, ink, there in (
        (say("white ink"), "#2c2c2c", inked),
        (say("no ink"), "#d8d8d8", ~inked & (colour < SOME)),
    ):
        box = QRectF(painter.fontMetrics().boundingRect(text)).adjusted(-4, -3, 4, 3)
        room = area.adjusted(4, 4, -4, -4)
        corners = (room.topRight(), room.topLeft(), room.bottomLeft(), room.bottomRight())
        for corner in corners:
            x = min(corner.x(), room.right() - box.width())
            y = min(corner.y(), room.bottom() - box.height())
            box.moveTo(x, y)
            if there[_pixels_under(box, whole, there.shape)].all():
                painter.setPen(QColor(ink))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
                break


def _pixels_under(box: QRectF, whole: QRectF, shape: tuple[int, ...]) -> tuple[slice, slice]:
    """Rows and columns of a plate that a box on the screen lies on."""
    tall, wide = whole.height() / shape[0], whole.width() / shape[1]
    box = box.translated(-whole.topLeft())
    return (
        slice(floor(box.top() / tall), ceil(box.bottom() / tall)),
        slice(floor(box.left() / wide), ceil(box.right() / wide)),
    )


def mixed(colour: Plate, white: Plate) -> Pixels:
    """A dark ground, colour over it by coverage, and white shown over both by its coverage."""
    ground, ink = np.array((0x2E, 0x3B, 0x37), np.float32), np.array((0xE8, 0xA9, 0x2E), np.float32)
    cover, lit = (plate[..., None].astype(np.float32) / 255 for plate in (colour, white))
    inked = ground + (ink - ground) * cover
    return np.rint(inked + (250 - inked) * lit).astype(np.uint8)


class ShakenEdge(QWidget):
    """The same edge as it is planned, as half of the prints have it, and at its worst."""

    def __init__(self, results: Results) -> None:
        super().__init__()
        self._results = results
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(say("The edge as planned, typically and at worst"))
        results.shake_changed.connect(self._changed)
        results.edges_changed.connect(self._changed)
        self._changed()

    def sizeHint(self) -> QSize:
        return QSize(270, 108)

    def _changed(self) -> None:
        self.setVisible(bool(self.moves()))
        self.update()

    def moves(self) -> tuple[tuple[str, float], ...]:
        """Words, and mm by which the white moves out; empty without white at an edge."""
        shake, edges = self._results.shake, self._results.edges
        if shake is None or shake.white is None or edges is None:
            return ()
        return (
            (say("as planned"), 0.0),
            (say("typical"), shake.white.typical),
            (say("at worst"), shake.white.worst),
        )

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._results.edges is None:
            return
        edge = self._results.edges.solid
        painter = QPainter(self)
        wide = (self.width() - 12) / 3
        for place, (words, far) in enumerate(self.moves()):
            area = QRectF(place * (wide + 6), 0, wide, self.height() - 20)
            white = moved_out(edge.white, edge.colour, far, edge.pixel)
            paint_edge(painter, area, edge.colour, white, edge.pixel, named=False)
            painter.setPen(QColor(theme().faint))
            painter.setFont(font(12))
            below = QRectF(area.left(), area.bottom() + 2, wide, 18)
            said = f"{words}, {number(round(far, 2))}" if far else words
            painter.drawText(below, Qt.AlignmentFlag.AlignCenter, said)
        painter.end()
