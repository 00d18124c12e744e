"""The page when no job is open."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.form import label
from farbe.desk.marks import paint_eye, paint_film
from farbe.desk.theme import area_of, drawn_at_scale, fixed, plain_font, theme
from farbe.model.piece import Material, Reader
from farbe.plan.recipes import RECIPES, Recipe
from farbe.plan.starts import ON_FILM, STARTS_ON
from farbe.said import begun, say, spoken
from farbe.samples.names import NAMES

#: Recipes side by side.
TILES = 4


def draw_name(painter: QPainter, words: str) -> None:
    """The words at the foot of a tile, ended by dots where they are too long."""
    shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, 192)
    painter.drawText(QRectF(14, 66, 196, 24), Qt.AlignmentFlag.AlignVCenter, shown)


class RecipeTile(QAbstractButton):
    """A recipe with a small section of its stack."""

    def __init__(self, recipe: Recipe) -> None:
        super().__init__()
        self._recipe = recipe
        self.setText(begun(spoken(recipe.name)))
        self.setToolTip(self.text())
        self.setAccessibleName(say("New job: {recipe}", recipe=spoken(recipe.name)))
        fixed(self, wide=216, high=92)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def paintEvent(self, _: QPaintEvent) -> None:
        t, recipe = theme(), self._recipe
        painter = QPainter(self)
        drawn_at_scale(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        active = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(QColor(t.accent if active else t.line), 2 if active else 1))
        painter.setBrush(QColor(t.field))
        painter.drawRoundedRect(area_of(self).adjusted(1, 1, -1, -1), 3, 3)
        slab = QRectF(62, 50, 138, 12)
        clear = recipe.surface.material is Material.CLEAR or recipe.reader is Reader.TRANSFER
        painter.setPen(QPen(QColor("#8a8a8a"), 1))
        painter.setBrush(QColor("#d7e2e6" if clear else recipe.surface.colour))
        painter.drawRect(slab)
        top = slab.top()
        for layer in recipe.stack:
            top -= 8 if len(recipe.stack) > 3 else 12
            paint_film(
                painter,
                QRectF(slab.left() + 8, top, slab.width() - 16, 6 if len(recipe.stack) > 3 else 9),
                layer.kind,
            )
        below = recipe.reader is not Reader.FACE
        paint_eye(painter, QPointF(34, 58 if below else 22), 24, QColor(t.accent))
        painter.setFont(plain_font(13, bold=True))
        painter.setPen(QColor(t.text))
        draw_name(painter, self.text())
        painter.end()


class StartTile(QAbstractButton):
    """What is printed on, with a small drawing: film with artworks, or bodies on rollers."""

    def __init__(self, words: str) -> None:
        super().__init__()
        self._film = words == ON_FILM
        self.setText(begun(spoken(words)))
        self.setAccessibleName(say("New job: {words}", words=spoken(words)))
        fixed(self, wide=216, high=92)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def paintEvent(self, _: QPaintEvent) -> None:
        t, painter = theme(), QPainter(self)
        drawn_at_scale(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        active = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(QColor(t.accent if active else t.line), 2 if active else 1))
        painter.setBrush(QColor(t.field))
        painter.drawRoundedRect(area_of(self).adjusted(1, 1, -1, -1), 3, 3)
        painter.setPen(QPen(QColor("#8a8a8a"), 1))
        painter.setBrush(QColor("#d7e2e6"))
        if self._film:
            painter.drawRect(QRectF(20, 12, 176, 50))
            painter.setBrush(QColor(t.accent))
            painter.setPen(Qt.PenStyle.NoPen)
            for x, y, wide, high in ((30, 19, 40, 36), (78, 19, 26, 16), (78, 41, 26, 14),
                                     (112, 19, 52, 20), (112, 45, 34, 10)):  # fmt: skip
                painter.drawRect(QRectF(x, y, wide, high))
        else:
            for x in (46, 100, 154):
                painter.drawRoundedRect(QRectF(x - 18, 13, 36, 42), 6, 6)
            painter.setBrush(QColor("#55595c"))
            painter.drawRect(QRectF(20, 57, 176, 6))
        painter.setFont(plain_font(13, bold=True))
        painter.setPen(QColor(t.text))
        draw_name(painter, self.text())
        painter.end()


class StartPage(QWidget):
    """What are you printing on, recent jobs, samples."""

    recipe_chosen = Signal(object)
    start_chosen = Signal(str)
    path_chosen = Signal(object)
    sample_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        # In the smallest windows the page is scrolled rather than squeezed.
        scroll, inner = QScrollArea(), QWidget()
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        frame = QHBoxLayout(self)
        frame.setContentsMargins(0, 0, 0, 0)
        frame.addWidget(scroll)
        outer = QHBoxLayout(inner)
        outer.addStretch()
        column = QVBoxLayout()
        column.setSpacing(6)
        outer.addLayout(column)
        outer.addStretch()
        column.addStretch(1)
        column.addWidget(label(say("What are you printing on?"), "title"))
        states = say(
            "A recipe states the surface, the layers, and where the reader looks from: the eye."
        )
        column.addWidget(label(states, "faint"))
        column.addSpacing(6)
        grid = QGridLayout()
        grid.setSpacing(8)
        column.addLayout(grid)
        for index, recipe in enumerate(RECIPES):
            tile = RecipeTile(recipe)
            tile.clicked.connect(lambda _=False, r=recipe: self._choose(r))
            grid.addWidget(tile, index // TILES, index % TILES)
        for index, words in enumerate(STARTS_ON, start=len(RECIPES)):
            start = StartTile(words)
            start.clicked.connect(lambda _=False, w=words: self.start_chosen.emit(w))
            grid.addWidget(start, index // TILES, index % TILES)
        column.addSpacing(14)
        lists = QHBoxLayout()
        lists.setSpacing(40)
        column.addLayout(lists)
        self._recent, samples = QVBoxLayout(), QVBoxLayout()
        for part in (self._recent, samples):
            holder = QVBoxLayout()
            # Without one of its own a layout takes the spacing of what it is in.
            holder.setSpacing(0)
            part.setSpacing(8)
            holder.addLayout(part)
            holder.addStretch(1)
            lists.addLayout(holder, 1)
        samples.addWidget(label(say("Samples"), "head"))
        pairs = QGridLayout()
        pairs.setSpacing(6)
        for column_of in range(3):
            pairs.setColumnStretch(column_of, 1)
        samples.addLayout(pairs)
        for index, (name, words) in enumerate(NAMES.items()):
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, n=name: self.sample_chosen.emit(n))
            pairs.addWidget(button, index // 3, index % 3)
        column.addStretch(2)

    def _choose(self, recipe: Recipe) -> None:
        self.recipe_chosen.emit(recipe)

    def show_recent(self, paths: list[Path]) -> None:
        """List job files that were open, the newest first."""
        while (item := self._recent.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self._recent.addWidget(label(say("Recent jobs"), "head"))
        for path in paths[:6]:
            button = QPushButton(path.stem)
            button.setToolTip(str(path))
            button.clicked.connect(lambda _=False, p=path: self.path_chosen.emit(p))
            self._recent.addWidget(button)
        if not paths:
            self._recent.addWidget(label(say("None yet. Drop a picture or a job here."), "faint"))
