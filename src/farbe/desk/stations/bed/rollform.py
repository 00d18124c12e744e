"""The film's inspector: its width and margins, how artworks lie, what they are pressed onto."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtWidgets import QWidget

from farbe.desk.fields import ChoiceField, ColourField, NumberField, TextField
from farbe.desk.form import ElidedButton, Form
from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.rollcanvas import RollCanvas
from farbe.desk.stations.part import Part
from farbe.edits.bed import both_sides, with_turning
from farbe.edits.film import doubled, dragged, on_roll, taken_off, turned, with_offset, with_roll
from farbe.edits.values import Get, Set
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal, measure, sizes
from farbe.layout.rolls import film_length, packed, used_share
from farbe.model.face import Turn
from farbe.model.piece import Reader
from farbe.model.roll import Cut, FilmPlace, Garment, Packing, Roll
from farbe.said import say

#: What the fields show while there is no film.
USUAL = Roll()


def film(name: str) -> tuple[Get, Set]:
    """Getter and setter of a value of the film; jobs without one have the usual film's."""

    def get(job: Faced) -> Any:
        return getattr(job.roll or USUAL, name)

    def put(job: Faced, value: Any) -> Faced:
        return with_roll(job, **{name: value})

    return get, put


class FilmArtworkPart(Part):
    """The artwork that is chosen on the film: where it lies, turned how; one more or one less."""

    NAME = say("Artwork")

    def __init__(self, inspector: Inspector, desk: Desk, canvas: RollCanvas) -> None:
        self._canvas = canvas
        super().__init__(inspector, desk)
        canvas.choice_changed.connect(self._chosen)

    def build(self) -> None:
        form = self.form
        self._title, self._about = form.title(say("Artwork"))
        self._fields = [self._place("x", 0), self._place("y", 1)]
        self._rows = [
            form.row(say("Middle at"), *self._fields),
            form.button(
                say("Turn by a quarter"),
                partial(self._do, say("Turn an artwork"), turned),
                say("R at the film"),
            ),
            form.button(
                say("One more of it"),
                partial(self._do, say("One more on the film"), doubled),
                say("D at the film"),
            ),
            form.button(
                say("Take it off the film"),
                partial(self._do, say("Take off the film"), taken_off),
                say("Delete at the film"),
            ),
        ]

    def _place(self, axis: str, at: int) -> NumberField:
        def get(job: Faced) -> float:
            found = self._chosen_place(job)
            return 0.0 if found is None else float(getattr(found, axis))

        def put(job: Faced, value: float) -> Faced:
            by = value - get(job)
            return dragged(job, self._canvas.choice, (0.0, by) if at else (by, 0.0), 0.0)

        return self.number(say("Artwork on film {axis}", axis=axis), (get, put), step=0.5)

    def _chosen_place(self, job: Faced) -> FilmPlace | None:
        places, which = (job.roll or USUAL).places, self._canvas.choice
        return places[which - 1] if 0 < which <= len(places) else None

    def _do(self, name: str, change: Callable[[Faced, int], Faced]) -> None:
        which = self._canvas.choice
        if which:
            self.session.edit(name, lambda job: change(job, which))

    def _chosen(self) -> None:
        for field in self._fields:
            field.refresh()
        self.refresh()

    def refresh(self) -> None:
        job = self.session.job
        if job is None or job.roll is None:
            return
        place, which = self._chosen_place(job), self._canvas.choice
        for row in self._rows:
            row.setEnabled(place is not None)
        count = len(job.roll.places)
        self.thing.say(
            say("{which} of {count}", which=which, count=count)
            if place is not None
            else say("{count} on the film", count=count)
        )
        names = {art.key: art.file_name for art in job.artworks}
        self._title.setText(
            say("Artwork {which}", which=which)
            if place is not None
            else say("No artwork is chosen")
        )
        self._about.setText(
            f"{names.get(place.artwork, 'an artwork')}"
            + (say(", turned by {turned}°", turned=place.turned) if place.turned else "")
            if place is not None
            else say("Click one on the film, or go to it with Alt and the arrow keys.")
        )


