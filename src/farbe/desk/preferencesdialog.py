"""What the user sets once: look, money, paper, folders, the recipe for new artwork."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QWidget,
)

from farbe.desk.amounts import parse_amount
from farbe.desk.preferences import Preferences
from farbe.desk.stations.recipemenu import all_recipes, import_recipe
from farbe.desk.theme import Look, TextSize
from farbe.files.paper import Paper
from farbe.layout.figures import Units, number
from farbe.model.base import BadInput
from farbe.said import LANGUAGES, begun, say, spoken


class _Folder(QWidget):
    """A folder that is typed or chosen; empty means what its placeholder says."""

    def __init__(self, name: str, folder: str, none: str) -> None:
        super().__init__()
        self._name = name
        self.line = QLineEdit(folder, placeholderText=none)
        self.line.setAccessibleName(name)
        choose = QPushButton(say("Choose…"))
        choose.setAccessibleName(say("Choose: {name}", name=name))
        choose.clicked.connect(self._ask)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.line, 1)
        row.addWidget(choose)

    def _ask(self) -> None:
        found = QFileDialog.getExistingDirectory(self, self._name, self.line.text())
        if found:
            self.line.setText(found)


class PreferencesDialog(QDialog):
    """Takes effect at once when it is accepted."""

    #: Something was set anew.
    taken = Signal()

    def __init__(self, preferences: Preferences, parent: QWidget) -> None:
        super().__init__(parent)
        self._preferences = preferences
        self.setWindowTitle(say("Preferences"))
        self.setMinimumWidth(520)
        form = QFormLayout(self)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
        spoken_here = [("", say("as the desktop")), *LANGUAGES.items()]
        self.language = self._list(say("Language"), spoken_here, preferences.language)
        self.look = self._list(say("Look"), [(look, look.words) for look in Look], preferences.look)
        sizes = [(size, size.words) for size in TextSize]
        self.text_size = self._list(say("Size of text"), sizes, preferences.text_size)
        kinds_of = [(Units.MM, say("millimetres")), (Units.INCHES, say("inches"))]
        self.units = self._list(say("Lengths in"), kinds_of, preferences.units)
        self.currency = QLineEdit(preferences.currency)
        self.paper = self._list(
            say("Paper of the sheets"), [(paper, paper.value) for paper in Paper], preferences.paper
        )
        recipes = [(recipe.name, begun(spoken(recipe.name))) for recipe in all_recipes()]
        self.recipe = self._list(say("Artwork without a job"), recipes, import_recipe().name)
        self.jobs = _Folder(
            say("Folder for new jobs"), preferences.jobs_folder, say("Your own folder")
        )
        self.exports = _Folder(
            say("Folder for sheets and guides"), preferences.exports_folder, say("Beside the job")
        )
        self.keep = QLineEdit(number(preferences.keep_days))
        self.pace = QLineEdit(number(preferences.pace))
        self.scheduler = QLineEdit(preferences.scheduler, placeholderText=say("This machine"))
        for words, field in (
            (say("Lan&guage, from the next start"), self.language),
            (say("&Look"), self.look),
            (say("Size of &text"), self.text_size),
            (say("Le&ngths in"), self.units),
            (say("C&urrency"), self.currency),
            (say("&Paper of the sheets"), self.paper),
            (say("&Artwork without a job is taken by"), self.recipe),
            (say("Folder for new &jobs"), self.jobs),
            (say("Folder for &sheets and guides"), self.exports),
            (say("&Days that done hand-offs are kept"), self.keep),
            (say("Test p&ress, times real speed (0: at once)"), self.pace),
            (say("Loads are prepared by the sc&heduler"), self.scheduler),
        ):
            label = QLabel(words)
            label.setBuddy(field.line if isinstance(field, _Folder) else field)
            form.addRow(label, field)
        self.currency.setAccessibleName(say("Currency"))
        self.keep.setAccessibleName(say("Days that done hand-offs are kept"))
        self.pace.setAccessibleName(say("Test press, times real speed"))
        self.scheduler.setAccessibleName(say("Address of the scheduler"))
        self.refused = QLabel()
        self.refused.setWordWrap(True)
        form.addRow(self.refused)
        kinds = QDialogButtonBox.StandardButton
        buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        buttons.accepted.connect(self._take)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def _list(self, name: str, of: Sequence[tuple[Any, str]], now: object) -> QComboBox:
        made = QComboBox()
        made.setAccessibleName(name)
        for value, words in of:
            made.addItem(begun(words), value)
        made.setCurrentIndex(next((at for at, (value, _) in enumerate(of) if value == now), 0))
        return made

    def _take(self) -> None:
        try:
            keep, pace = (parse_amount(field.text(), "") for field in (self.keep, self.pace))
            if keep < 0 or pace < 0:
                raise BadInput(say("Days and speed are 0 or more."))
            for folder in (self.jobs, self.exports):
                given = folder.line.text().strip()
                if given and not Path(given).is_dir():
                    raise BadInput(
                        say("{folder} is no folder; choose one that is there.", folder=given)
                    )
        except BadInput as error:
            self.refused.setText(str(error))
            return
        kept = self._preferences
        # Qt hands enumerations of words back as words.
        kept.language = str(self.language.currentData())
        kept.look, kept.paper = Look(self.look.currentData()), Paper(self.paper.currentData())
        kept.text_size = TextSize(self.text_size.currentData())
        kept.units = Units(self.units.currentData())
        kept.currency, kept.recipe = self.currency.text(), self.recipe.currentData()
        kept.jobs_folder = self.jobs.line.text().strip()
        kept.exports_folder = self.exports.line.text().strip()
        kept.keep_days, kept.pace = keep, pace
        kept.scheduler = self.scheduler.text()
        self.taken.emit()
        self.accept()
