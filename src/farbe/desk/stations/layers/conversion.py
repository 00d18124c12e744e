"""How colour becomes ink: profile, intent, limits."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from farbe.desk.fields import ChoiceField, NumberField
from farbe.desk.form import ElidedButton, Form
from farbe.desk.stations.base import Desk
from farbe.edits.values import lens
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.job import Intent, Numbers
from farbe.model.printer import PROCESS, Ink
from farbe.said import inside, say


def _both(inks: tuple[Ink, ...]) -> str:
    return f"{inks[0].words}, {inside(inks[1].words)}"


class ConversionForm(Form):
    """Only the colour layer shows it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        session = desk.session
        self.head(say("Colour to ink"))
        self._profile = ElidedButton()
        self._profile.setAccessibleName(say("The printer's ICC profile"))
        self._profile.setToolTip(say("The CMYK profile that the plates are made for"))
        self._profile.clicked.connect(self._ask_profile)
        self.row(say("Profile"), self._profile)
        intents = [(intent, intent.words) for intent in Intent]
        self.row(
            say("Photographs"),
            ChoiceField(session, say("Rendering intent"), intents, *lens("conversion.intent")),
        )
        self.row(
            say("Flat graphics"),
            ChoiceField(session, say("Intent of flat graphics"), intents,
                        *lens("conversion.flat_intent")),
        )  # fmt: skip
        self.row(
            say("This is flat"),
            NumberField(session, say("Flat graphics, 0 a photograph"), *lens("conversion.flat"),
                        unit="%", step=25, digits=0),
        )  # fmt: skip
        points = [(True, say("compensated")), (False, say("as measured"))]
        self.row(
            say("Black point"),
            ChoiceField(session, say("Black point"), points, *lens("conversion.black_point")),
        )
        numbers = [(Numbers.CONVERT, say("are converted")), (Numbers.KEEP, say("stay as they are"))]
        self.row(
            say("CMYK numbers"),
            ChoiceField(session, say("CMYK with a profile"), numbers, *lens("conversion.numbers")),
        )
        self.row(
            say("All inks"),
            NumberField(
                session,
                say("Sum of the inks"),
                *lens("conversion.total"),
                unit="%",
                step=10,
                digits=0,
            ),
        )
        for pair in (PROCESS[:2], PROCESS[2:]):
            self.row(_both(pair), *(self._each(ink) for ink in pair))
        self.head(say("Each ink"), say("up or down"))
        for pair in (PROCESS[:2], PROCESS[2:]):
            gains = (
                NumberField(
                    session,
                    say("Gain of {ink}", ink=inside(ink.words)),
                    *lens(f"conversion.gains.{ink.name.lower()}"),
                    unit="%",
                    step=5,
                    digits=0,
                )
                for ink in pair
            )
            self.row(_both(pair), *gains)
        self.refresh()

    def _each(self, ink: Ink) -> NumberField:
        index = PROCESS.index(ink)

        def put(job: Faced, value: float) -> Faced:
            each = list(job.conversion.each)
            each[index] = value
            return job.replace(conversion=job.conversion.replace(each=tuple(each)))

        return NumberField(
            self._desk.session,
            say("Most {ink}", ink=inside(ink.words)),
            lambda j: j.conversion.each[index],
            put,
            unit="%",
            step=5,
            digits=0,
        )

    def _ask_profile(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, say("Profile"), "", say("ICC profiles (*.icc *.icm)")
        )
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
            say("Profile"),
            lambda job: job.replace(conversion=job.conversion.replace(profile=digest)),
        )

    def refresh(self) -> None:
        job = self._desk.session.job
        if job is not None:
            self._profile.setText(profile_words(job))


def profile_words(job: Faced) -> str:
    """Whose profile the plates are made for."""
    return say("the test press's") if job.conversion.profile is None else say("a file of your own")
