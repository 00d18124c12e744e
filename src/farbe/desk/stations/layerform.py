"""The inspector of one layer: source, treatments in order, hits, ink."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QPushButton, QWidget

from farbe.desk import stackedits
from farbe.desk.fields import ChoiceField, NumberField, TextField
from farbe.desk.form import Form
from farbe.desk.section import Section
from farbe.desk.stations.base import Desk
from farbe.model.base import BadInput
from farbe.model.job import Intent, Job
from farbe.model.layer import COLOUR, Layer, Limit, Source
from farbe.model.printer import LayerKind

#: What a layer that is not colour can come from, in the operator's words.
SOURCES = [(Source.SHAPE, "the artwork's shape"), (Source.WHOLE_PIECE, "the whole piece")]
_PLACES = {1: "First", 2: "Second", 3: "Third", 4: "Fourth", 5: "Fifth"}


class LayerForm(Form):
    """Values of the layer chosen in the section."""

    def __init__(self, desk: Desk, section: Section) -> None:
        super().__init__()
        self._desk, self._section = desk, section
        self._title, self._about = self.title("Layer")
        self._build()
        self._fields: list[NumberField | ChoiceField | TextField] = [
            *self.findChildren(NumberField),
            *self.findChildren(ChoiceField),
            *self.findChildren(TextField),
        ]
        desk.session.changed.connect(self.refresh)
        desk.results.findings_changed.connect(self.refresh)
        section.chosen.connect(lambda _: self.refresh_fields())
        self.refresh()

    def _build(self) -> None:
        session, chosen, change = self._desk.session, self._chosen, self._change
        self.row("Name", TextField(session, "Layer name", lambda j: chosen(j).name, self._rename))
        source = self.row(
            "Comes from",
            ChoiceField(
                session,
                "Source",
                SOURCES,
                lambda j: chosen(j).source,
                lambda j, v: change(j, source=v),
            ),
        )
        self.head("Treatments", "in this order")
        choke = self.row(
            "Choke",
            NumberField(
                session, "Choke", lambda j: chosen(j).choke, self._with_choke, step=0.01, digits=3
            ),
        )
        self.row(
            "Largest amount",
            NumberField(
                session,
                "Largest amount",
                self._limit,
                self._with_limit,
                unit="%",
                step=5,
                digits=0,
            ),
        )
        self.head("Laying down")
        self.row(
            "Hits",
            NumberField(
                session,
                "Hits",
                lambda j: chosen(j).hits,
                lambda j, v: change(j, hits=v),
                unit="",
                digits=0,
            ),
        )
        self._ink = self.words()
        self._not_for_colour = [source, choke]
        self._for_colour = self._conversion()

    def _conversion(self) -> list[QWidget]:
        """How colour becomes ink: only the colour layer shows it."""
        session = self._desk.session
        intents = [(intent, intent.value) for intent in Intent]
        intent = self.row(
            "Intent",
            ChoiceField(
                session,
                "Rendering intent",
                intents,
                lambda j: j.conversion.intent,
                lambda j, v: j.replace(conversion=j.conversion.replace(intent=v)),
            ),
        )
        self._profile = QPushButton()
        self._profile.setAccessibleName("The printer's ICC profile")
        self._profile.setToolTip("The CMYK profile that the plates are made for")
        self._profile.clicked.connect(self._ask_profile)
        return [intent, self.row("Profile", self._profile)]

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

    def _chosen(self, job: Job) -> Layer:
        found = stackedits.layer_named(job, self._section.choice)
        return found or (job.stack[0] if job.stack else COLOUR)

    def _change(self, job: Job, **fields: object) -> Job:
        name = self._chosen(job).name
        return stackedits.with_layer(job, name, lambda layer: layer.replace(**fields))

    def _rename(self, job: Job, name: str) -> Job:
        made = self._change(job, name=name)
        self._section.choice = name
        return made

    def _with_choke(self, job: Job, distance: float) -> Job:
        name = self._chosen(job).name
        return stackedits.with_layer(job, name, lambda la: stackedits.with_choke(la, distance))

    def _limit(self, job: Job) -> float:
        return next(
            (t.percent for t in self._chosen(job).treatments if isinstance(t, Limit)), 100.0
        )

    def _with_limit(self, job: Job, percent: float) -> Job:
        others = tuple(t for t in self._chosen(job).treatments if not isinstance(t, Limit))
        return self._change(job, treatments=(*others, Limit().replace(percent=percent)))

    def refresh(self) -> None:
        """Show what follows from the layer."""
        job, findings = self._desk.session.job, self._desk.results.findings
        if job is None or not job.stack:
            return
        layer = self._chosen(job)
        place = [la.name for la in job.stack].index(layer.name) + 1
        self._title.setText(layer.name)
        where = _PLACES.get(place, f"{place}th")
        self._about.setText(f"{where} film, counted from the substrate")
        for row in self._not_for_colour:
            row.setVisible(layer.kind is not LayerKind.COLOUR)
        for row in self._for_colour:
            row.setVisible(layer.kind is LayerKind.COLOUR)
        shipped = job.conversion.profile is None
        self._profile.setText("the test press's" if shipped else "a file of your own")
        if findings is not None:
            inks = [use for use in findings.estimate.inks if use.layer == layer.name]
            total, cost = sum(use.ml for use in inks), sum(use.cost for use in inks)
            self._ink.setText(f"{total:.2f} ml for the order, {cost:.2f} {self._desk.currency}")

    def refresh_fields(self) -> None:
        """Show another layer's values."""
        for field in self._fields:
            field.refresh()
        self.refresh()
