"""What is picked on the picture: colours, or a region."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from farbe.desk.following import Following
from farbe.desk.form import ElidedButton
from farbe.desk.stations.base import Desk
from farbe.desk.theme import fixed
from farbe.files.outlinefile import read_outline
from farbe.layout.faced import Faced
from farbe.layout.figures import sizes
from farbe.model.base import Value
from farbe.model.piece import Ring
from farbe.model.source import Region
from farbe.said import say


def _is_drawn(region: Region) -> bool:
    """Whether anything was drawn yet."""
    return any(point != (0.0, 0.0) for ring in region.rings for point in ring)


class PickRow(Following, QWidget):
    """A button that takes the next click or drag on the picture; the colours picked so far."""

    CHIPS = 8

    def __init__(
        self, desk: Desk, get: Callable[[Faced], Value | None], put: Callable[[Faced, Value], Faced]
    ) -> None:
        super().__init__()
        self._desk, self._get, self._put = desk, get, put
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self._button = ElidedButton()
        self._button.setCheckable(True)
        self._button.clicked.connect(self._begin)
        desk.picking.changed.connect(self._show_waiting)
        column.addWidget(self._button)
        self._chips = QHBoxLayout()
        self._chips.setSpacing(4)
        column.addLayout(self._chips)
        self.follow(desk.session)

    def _show_waiting(self) -> None:
        """Who gives picking up by a key, or begins it elsewhere, need not lift the button."""
        self._button.setChecked(self._desk.picking.is_of(self))

    def _begin(self, on: bool) -> None:
        """Wait for what is picked, or no longer."""
        job = self._desk.session.job
        value = self._get(job) if job is not None else None
        if not on or value is None:
            self._desk.picking.end()
        elif isinstance(value, Region):
            self._desk.picking.begin_region(self, lambda ring: self._draw(more=False, ring=ring))
        else:
            self._desk.picking.begin_colour(self, self._add)

    def _add(self, colour: str) -> None:
        def change(job: Faced) -> Faced:
            value: Any = self._get(job)
            if value is None or colour in value.colours:
                return job
            # White is what a fresh list holds; the first real pick takes its place.
            kept = () if value.colours == ("#ffffff",) else value.colours
            return self._put(job, value.replace(colours=(*kept, colour)))

        self._desk.session.edit(say("Pick a colour"), change)

    def _remove(self, colour: str) -> None:
        def change(job: Faced) -> Faced:
            value: Any = self._get(job)
            if value is None:
                return job
            kept = tuple(c for c in value.colours if c != colour)
            return self._put(job, value.replace(colours=kept))

        self._desk.session.edit(say("Remove a colour"), change)

    def _draw(self, *, more: bool, ring: Ring) -> None:
        """Take a closed line in place of the others, or beside them."""

        def change(job: Faced) -> Faced:
            value: Any = self._get(job)
            rings = value.rings if more and value is not None and _is_drawn(value) else ()
            return self._put(job, Region(rings=(*rings, ring)))

        self._desk.session.edit(say("Draw a region"), change)

    def _ask_drawing(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, say("Region"), "", say("Drawings (*.svg *.dxf)")
        )
        if name:
            self.take_drawing(Path(name))

    def take_drawing(self, path: Path) -> None:
        """Take the closed lines of a drawing at real size, around the piece's middle."""
        self._desk.workers.start(
            "region",
            lambda _: Region(rings=read_outline(path).rings),
            self._desk.session.for_this_job(
                lambda region: self._desk.session.edit(
                    say("Region from a drawing"), lambda job: self._put(job, region)
                ),
                of=self,
            ),
            title=say("Reading {path}", path=path.name),
        )

    def _begin_more(self) -> None:
        self._desk.picking.begin_region(self, lambda ring: self._draw(more=True, ring=ring))

    @staticmethod
    def _small(words: str, run: Callable[[], object], enabled: bool) -> QPushButton:
        button = ElidedButton(words)
        button.setEnabled(enabled)
        button.clicked.connect(lambda: run())
        return button

    def refresh(self) -> None:
        job = self._desk.session.job
        value: Any = self._get(job) if job is not None else None
        while (item := self._chips.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        if value is not None and not isinstance(value, Region):
            self._button.setText(say("Pick from the picture"))
            for colour in value.colours[: self.CHIPS]:
                chip = QPushButton()
                swatch = QPixmap(18, 14)
                swatch.fill(QColor(colour))
                chip.setIcon(QIcon(swatch))
                chip.setIconSize(QSize(18, 14))
                chip.setProperty("role", "chip")
                fixed(chip, wide=30)
                chip.setAccessibleName(say("Remove {colour}", colour=colour))
                chip.setToolTip(say("{colour}; click to remove", colour=colour))
                chip.setEnabled(len(value.colours) > 1)
                chip.clicked.connect(lambda _=False, c=colour: self._remove(c))
                self._chips.addWidget(chip)
            self._chips.addStretch()
        elif isinstance(value, Region):
            self._chips.addWidget(self._small(say("One more"), self._begin_more, _is_drawn(value)))
            self._chips.addWidget(self._small(say("From a drawing…"), self._ask_drawing, True))
            xs, ys = zip(*(point for ring in value.rings for point in ring), strict=True)
            size = sizes(max(xs) - min(xs), max(ys) - min(ys))
            self._button.setText(
                say("Draw on the picture, now {size}", size=size)
                if _is_drawn(value)
                else say("Draw what stays solid")
            )
        self._button.setCursor(Qt.CursorShape.ArrowCursor)
