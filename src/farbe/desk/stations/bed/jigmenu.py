"""Keeping jigs and using them again."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap

from farbe.desk.keptmenu import KeptMenu
from farbe.files.jiglibrary import SUFFIX, KeptJig, kept_from, with_kept
from farbe.layout.faced import Faced
from farbe.layout.pockets import footprint, pockets
from farbe.model.printer import Printer
from farbe.said import say, shipped

DRAWN = QSize(64, 36)


def drawing(kept: KeptJig, printer: Printer) -> QIcon:
    """A small picture of a jig: its board and pockets."""
    picture = QPixmap(DRAWN)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    scale = min(DRAWN.width() / printer.bed_width, DRAWN.height() / printer.bed_height)
    painter.setPen(QColor("#5d5d5d"))
    painter.setBrush(QColor(kept.jig.board.colour))
    painter.drawRect(QRectF(0, 0, printer.bed_width * scale - 1, printer.bed_height * scale - 1))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor("#33383d"))
    width, height = (max(1.0, side * scale) for side in footprint(kept.jig, kept.shape))
    for pocket in pockets(kept.jig, kept.shape, printer):
        box = QRectF(0, 0, width, height)
        box.moveCenter(QPointF(pocket.x * scale, (printer.bed_height - pocket.y) * scale))
        painter.drawRoundedRect(box, width / 3, height / 3)
    painter.end()
    return QIcon(picture)


class JigMenu(KeptMenu[KeptJig]):
    """The library's jigs with their drawings, and keeping, importing and exporting."""

    WORD, FOLDER, SUFFIX, DOCUMENT, WRAPPED = shipped("jig"), "jigs", SUFFIX, KeptJig, False
    KEEPS_FILES = True

    def shipped(self) -> tuple[KeptJig, ...]:
        return ()

    def of(self, job: Faced) -> KeptJig:
        return kept_from(job)

    def used(self, job: Faced, thing: KeptJig) -> Faced:
        return with_kept(job, thing)

    def name(self, thing: KeptJig) -> str:
        return thing.jig.name

    def _entry(self, thing: KeptJig, job: Faced) -> None:
        count = len(pockets(thing.jig, thing.shape, job.printer))
        action = self.addAction(
            say("{jig}, {count} pockets", jig=thing.jig.name, count=count), partial(self.use, thing)
        )
        action.setIcon(drawing(thing, job.printer))
