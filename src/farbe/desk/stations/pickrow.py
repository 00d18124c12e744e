"""What is picked on the picture: colours, or a region."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from farbe.desk.stations.base import Desk
from farbe.model.base import Value
from farbe.model.job import Job
from farbe.model.source import Region
from farbe.plan.sentence import number


class PickRow(QWidget):
    """A button that takes the next click or drag on the picture; the colours picked so far."""

    CHIPS = 8

    def __init__(
        self, desk: Desk, get: Callable[[Job], Value | None], put: Callable[[Job, Value], Job]
    ) -> None:
        super().__init__()
        self._desk, self._get, self._put = desk, get, put
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self._button = QPushButton()
        self._button.setCheckable(True)
        self._button.clicked.connect(self._begin)
        column.addWidget(self._button)
        self._chips = QHBoxLayout()
        self._chips.setSpacing(4)
        column.addLayout(self._chips)
        desk.session.changed.connect(self.refresh)
        self.refresh()

    def _begin(self, on: bool) -> None:
        """Wait for what is picked, or no longer."""
        job = self._desk.session.job
        value = self._get(job) if job is not None else None
        if not on or value is None:
            self._desk.picking.end()
        elif isinstance(value, Region):
            self._desk.picking.begin_region(self._draw)
        else:
            self._desk.picking.begin_colour(self._add)

    def _add(self, colour: str) -> None:
        def change(job: Job) -> Job:
            value: Any = self._get(job)
            if value is None or colour in value.colours:
                return job
            # White is what a fresh list holds; the first real pick takes its place.
            kept = () if value.colours == ("#ffffff",) else value.colours
            return self._put(job, value.replace(colours=(*kept, colour)))

        self._button.setChecked(False)
        self._desk.session.edit("Pick a colour", change)

    def _remove(self, colour: str) -> None:
        def change(job: Job) -> Job:
            value: Any = self._get(job)
            if value is None:
                return job
            kept = tuple(c for c in value.colours if c != colour)
            return self._put(job, value.replace(colours=kept))

        self._desk.session.edit("Remove a colour", change)

    def _draw(self, box: QRectF) -> None:
        """A rectangle in mm around the piece's middle, y up."""
        left, bottom = round(box.left(), 2), round(box.top(), 2)
        right, top = round(box.right(), 2), round(box.bottom(), 2)
        ring = ((left, bottom), (right, bottom), (right, top), (left, top))
        self._button.setChecked(False)
        self._desk.session.edit("Draw a region", lambda job: self._put(job, Region(rings=(ring,))))

    def refresh(self) -> None:
        job = self._desk.session.job
        value: Any = self._get(job) if job is not None else None
        while (item := self._chips.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        if value is not None and not isinstance(value, Region):
            self._button.setText("Pick from the picture")
            for colour in value.colours[: self.CHIPS]:
                chip = QPushButton()
                swatch = QPixmap(18, 14)
                swatch.fill(QColor(colour))
                chip.setIcon(QIcon(swatch))
                chip.setIconSize(QSize(18, 14))
                chip.setStyleSheet("padding: 2px;")
                chip.setFixedWidth(30)
                chip.setAccessibleName(f"Remove {colour}")
                chip.setToolTip(f"{colour}; click to remove")
                chip.setEnabled(len(value.colours) > 1)
                chip.clicked.connect(lambda _=False, c=colour: self._remove(c))
                self._chips.addWidget(chip)
            self._chips.addStretch()
        elif isinstance(value, Region):
            xs, ys = zip(*(point for ring in value.rings for point in ring), strict=True)
            size = f"{number(max(xs) - min(xs))} × {number(max(ys) - min(ys))} mm"
            drawn = max(xs) > min(xs)
            self._button.setText(
                f"Draw on the picture, now {size}" if drawn else "Draw what stays solid"
            )
        self._button.setCursor(Qt.CursorShape.ArrowCursor)