class FilmPart(Part):
    """Width, margins, price; what of it is taken."""

    NAME = say("Film")

    def build(self) -> None:
        form = self.form
        form.row(say("Lies on"), lies_on(self.desk))
        self.numbers(say("Width, longest"), (say("Film width"), film("width")),
                     (say("Longest sheet"), film("longest")), step=10)  # fmt: skip
        self.numbers(say("Side margins"), (say("Side margin"), film("side")), step=0.5)
        self.numbers(
            say("Lead, trail"), (say("Lead"), film("lead")), (say("Trail"), film("trail")), step=1
        )
        self.numbers(say("Film costs"), (say("Price of a metre of film"), film("price")),
                     unit=lambda: f"{self.desk.currency}/m", step=0.1)  # fmt: skip
        self._words = form.words()

    def refresh(self) -> None:
        job = self.session.job
        if job is None or job.roll is None:
            return
        self._words.setText(self._told(job))
        self.thing.say(sizes(job.roll.width, film_length(job), digits=0))

    def _told(self, job: Faced) -> str:
        roll = job.roll
        if roll is None:
            return ""
        length = film_length(job)
        words = say(
            "{length} of film, {price}",
            length=measure(length, 0),
            price=decimal(length / 1000 * roll.price, 2),
        )
        words += f" {self.desk.currency}."
        if roll.packing is Packing.SHAPES:
            # What the rectangles would take is not packed here, on the window's thread.
            return words
        return say(
            "{words} The artworks' rectangles take {used_share} % of it.",
            words=words,
            used_share=f"{used_share(job) * 100:.0f}",
        )


class LayingPart(Part):
    """How artworks are laid: by what, with which gap, turned or not."""

    NAME = say("How artworks lie")

    def build(self) -> None:
        ways = [(way, way.words) for way in Packing]
        self.choice(say("Laid"), say("Laid on the film"), ways, film("packing"))
        self.numbers(say("Gap"), (say("Gap on the film"), film("gap")), step=0.5)
        turns = [(True, say("by quarters")), (False, say("never"))]
        self.choice(say("Turned"), say("Turned on the film"), turns, film("turning"))
        self.numbers(say("Bleed"), (say("Bleed on the film"), "bleed"), step=0.5)

    def refresh(self) -> None:
        job = self.session.job
        if job is not None and job.roll is not None:
            self.thing.say(job.roll.packing.words)


class CutPart(Part):
    """How artworks are cut apart."""

    NAME = say("Cut apart")

    def build(self) -> None:
        form = self.form
        cuts = [(cut, cut.words) for cut in Cut]
        self.choice(say("Cut"), say("Cut apart"), cuts, film("cut"))
        self._beyond = self.numbers(
            say("Beyond the ink"), (say("Cut beyond the ink"), film("beyond")), step=0.5
        )
        form.button(say("Write the cutting file…"), lambda: self.desk.exports.ask_guide("film.svg"))

    def refresh(self) -> None:
        job = self.session.job
        if job is None or job.roll is None:
            return
        self.thing.say(job.roll.cut.words)
        self._beyond.setVisible(job.roll.cut is not Cut.BOXES)


def narrow(field: QWidget) -> QWidget:
    """A field that may share its row."""
    field.setMinimumWidth(64)
    return field


class FilmSidesPart(Part):
    """Two sides of a film: which one is shown, the line behind each side A, what was measured."""

    NAME = say("Sides")

    def build(self) -> None:
        sides = [(False, say("one side")), (True, say("both sides"))]
        self.choice(say("Printed on"), say("Film printed on"), sides,
                    (lambda j: j.two_sided, film_sides))  # fmt: skip
        turns = [(Turn.SIDEWAYS, say("like a page")), (Turn.ENDWAYS, say("over its lower edge"))]
        self._rows = [
            self.choice(
                say("Reader turns"), say("The reader turns it"), turns, (_turn, _with_turn)
            ),
            self.numbers(say("Line behind A"), (say("Line behind side A"), film("line")), step=0.5),
        ]
        self._rows.append(
            self.form.button(
                say("Look at the other side"),
                lambda: self.session.look_at(other_side=not self.session.other_side),
                say("Work on side B (Ctrl+B)"),
            )
        )
        off = {name: self._offset(name) for name in ("x", "y", "rotation", "scale")}
        self._rows += [
            self.form.words(say("Found after a print: side B lies off by")),
            self.numbers(
                say("Right, up"),
                (say("Side B to the right"), off["x"]),
                (say("Side B up"), off["y"]),
                step=0.1,
            ),
            self.numbers(
                say("Turned"), (say("Side B turned"), off["rotation"]), unit="°", step=0.05
            ),
            self.numbers(say("Larger"), (say("Side B larger"), off["scale"]), unit="%", step=0.1),
            self.form.words(
                say(
                    "Its last end goes in first, so side B comes in reverse order. Page up and "
                    "down move the chosen pair."
                )
            ),
        ]

    @staticmethod
    def _offset(name: str) -> tuple[Get, Set]:
        def get(job: Faced) -> Any:
            return getattr((job.roll or USUAL).offset, name)

        def put(job: Faced, value: Any) -> Faced:
            return with_offset(job, **{name: value})

        return get, put

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        both = job.two_sided
        self.thing.say(say("A and B") if both else say("one"))
        for row in self._rows:
            row.setVisible(both)


