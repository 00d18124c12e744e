"""What is taken of a chart: its reference, its readings, and what is made of them."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.conditions.teaching import FilesToTake
from farbe.desk.form import Form
from farbe.measure.profile import PACKAGE, PROGRAM, Detail, can_make_profiles
from farbe.said import begun, say


class ReadingsDialog(QDialog):
    """Files that are taken; the button comes alive once there are enough."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("Take readings of a chart"))
        self.reference: Path | None = None
        self.readings: tuple[Path, ...] = ()
        self.lit: tuple[Path, ...] = ()
        form = Form()
        self._reference = self._chooser(form, say("Chart"), say("Reference of the chart"),
                                        self._ask_reference)  # fmt: skip
        self._readings = self._chooser(form, say("Readings"), say("Readings by day"),
                                       lambda: self._ask(lit=False))  # fmt: skip
        self._lit = self._chooser(form, say("By a lamp"), say("Readings by light from behind"),
                                  lambda: self._ask(lit=True))  # fmt: skip
        self.name = QLineEdit(name)
        self.name.setAccessibleName(say("Name of the condition"))
        form.row(say("Name"), self.name)
        self.linear = QCheckBox(say("Curves that make the tones even"))
        self.linear.setChecked(True)
        form.row(say("Inks"), self.linear)
        self.detail = QComboBox()
        self.detail.setAccessibleName(say("Profile that is made"))
        self.detail.addItem(say("none; judge the one in use"), None)
        if can_make_profiles():
            for one in Detail:
                self.detail.addItem(say("made, detail {detail}", detail=one.words), one)
            self.detail.setCurrentIndex(2)
        form.row(say("Profile"), self.detail)
        if not can_make_profiles():
            form.words(
                say("Profiles are made by the program {program}: sudo apt-get install {package}",
                    program=PROGRAM, package=PACKAGE)
            )  # fmt: skip
        form.words(
            say("Spectra or L*a*b* as CGATS text, CxF or a table. Several readings of one chart "
                "are averaged.")
        )  # fmt: skip
        buttons = QDialogButtonBox()
        self.go = buttons.addButton(say("Teach the printer"),
                                    QDialogButtonBox.ButtonRole.AcceptRole)  # fmt: skip
        buttons.addButton(say("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(form)
        column.addWidget(buttons)
        self.setMinimumWidth(460)
        self._follow()

    def _chooser(self, form: Form, words: str, name: str, run: object) -> QPushButton:
        button = QPushButton(say("Choose…"))
        button.setAccessibleName(name)
        button.clicked.connect(run)
        form.row(words, button)
        return button

    def _ask_reference(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, say("Reference of the chart"), "", say("References (*.reference.txt);;All (*)")
        )
        if name:
            self.choose(reference=Path(name))

    def _ask(self, *, lit: bool) -> None:
        names, _ = QFileDialog.getOpenFileNames(
            self, say("Readings"), "", say("Readings (*.txt *.cgats *.cxf *.xml *.csv);;All (*)")
        )
        paths = tuple(Path(name) for name in names)
        if paths and lit:
            self.choose(lit=paths)
        elif paths:
            self.choose(readings=paths)

    def choose(
        self,
        reference: Path | None = None,
        readings: tuple[Path, ...] | None = None,
        lit: tuple[Path, ...] | None = None,
    ) -> None:
        """Take files over; what is not given stays."""
        self.reference = reference or self.reference
        self.readings = self.readings if readings is None else readings
        self.lit = self.lit if lit is None else lit
        self._follow()

    def _follow(self) -> None:
        """Show what is chosen."""
        if self.reference is not None:
            self._reference.setText(self.reference.name)
        for button, paths in ((self._readings, self.readings), (self._lit, self.lit)):
            if paths:
                more = len(paths) - 1
                name = paths[0].name
                button.setText(
                    say("{name} and {more} more", name=name, more=more) if more else name
                )
        self.go.setEnabled(self.reference is not None and bool(self.readings))

    @property
    def chosen(self) -> FilesToTake | None:
        """What is taken; None until there is enough."""
        if self.reference is None or not self.readings:
            return None
        return FilesToTake(
            self.reference, self.readings, self.lit, begun(self.name.text().strip()),
            self.linear.isChecked(), self.detail.currentData(),
        )  # fmt: skip
