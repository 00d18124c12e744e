"""The artwork under the bed; files may be dropped on it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QDragEnterEvent, QDropEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFileDialog, QPushButton, QWidget

from farbe.desk.images import paint_picture, rgb_image
from farbe.desk.stations.base import Desk
from farbe.desk.theme import font, theme
from farbe.layout.pockets import used_pockets
from farbe.model.job import Job
from farbe.plan.sentence import number


class Tray(QWidget):
    """What is printed, and a place to drop files on."""

    dropped = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.setAcceptDrops(True)
        self.setFixedHeight(130)
        self.setAccessibleName("Artwork")
        self._choose = QPushButton("Choose a file…", self)
        self._choose.clicked.connect(self._ask)
        desk.results.preview_changed.connect(self.update)
        desk.session.changed.connect(self.update)

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Artwork", "", "Pictures (*.png *.jpg *.jpeg *.tif *.tiff)"
        )
        if name:
            self.dropped.emit(Path(name))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        urls = event.mimeData().urls()
        if urls:
            self.dropped.emit(Path(urls[0].toLocalFile()))

    def paintEvent(self, _: QPaintEvent) -> None:
        t, job, preview = theme(), self._desk.session.job, self._desk.results.preview
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.paper))
        painter.setPen(QColor(t.line))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(16, 22), "Artwork")
        painter.setFont(font(12.5))
        painter.setPen(QColor(t.faint))
        painter.drawText(QPointF(74, 22), "drop a picture here to print it in every pocket")
        art = job.artwork if job else None
        card = QRectF(16, 34, 330, 84)
        painter.setPen(QPen(QColor(t.accent if art else t.line), 1.5 if art else 1))
        painter.setBrush(QColor(t.field))
        painter.drawRect(card)
        if art is None or job is None:
            painter.setPen(QColor(t.faint))
            painter.drawText(card, Qt.AlignmentFlag.AlignCenter, "No artwork yet")
        else:
            self._paint_card(painter, card, job, preview is not None)
        self._choose.move(round(card.right()) + 16, round(card.top()))
        painter.end()

    def _paint_card(self, painter: QPainter, card: QRectF, job: Job, ready: bool) -> None:
        t, art, preview = theme(), job.artwork, self._desk.results.preview
        thumb = QRectF(card.left() + 8, card.top() + 8, 68, 68)
        painter.fillRect(thumb, QColor("#767676"))
        if ready and preview is not None:
            scale = 68 / max(preview.size)
            inner = QRectF(0, 0, preview.size[0] * scale, preview.size[1] * scale)
            inner.moveCenter(thumb.center())
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            paint_picture(painter, inner, rgb_image(preview.artwork))
        if art is None:
            return
        left = thumb.right() + 14
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(t.text))
        room = card.right() - left - 8
        name = painter.fontMetrics().elidedText(
            art.file_name, Qt.TextElideMode.ElideMiddle, round(room)
        )
        painter.drawText(QPointF(left, card.top() + 26), name)
        painter.setFont(font(12.5))
        painter.setPen(QColor(t.faint))
        painter.drawText(
            QPointF(left, card.top() + 47), f"{number(art.width)} × {number(art.height)} mm"
        )
        on = len(used_pockets(job))
        painter.drawText(QPointF(left, card.top() + 67), f"in {on} pockets")