def film_sides(job: Faced, both: bool) -> Faced:
    """The job on film with another side, or without; its places follow."""
    made = both_sides(job, both)
    return packed(made, {}) if made.roll is not None and both else made


def _turn(job: Faced) -> Turn:
    return job.turning.turn if job.turning is not None else Turn.SIDEWAYS


def _with_turn(job: Faced, turn: Turn) -> Faced:
    return with_turning(job, turn=turn, board=False)


class GarmentPart(Part):
    """Colours and sizes of the order; only transfers have them."""

    NAME = say("Garments")

    def build(self) -> None:
        self._holder = Form()
        self._holder.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        self.form.wide(self._holder)
        self._rows: list[QWidget] = []
        self.form.button(
            say("Add a garment"), self.add, say("A colour, a size, and how many of them")
        )

    def add(self) -> None:
        """One more line of the order."""
        self.session.edit(
            say("Add a garment"),
            lambda j: j.replace(garments=(*j.garments, Garment(colour=j.piece.surface.colour))),
        )

    def _field(self, index: int, name: str):  # type: ignore[no-untyped-def]
        def get(job: Faced) -> object:
            return getattr(job.garments[index], name) if index < len(job.garments) else ""

        def put(job: Faced, value: object) -> Faced:
            made = job.garments[index].replace(**{name: value})
            return job.replace(garments=(*job.garments[:index], made, *job.garments[index + 1 :]))

        return get, put

    def _line(self, index: int) -> None:
        session, title = self.session, say("Garment {number}", number=index + 1)
        get, put = self._field(index, "count")
        self._rows.append(
            self._holder.row(
                title,
                narrow(
                    ColourField(
                        session, say("{title} colour", title=title), *self._field(index, "colour")
                    )
                ),
                NumberField(
                    session,
                    say("{title} count", title=title),
                    lambda j: get(j) or 0,
                    lambda j, v: put(j, round(v)),
                    unit="×",
                    digits=0,
                ),
            )
        )
        remove = ElidedButton(say("Remove"))
        remove.clicked.connect(lambda: self._remove(index))
        self._rows.append(
            self._holder.row(
                say("Of, size"),
                narrow(
                    TextField(session, say("{title} of", title=title), *self._field(index, "name"))
                ),
                narrow(
                    TextField(
                        session, say("{title} size", title=title), *self._field(index, "size")
                    )
                ),
            )
        )
        self._rows.append(self._holder.row("", remove))

    def _remove(self, index: int) -> None:
        self.session.edit(
            say("Remove a garment"),
            lambda j: j.replace(garments=(*j.garments[:index], *j.garments[index + 1 :])),
        )

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        self.thing.offer(job.roll is not None and job.reader is Reader.TRANSFER)
        self.thing.say(str(sum(g.count for g in job.garments) or say("none")))
        while len(self._rows) < 3 * len(job.garments):
            self._line(len(self._rows) // 3)
        for place, row in enumerate(self._rows):
            row.setVisible(place < 3 * len(job.garments))


def lies_on(desk: Desk) -> ChoiceField:
    """Whether a job is printed on a board or on film from a roll."""
    ways = [(False, say("a board on the bed")), (True, say("film from a roll"))]
    return ChoiceField(desk.session, say("Lies on"), ways, lambda j: j.roll is not None, on_roll)
