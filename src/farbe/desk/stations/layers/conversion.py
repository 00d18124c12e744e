"""How colour becomes ink: profile, intent, limits."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QPushButton

from farbe.desk.fields import ChoiceField, NumberField
from farbe.desk.form import Form
from farbe.desk.stations.base import Desk
from farbe.edits.values import lens
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.job import Intent, Numbers


class ConversionForm(Form):
    """Only the colour layer shows it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        session = desk.session
        self.head("Colour to ink")
        self._profile = QPushButton()
        self._profile.setAccessibleName("The printer's ICC profile")
        self._profile.setToolTip("The CMYK profile that the plates are made for")
        self._profile.clicked.connect(self._ask_profile)
        self.row("Profile", self._profile)
        intents = [(intent, intent.value) for intent in Intent]
        self.row(
            "Photographs",
            ChoiceField(session, "Rendering intent", intents, *lens("conversion.intent")),
        )
        self.row(
            "Flat graphics",
            ChoiceField(session, "Intent of flat graphics", intents,
                        *lens("conversion.flat_intent")),
        )  # fmt: skip
        self.row(
            "This is flat",
            NumberField(session, "Flat graphics, 0 a photograph", *lens("conversion.flat"),
                        unit="%", step=25, digits=0),
        )  # fmt: skip
        points = [(True, "compensated"), (False, "as measured")]
        self.row(
            "Black point",
            ChoiceField(session, "Black point", points, *lens("conversion.black_point")),
        )
        numbers = [(Numbers.CONVERT, "are converted"), (Numbers.KEEP, "stay as they are")]
        self.row(
            "CMYK numbers",
            ChoiceField(session, "CMYK with a profile", numbers, *lens("conversion.numbers")),
        )
        self.row(
            "All inks",
            NumberField(
                session, "Sum of the inks", *lens("conversion.total"), unit="%", step=10, digits=0
            ),
        )
        for pair in (("Cyan", "Magenta"), ("Yellow", "Black")):
            self.row(", ".join(pair), *(self._each(name) for name in pair))
        self.head("Each ink", "up or down")
        for one, two in (("cyan", "magenta"), ("yellow", "black")):
            gains = (
                NumberField(session, f"Gain of {ink}", *lens(f"conversion.gains.{ink}"),
                            unit="%", step=5, digits=0)
                for ink in (one, two)
            )  # fmt: skip
            self.row(f"{one.capitalize()}, {two}", *gains)
        desk.session.changed.connect(self.refresh)
        self.refresh()

    def _each(self, name: str) -> NumberField:
        index = ("Cyan", "Magenta", "Yellow", "Black").index(name)

        def put(job: Faced, value: float) -> Faced:
            each = list(job.conversion.each)
            each[index] = value
            return job.replace(conversion=job.conversion.replace(each=tuple(each)))

        return NumberField(
            self._desk.session, f"Most {name.lower()}", lambda j: j.conversion.each[index], put,
            unit="%", step=5, digits=0,
        )  # fmt: skip

    def _ask_profile(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Profile", "", "ICC profiles (*.icc *.icm)")
        if name:
            self.take_profile(Path(name))

    def take_profile(self, path: Path) -> None:
        """Make the plates for another printer profile."""
        session = self._desk.session
        try:
            digest = session.store.add_profile(path)
        except BadInput as error:
            session.said.emit(str(error))
            return
        session.edit(
            "Profile", lambda job: job.replace(conversion=job.conversion.replace(profile=digest))
        )

    def refresh(self) -> None:
        job = self._desk.session.job
        if job is not None:
            self._profile.setText(profile_words(job))


def profile_words(job: Faced) -> str:
    """Whose profile the plates are made for."""
    return "the test press's" if job.conversion.profile is None else "a file of your own"
