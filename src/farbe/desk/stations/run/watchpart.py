"""The watched folder's rows of the Run's inspector."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QComboBox, QFileDialog, QSizePolicy

from farbe.desk.form import ElidedButton
from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk
from farbe.desk.stations.part import Part
from farbe.desk.stations.recipemenu import all_recipes
from farbe.desk.watchdesk import WatchDesk, recipe_named
from farbe.model.base import BadInput
from farbe.plan.recipes import Recipe
from farbe.said import say, spoken

#: What was done last that is shown.
SHOWN = 8


class WatchPart(Part):
    """Which folder, by which recipe, and what was done."""

    NAME = say("Watched folder")

    def __init__(self, inspector: Inspector, desk: Desk, watcher: WatchDesk) -> None:
        self._watcher = watcher
        super().__init__(inspector, desk)
        watcher.changed.connect(self.refresh)

    def build(self) -> None:
        form = self.form
        self._folder = ElidedButton(say("Choose a folder…"))
        self._folder.setAccessibleName(say("Folder that is watched"))
        self._folder.clicked.connect(self._ask)
        form.wide(self._folder)
        self.recipe = QComboBox()
        self.recipe.setAccessibleName(say("Recipe for what is dropped there"))
        self.recipe.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.recipe.setMinimumContentsLength(6)
        self.recipe.currentTextChanged.connect(self.recipe.setToolTip)
        form.row(say("Made by"), self.recipe)
        self._stop = form.button(say("Watch no longer"), self._watcher.stop)
        self._words = form.words()
        self._words.setAccessibleName(say("What was done with dropped files"))
        self._inspector.shown.connect(self._look)
        self._look()

    def _ask(self) -> None:
        folder = QFileDialog.getExistingDirectory(self.form, say("Folder that is watched"))
        if folder:
            self.watch(Path(folder))

    def watch(self, folder: Path) -> None:
        """Watch a folder by the chosen recipe; what is dropped there goes to the queue."""
        try:
            self._watcher.start(folder, recipe_named(self.recipe.currentData()))
        except BadInput as error:
            self.session.said.emit(str(error))

    def _look(self) -> None:
        """Recipes may have been kept since the station was left."""
        self.desk.workers.start("recipes to watch by", lambda _: all_recipes(), self._fill)

    def _fill(self, known: tuple[Recipe, ...]) -> None:
        names = [recipe.name for recipe in known]
        if [self.recipe.itemData(i) for i in range(self.recipe.count())] != names:
            chosen = self.recipe.currentData()
            self.recipe.clear()
            for name in names:
                self.recipe.addItem(spoken(name), name)
            self.recipe.setCurrentIndex(max(0, self.recipe.findData(chosen)))

    def refresh(self) -> None:
        watcher = self._watcher
        self._stop.setVisible(watcher.on)
        self.recipe.setEnabled(not watcher.on)
        self._folder.setText(say("Choose a folder…") if watcher.folder is None
                             else watcher.folder.name or str(watcher.folder))  # fmt: skip
        self._folder.setToolTip(str(watcher.folder or ""))
        # What is told of the folder itself, and what waits, is not taken.
        taken = sum(bool(one.name) and not one.waits for one in watcher.done)
        self.thing.say(say("{done} taken", done=taken) if watcher.on else say("none"))
        lines = [
            f"{one.name}: {say('failed: ') if one.failed else ''}{one.made}"
            if one.name
            else one.made
            for one in watcher.done[:SHOWN]
        ]
        none = (
            say("Nothing was dropped yet.")
            if watcher.on
            else (
                say(
                    "Artwork that is dropped into the folder becomes a job in the queue, in its "
                    "own size."
                )
            )
        )
        self._words.setText("\n".join(lines) or none)
