"""The inspector of one layer: source, treatments in order, hits, ink."""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from functools import partial
from typing import Any

from farbe.desk.fields import ChoiceField, NumberField, TextField
from farbe.desk.following import Following
from farbe.desk.form import Block, Blocks, ElidedButton, Form
from farbe.desk.inspector import Inspector, Thing, scrolled
from farbe.desk.section import Section, layer_figures
from farbe.desk.stations.base import Desk
from farbe.desk.stations.layers.artwork import ArtworkForm
from farbe.desk.stations.layers.conversion import ConversionForm, profile_words
from farbe.desk.stations.layers.pickrow import PickRow
from farbe.desk.stations.layers.questions import PlateQuestions
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
from farbe.layout.figures import decimal
from farbe.layout.holes import open_share
from farbe.model.base import Value
from farbe.model.layer import COLOUR, Join, Joined, Layer
from farbe.model.printer import LayerKind
from farbe.model.source import AsLayer, PickedColours, PlateNamed, Region
from farbe.said import say, spoken

_PLACES = {1: say("First"), 2: say("Second"), 3: say("Third"), 4: say("Fourth"), 5: say("Fifth")}
_FRESH = {kind: fresh for kind, _, fresh in SOURCES}


class LayerForm(Form):
    """Values of the layer chosen in the section."""

    def __init__(self, desk: Desk, section: Section) -> None:
        super().__init__()
        self._desk, self._section = desk, section
        self._title, self._about = self.title(say("Layer"))
        self._plates: tuple[str, ...] = ()
        self._layers: tuple[str, ...] = ()
        self.treatments = StepList(
            desk, say("treatment"), TREATMENTS, TREATMENT_ROWS,
            lambda j: self.chosen(j).treatments, lambda j, v: self.change(j, treatments=v),
        )  # fmt: skip
        self._blocks = Blocks()
        self.wide(self._blocks)
        recipes = ElidedButton(say("Recipes"))
        self.recipes = RecipeMenu(desk.session, recipes)
        recipes.setMenu(self.recipes)
        self.fold(say("Name and recipes"))
        self.row(say("Name"), TextField(desk.session, say("Layer name"), self._name, self._rename))
        self.wide(recipes)
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
        made = stack_edits.renamed(job, self.chosen(job).name, name)
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
        self._layers = tuple(la.name for la in job.stack)
        self._blocks.show_blocks(self._parts(layer, inks))
        place = [la.name for la in job.stack].index(layer.name) + 1
        self._title.setText(layer.words)
        where = _PLACES.get(place, f"{place}th")
        self._about.setText(
            say(
                "{where} film, counted from the substrate; {kind}",
                where=where,
                kind=layer.kind.words,
            )
        )
        self._show_ink()

    def _parts(self, layer: Layer, inks: tuple[str, ...]) -> Iterator[Block]:
        """What its rows are about, and what makes them."""
        whose: Hashable = (layer.name, layer.kind, self._plates)
        if layer.kind is LayerKind.NAMED:
            yield (whose, inks), partial(self._ink_row, inks=inks)
        if layer.kind is not LayerKind.COLOUR:
            kinds = (layer.source.kind, *(one.source.kind for one in layer.more))
            yield (whose, kinds, self._layers), partial(self._source_rows, layer=layer)
        yield (whose, "treatments"), lambda form: form.head(say("Treatments"), say("in this order"))
        fresh = [
            (words, made)
            for words, made in TREATMENTS
            if layer.kind is not LayerKind.COLOUR or made.for_colour  # type: ignore[attr-defined]
        ]
        yield from self.treatments.blocks(whose, layer.treatments, fresh)
        yield (whose, "laying down"), self._laying_rows

    def _ink_row(self, form: Form, inks: tuple[str, ...]) -> None:
        form.row(
            say("Ink"),
            ChoiceField(
                self._desk.session, say("Named ink"), [(name, name) for name in inks],
                lambda j: self.chosen(j).ink, lambda j, v: self.change(j, ink=v),
            ),
        )  # fmt: skip

    def _laying_rows(self, form: Form) -> None:
        form.head(say("Laying down"))
        form.row(
            say("Hits"),
            NumberField(
                self._desk.session, say("Hits"), lambda j: self.chosen(j).hits,
                lambda j, v: self.change(j, hits=v), unit="", digits=0,
            ),
        )  # fmt: skip
        self._ink = form.words()

    def _source_rows(self, form: Form, layer: Layer) -> None:
        session = self._desk.session
        kinds = [(kind, words) for kind, words, _ in SOURCES]
        form.row(
            say("Comes from"),
            ChoiceField(
                session, say("Source"), kinds, lambda j: type(self.chosen(j).source),
                lambda j, v: self.change(j, source=_FRESH[v]),
            ),
        )  # fmt: skip
        self._options(form, say("Source"), layer.source, None)
        joins: list[tuple[Any, str]] = [(None, say("nothing else")), *((j, j.words) for j in Join)]
        for at in range(len(layer.more) + 1):
            about = say("Joined with") if at == 0 else say("Joined with, {at}", at=at + 1)
            form.row(
                say("Joined with") if at == 0 else say("and"),
                ChoiceField(session, about, joins, partial(self._join, at),
                            partial(self._with_join, at)),
            )  # fmt: skip
            if at < len(layer.more):
                second = say("Second source") if at == 0 else say("Source {at}", at=at + 2)
                form.row(
                    say("this"),
                    ChoiceField(session, second, kinds, partial(self._kind, at),
                                partial(self._with_fresh, at)),
                )  # fmt: skip
                self._options(form, second, layer.more[at].source, at)

    def _join(self, at: int, job: Faced) -> Join | None:
        more = self.chosen(job).more
        return more[at].join if at < len(more) else None

    def _kind(self, at: int, job: Faced) -> type[Value] | None:
        more = self.chosen(job).more
        return type(more[at].source) if at < len(more) else None

    def _with_join(self, at: int, job: Faced, join: Join | None) -> Faced:
        more = self.chosen(job).more
        if join is None:
            return self.change(job, more=(*more[:at], *more[at + 1 :]))
        if at < len(more):
            made = more[at].replace(join=join)
        else:
            made = Joined(join=join, source=_FRESH[Region])
        return self.change(job, more=(*more[:at], made, *more[at + 1 :]))

    def _with_fresh(self, at: int, job: Faced, kind: type[Value]) -> Faced:
        return self._with_source(at, job, _FRESH[kind])

    def _with_source(self, at: int, job: Faced, source: Value) -> Faced:
        more = self.chosen(job).more
        if at >= len(more):
            return job
        made = more[at].replace(source=source)
        return self.change(job, more=(*more[:at], made, *more[at + 1 :]))

    def _options(self, form: Form, about: str, source: Value, at: int | None) -> None:
        """The rows of a source's own figures: the first one's, or one's of those joined with it."""
        kind = type(source)

        def get(job: Faced) -> Value | None:
            layer = self.chosen(job)
            if at is None:
                found: Value | None = layer.source
            else:
                found = layer.more[at].source if at < len(layer.more) else None
            return found if isinstance(found, kind) else None

        def put(job: Faced, value: Value) -> Faced:
            if at is None:
                return self.change(job, source=value)
            return self._with_source(at, job, value)

        add_rows(form, self._desk.session, about, SOURCE_ROWS.get(kind, ()), get, put)
        if isinstance(source, PlateNamed):
            names = dict.fromkeys((*self._plates, source.name))
            form.row(
                say("Plate"),
                ChoiceField(
                    self._desk.session,
                    say("{about}: plate", about=about),
                    [(name, name) for name in names],
                    lambda j: getattr(get(j), "name", None),
                    lambda j, v: put(j, PlateNamed(name=v)),
                ),
            )
        if isinstance(source, AsLayer):
            others = [name for name in self._layers if name != self._section.choice]
            form.row(
                say("Layer"),
                ChoiceField(
                    self._desk.session,
                    say("{about}: layer", about=about),
                    [(name, spoken(name)) for name in others],
                    lambda j: getattr(get(j), "name", None),
                    lambda j, v: put(j, AsLayer(name=v)),
                ),
            )
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
        self._ink.setText(
            say(
                "{total} ml for the order, {cost} {currency}",
                total=decimal(total, 2),
                cost=decimal(cost, 2),
                currency=self._desk.currency,
            )
        )

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


