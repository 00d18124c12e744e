"""Asks what plates are for of which nothing tells."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from farbe.desk.fields import ChoiceField
from farbe.desk.form import Form, emptied, label
from farbe.desk.stations.base import Desk
from farbe.layout.faced import Faced
from farbe.model.artwork import PlateUse
from farbe.model.meaning import Meaning
from farbe.plan.spots import with_use
from farbe.said import say

#: Plates that are asked about at once.
MOST = 6


class PlateQuestions(QWidget):
    """A row for each plate that is not told; nothing once all are."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._asked = desk, tuple[tuple[str, str], ...]()
        self._holder = QVBoxLayout(self)
        self._holder.setContentsMargins(0, 0, 0, 0)
        self.refresh()

    def refresh(self) -> None:
        """Ask about others if there are others."""
        job = self._desk.session.job
        asked = tuple(
            (art.key, use.name)
            for art in (job.artworks if job is not None else ())
            for use in art.plates if use.meaning is Meaning.UNKNOWN
        )  # fmt: skip
        if asked == self._asked:
            return
        self._asked = asked
        emptied(self._holder)
        if asked:
            self._holder.addWidget(self._form(asked))

    def _form(self, asked: tuple[tuple[str, str], ...]) -> Form:
        form = Form()
        form.layout().setContentsMargins(0, 0, 0, 12)  # type: ignore[union-attr]
        form.head(say("What is this for?"), say("plates of the file"))
        for key, name in asked[:MOST]:
            form.row(name[:14], self._choice(key, name))
        if len(asked) > MOST:
            form.wide(label(say("and {asked} more", asked=len(asked) - MOST), "faint"))
        return form

    def _choice(self, key: str, name: str) -> ChoiceField:
        def use(job: Faced) -> PlateUse | None:
            plates = next((art.plates for art in job.artworks if art.key == key), ())
            return next((one for one in plates if one.name == name), None)

        def mean(job: Faced, meaning: Meaning) -> Faced:
            found = use(job)
            if found is None or meaning is Meaning.UNKNOWN:
                return job
            self._desk.remember_plate(name, meaning)
            return with_use(job, key, found.replace(meaning=meaning, guessed=False))

        return ChoiceField(
            self._desk.session,
            say("What {plate} is for", plate=name),
            [(m, m.words) for m in Meaning],
            lambda job: found.meaning if (found := use(job)) is not None else None,
            mean,
        )
