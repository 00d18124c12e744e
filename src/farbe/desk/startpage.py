"""The page when no job is open."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from farbe.desk.fields import label
from farbe.plan.recipes import RECIPES, Recipe
from farbe.samples.jobs import SAMPLES


class StartPage(QWidget):
    """What are you printing on, recent jobs, samples."""

    recipe_chosen = Signal(object)
    path_chosen = Signal(object)
    sample_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        outer = QHBoxLayout(self)
        outer.addStretch()
        column = QVBoxLayout()
        outer.addLayout(column)
        outer.addStretch()
        column.addStretch(1)
        column.addWidget(label("What are you printing on?", "title"))
        column.addWidget(label("A recipe states the surface, the reader and the layers.", "faint"))
        column.addSpacing(6)
        grid = QGridLayout()
        grid.setSpacing(8)
        column.addLayout(grid)
        for index, recipe in enumerate(RECIPES):
            button = QPushButton(recipe.name.capitalize())
            button.setMinimumSize(220, 46)
            button.clicked.connect(lambda _=False, r=recipe: self._choose(r))
            grid.addWidget(button, index // 3, index % 3)
        column.addSpacing(26)
        lists = QHBoxLayout()
        lists.setSpacing(40)
        column.addLayout(lists)
        self._recent = QVBoxLayout()
        self._recent.setAlignment(Qt.AlignmentFlag.AlignTop)
        samples = QVBoxLayout()
        samples.setAlignment(Qt.AlignmentFlag.AlignTop)
        lists.addLayout(self._recent, 1)
        lists.addLayout(samples, 1)
        samples.addWidget(label("Samples", "head"))
        for name in SAMPLES:
            button = QPushButton(name.replace("-", " ").capitalize())
            button.clicked.connect(lambda _=False, n=name: self.sample_chosen.emit(n))
            samples.addWidget(button)
        column.addStretch(2)

    def _choose(self, recipe: Recipe) -> None:
        self.recipe_chosen.emit(recipe)

    def show_recent(self, paths: list[Path]) -> None:
        """List job files that were open, the newest first."""
        while (item := self._recent.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self._recent.addWidget(label("Recent jobs", "head"))
        for path in paths[:6]:
            button = QPushButton(path.stem)
            button.setToolTip(str(path))
            button.clicked.connect(lambda _=False, p=path: self.path_chosen.emit(p))
            self._recent.addWidget(button)
        if not paths:
            self._recent.addWidget(label("None yet. Drop a picture or a job here.", "faint"))