class LayersInspector(Following, Inspector):
    """The films of the stack, the uppermost first, and what is the same for all of them."""

    SHOWN_LATER = True

    def __init__(self, desk: Desk, section: Section) -> None:
        super().__init__(say("Layers"))
        self._desk, self._section = desk, section
        self._films: list[Thing] = []
        self.layer = LayerForm(desk, section)
        self._questions = PlateQuestions(desk)
        self.above(self._questions)
        self.artwork, self.conversion = ArtworkForm(desk), ConversionForm(desk)
        self._artwork = self.add(say("Artwork"), self._padded(self.artwork))
        self._conversion = self.add(say("Colour to ink"), self._padded(self.conversion))
        self.see_through = SeeThroughForm(desk)
        self._see_through = self.add(say("Holes to see through"), self._padded(self.see_through))
        self._page = scrolled(self.layer)
        self.add_page(self._page)
        section.chosen.connect(self._show_film)
        self.chosen.connect(self._choose_film)
        self.follow(desk.session)
        for told in (desk.results.preview_rests, desk.results.findings_changed):
            told.connect(partial(desk.workers.once_drawn, "layers", self._changed))
        self._show_film(section.choice)

    @staticmethod
    def _padded(form: Form) -> Form:
        form.layout().setContentsMargins(16, 12, 16, 12)  # type: ignore[union-attr]
        return form

    def refresh(self) -> None:
        """Show the job in all forms, and list the films of the stack as it is now."""
        for form in (
            self.layer, self._questions, self.artwork, self.conversion, self.see_through,
        ):  # fmt: skip
            form.refresh()
        job = self._desk.session.job
        if job is None:
            return
        stack = job.stack[::-1]
        if [thing.name for thing in self._films] != [layer.name for layer in stack]:
            self._list_films([layer.name for layer in stack])
        for thing, layer in zip(self._films, stack, strict=True):
            thing.say(layer_figures(layer))
        art = job.artwork
        self._artwork.say(art.file_name if art is not None else say("none"))
        self._conversion.say(profile_words(job))
        self._see_through.offer(self.see_through.is_offered(job))
        self._see_through.say(f"{open_share(job) * 100:.0f} %" if job.see_through else say("none"))

    def _list_films(self, names: list[str]) -> None:
        was_film = self.current in self._films
        self.blockSignals(True)
        for thing in self._films:
            self.remove(thing)
        self._films = [self.insert(at, name, self._page) for at, name in enumerate(names)]
        self.blockSignals(False)
        if was_film or self._section.choice not in names:
            self._show_film(self._section.choice)

    def _show_film(self, name: str) -> None:
        """Show the film that was chosen in the section."""
        found = next((thing for thing in self._films if thing.name == name), None)
        if found is not None:
            self.choose(found)

    def _choose_film(self, name: str) -> None:
        """Choose the film of the list in the section, too."""
        if self.current in self._films and name != self._section.choice:
            self._section.choose(name)
