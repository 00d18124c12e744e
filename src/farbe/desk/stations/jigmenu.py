"""Keeping jigs and using them again."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from farbe.desk.session import Session
from farbe.files.document import keep, library, library_path
from farbe.files.jiglibrary import SUFFIX, KeptJig, kept_from, read_jig, with_kept, write_jig
from farbe.folders import data_folder
from farbe.layout.pockets import footprint, pockets
from farbe.model.base import BadInput
from farbe.model.printer import Printer

DRAWN = QSize(64, 36)


def library_folder() -> Path:
    return data_folder() / "jigs"


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


class JigMenu(QMenu):
    """The library's jigs with their drawings, and keeping, importing and exporting."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.aboutToShow.connect(self._fill)

    def _fill(self) -> None:
        self.clear()
        job = self._session.job
        if job is None:
            return
        found, unusable = library(library_folder(), SUFFIX, read_jig)
        for kept in found:
            count = len(pockets(kept.jig, kept.shape, job.printer))
            action = self.addAction(f"{kept.jig.name}, {count} pockets")
            action.setIcon(drawing(kept, job.printer))
            action.triggered.connect(partial(self.use, kept))
        for name in unusable:
            self.addAction(f"{name} holds no jig").setEnabled(False)
        if self.isEmpty():
            self.addAction("No jig is kept yet").setEnabled(False)
        self.addSeparator()
        self.addAction(f"Keep this one as {job.jig.name}", self.keep)
        self.addAction("Import a jig…", self._import)
        self.addAction("Export this one…", self._export)

    def use(self, kept: KeptJig, *_: object) -> None:
        """Put the job on a kept jig."""
        self._session.edit(f"Use {kept.jig.name}", lambda job: with_kept(job, kept))

    def keep(self) -> None:
        """Keep the job's jig under its name; an older one of that name gives way."""
        job = self._session.job
        if job is None:
            return
        replaced = library_path(library_folder(), job.jig.name, SUFFIX).exists()
        try:
            keep(kept_from(job), job.jig.name, library_folder(), SUFFIX)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        words = "replaced" if replaced else "kept"
        self._session.said.emit(f"The jig {job.jig.name} is {words}.")

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Import a jig", "", f"Jigs (*{SUFFIX})")
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Put the job on a jig from a file, and keep it in the library."""
        try:
            kept = read_jig(path)
            keep(kept, kept.jig.name, library_folder(), SUFFIX)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self.use(kept)

    def _export(self) -> None:
        job = self._session.job
        name, _ = QFileDialog.getSaveFileName(
            self, "Export the jig", f"jig{SUFFIX}", f"Jigs (*{SUFFIX})"
        )
        if job is not None and name:
            try:
                write_jig(kept_from(job), Path(name))
            except BadInput as error:
                self._session.said.emit(str(error))
