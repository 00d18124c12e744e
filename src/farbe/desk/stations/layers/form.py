"""The inspector of one layer: source, treatments in order, hits, ink."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import (
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from farbe.desk.fields import ChoiceField, NumberField, TextField
from farbe.desk.form import Form
from farbe.desk.section import Section
from farbe.desk.stations.base import Desk
from farbe.desk.stations.layers.artwork import ArtworkForm
from farbe.desk.stations.layers.conversion import ConversionForm
from farbe.desk.stations.layers.pickrow import PickRow
from farbe.desk.stations.layers.seethrough import SeeThroughForm
from farbe.desk.stations.layers.treatments import StepList
from farbe.desk.stations.layers.words import (
    SOURCE_ROWS,
    SOURCES,
    TREATMENT_ROWS,
    TREATMENTS,
)
from farbe.desk.stations.recipemenu import RecipeMenu
from farbe.desk.stations.valuerows import add_rows
from farbe.edits import stack as stack_edits
from farbe.layout.faced import Faced
from farbe.model.base import Value
from farbe.model.layer import COLOUR, Join, Layer
from farbe.model.printer import LayerKind
from farbe.model.source import PickedColours, PlateNamed, Region

_PLACES = {1: "First", 2: "Second", 3: "Third", 4: "Fourth", 5: "Fifth"}
_FRESH = {kind: fresh for kind, _, fresh in SOURCES}


class LayerForm(Form):
    """Values of the layer chosen in the section."""

    def __init__(self, desk: Desk, section: Section) -> None:
        super().__init__()
        self._desk, self._section = desk, section
        self._title, self._about = self.title("Layer")
        self._shape: object = None
        self._plates: tuple[str, ...] = ()
        self._body = QWidget()
        self._holder = QVBoxLayout(self._body)
        self._holder.setContentsMargins(0, 0, 0, 0)
        self.row("Name", TextField(desk.session, "Layer name", self._name, self._rename))
        recipes = QPushButton("Recipes")
        self.recipes = RecipeMenu(desk.session, recipes)
        recipes.setMenu(self.recipes)
        self.wide(recipes)
        self.wide(self._body)
        self.artwork, self.conversion = ArtworkForm(desk), ConversionForm(desk)
        self.wide(self.artwork)
        self.wide(self.conversion)
        self.wide(SeeThroughForm(desk))
        desk.session.changed.connect(self.refresh)
        desk.results.findings_changed.connect(self._show_ink)
        section.chosen.connect(lambda _: self.refresh_fields())
        self.refresh()

    # the chosen layer

    def chosen(self, job: Faced) -> Layer:
        """The layer that is chosen in the section, or the first one."""
        found = stack_edits.layer_named(job, self._section.choice)
        return found or (job.stack[0] if job.stack else COLOUR)

    def change(self, job: Faced, **fields: Any) -> Faced:
        """The job with the chosen layer changed."""
        name = self.chosen(job).name
        return stack_edits.with_layer(job, name, lambda layer: layer.replace(**fields))

    def _name(self, job: Faced) -> str:
        return self.chosen(job).name

    def _rename(self, job: Faced, name: str) -> Faced:
        made = self.change(job, name=name)
        self._section.choice = name
        return made

    # rows that depend on what the layer is

    def refresh(self) -> None:
        """Show what follows from the layer; its rows are made anew when it has others."""
        job = self._desk.session.job
        if job is None or not job.stack:
            return
        layer = self.chosen(job)
        inks = tuple(ink.name for ink in job.printer.inks if ink.kind is LayerKind.NAMED)
        self._plates = tuple(use.name for art in job.artworks for use in art.plates)
        shape = (
            layer.name, layer.kind, layer.source.kind, layer.second and layer.second.kind,
            tuple(t.kind for t in layer.treatments), inks, self._plates,
        )  # fmt: skip
        if shape != self._shape:
            self._shape = shape
            self._rebuild(layer, inks)
        place = [la.name for la in job.stack].index(layer.name) + 1
        self._title.setText(layer.name)
        where = _PLACES.get(place, f"{place}th")
        self._about.setText(f"{where} film, counted from the substrate; {layer.kind.value}")
        for part in (self.artwork, self.conversion):
            part.setVisible(layer.kind is LayerKind.COLOUR)
        self._show_ink()

    def _rebuild(self, layer: Layer, inks: tuple[str, ...]) -> None:
        while (item := self._holder.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        form = Form()
        form.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        if layer.kind is LayerKind.NAMED:
            form.row(
                "Ink",
                ChoiceField(
                    self._desk.session, "Named ink", [(name, name) for name in inks],
                    lambda j: self.chosen(j).ink, lambda j, v: self.change(j, ink=v),
                ),
            )  # fmt: skip
        if layer.kind is not LayerKind.COLOUR:
            self._source_rows(form, layer)
        form.head("Treatments", "in this order")
        fresh = [
            (words, made)
            for words, made in TREATMENTS
            if layer.kind is not LayerKind.COLOUR or made.for_colour  # type: ignore[attr-defined]
        ]
        self.treatments = StepList(
            self._desk, form, "treatment", layer.treatments, fresh, TREATMENT_ROWS,
            lambda j: self.chosen(j).treatments, lambda j, v: self.change(j, treatments=v),
        )  # fmt: skip
        form.head("Laying down")
        form.row(
            "Hits",
            NumberField(
                self._desk.session, "Hits", lambda j: self.chosen(j).hits,
                lambda j, v: self.change(j, hits=v), unit="", digits=0,
            ),
        )  # fmt: skip
        self._ink = form.words()
        self._holder.addWidget(form)

    def _source_rows(self, form: Form, layer: Layer) -> None:
        session = self._desk.session
        kinds = [(kind, words) for kind, words, _ in SOURCES]
        form.row(
            "Comes from",
            ChoiceField(
                session, "Source", kinds, lambda j: type(self.chosen(j).source),
                lambda j, v: self.change(j, source=_FRESH[v]),
            ),
        )  # fmt: skip
        self._options(form, "Source", layer.source, "source")
        joins: list[tuple[Any, str]] = [(None, "nothing else"), *((j, j.value) for j in Join)]
        form.row(
            "Joined with",
            ChoiceField(
                session, "Joined with", joins,
                lambda j: self.chosen(j).join if self.chosen(j).second else None, self._with_join,
            ),
        )  # fmt: skip
        if layer.second is not None:
            form.row(
                "this",
                ChoiceField(
                    session, "Second source", kinds, lambda j: type(self.chosen(j).second),
                    lambda j, v: self.change(j, second=_FRESH[v]),
                ),
            )  # fmt: skip
            self._options(form, "Second source", layer.second, "second")

    def _with_join(self, job: Faced, join: Join | None) -> Faced:
        if join is None:
            return self.change(job, second=None)
        second = self.chosen(job).second or _FRESH[Region]
        return self.change(job, join=join, second=second)

    def _options(self, form: Form, about: str, source: Value, field: str) -> None:
        """The rows of a source's own figures."""
        kind = type(source)

        def get(job: Faced) -> Value | None:
            found = getattr(self.chosen(job), field)
            return found if isinstance(found, kind) else None

        def put(job: Faced, value: Value) -> Faced:
            return self.change(job, **{field: value})

        add_rows(form, self._desk.session, about, SOURCE_ROWS.get(kind, ()), get, put)
        if isinstance(source, PlateNamed):
            names = dict.fromkeys((*self._plates, source.name))
            form.row(
                "Plate",
                ChoiceField(
                    self._desk.session, f"{about}: plate", [(name, name) for name in names],
                    lambda j: getattr(get(j), "name", None),
                    lambda j, v: put(j, PlateNamed(name=v)),
                ),
            )  # fmt: skip
        if isinstance(source, PickedColours | Region):
            form.wide(PickRow(self._desk, get, put))

    # what follows

    def _show_ink(self) -> None:
        job, findings = self._desk.session.job, self._desk.results.findings
        if job is None or findings is None or not job.stack:
            return
        layer = self.chosen(job)
        inks = [use for use in findings.estimate.inks if use.layer == layer.name]
        total, cost = sum(use.ml for use in inks), sum(use.cost for use in inks)
        self._ink.setText(f"{total:.2f} ml for the order, {cost:.2f} {self._desk.currency}")

    def refresh_fields(self) -> None:
        """Show another layer's values."""
        self.refresh()
        fields: list[NumberField | ChoiceField | TextField] = [
            *self.findChildren(NumberField),
            *self.findChildren(ChoiceField),
            *self.findChildren(TextField),
        ]
        for field in fields:
            field.refresh()
