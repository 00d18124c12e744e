"""Piece: what is printed on and who reads it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from farbe.desk.fields import ChoiceField, ColourField, SwitchField, TextField
from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk, StationView
from farbe.desk.stations.part import Part
from farbe.desk.stations.piece.body import BodyRows
from farbe.desk.stations.piece.canvas import PieceCanvas
from farbe.edits import stack as stack_edits
from farbe.edits.bed import both_sides
from farbe.edits.piece import (
    with_height,
    with_radius,
    with_shape_kind,
    with_width,
)
from farbe.edits.values import lens, with_piece, with_surface
from farbe.files.outlinefile import read_outline
from farbe.layout.figures import bare_length, sizes
from farbe.model.piece import (
    Circle,
    Material,
    Reader,
    Rectangle,
    RoundBody,
    Surface,
)
from farbe.plan.readers import ReadBy, mirror_words, order_words, read_by
from farbe.plan.sentence import surface_words
from farbe.said import say, shipped, spoken

#: Surfaces that are often met; a click states one.
SURFACES = (
    Surface(colour="#1d3b31", name=shipped("steel, dark green")),
    Surface(colour="#ffffff", name=shipped("white board")),
    Surface(colour="#c99f6a", name=shipped("wood")),
    Surface(material=Material.CLEAR, name=shipped("clear film")),
    Surface(material=Material.TRANSLUCENT, colour="#eef0ee", name=shipped("opal acrylic")),
    Surface(material=Material.TEXTILE, colour="#23262e", name=shipped("dark cotton")),
)


class ShapePart(Part):
    """What is printed on: its name, outline, size and height."""

    NAME = say("Piece")

    def build(self) -> None:
        form, session = self.form, self.session
        form.row(
            say("Job"),
            TextField(session, say("Job name"), lambda j: j.name, lambda j, v: j.replace(name=v)),
        )
        form.row(say("Piece"), TextField(session, say("Piece name"), *lens("piece.name")))
        self._film = form.words(say("On film from a roll each artwork is a piece of its own."))
        kinds = [
            ("circle", say("round")),
            ("ellipse", say("oval")),
            ("rectangle", say("rectangle")),
            ("outline", say("from a drawing")),
            ("round body", say("round body")),
        ]
        outline = ChoiceField(
            session, say("Outline"), kinds, lambda j: j.piece.shape.kind, with_shape_kind
        )
        self._shape_rows = [
            form.row(say("Outline"), outline),
            form.button(
                say("Outline from a drawing…"), self._ask_drawing,
                say("A closed line in SVG or DXF, at real size; lines within it are holes"),
            ),
        ]  # fmt: skip
        self._sizes = self.numbers(
            say("Width, length"),
            (say("Width"), (lambda j: j.piece.shape.width, with_width)),
            (say("Length"), (lambda j: j.piece.shape.height, with_height)),
        )
        self._diameter = self.numbers(
            say("Diameter"), (say("Diameter"), (lambda j: j.piece.shape.width, with_width))
        )
        radius = (lambda j: getattr(j.piece.shape, "corner_radius", 0.0), with_radius)
        self._corner = self.numbers(say("Corner radius"), (say("Corner radius"), radius), step=0.5)
        self._body = BodyRows(form, session)
        form.row(
            say("Height, relief"),
            self.number(say("Height"), "piece.height", step=0.5),
            self.number(say("Relief"), "piece.relief", step=0.1),
        )

    def _ask_drawing(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.form, say("Outline"), "", say("Drawings (*.svg *.dxf)")
        )
        if name:
            take_outline(self.desk, Path(name))

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        shape, on_film = job.piece.shape, job.roll is not None
        circle, round_ = isinstance(shape, Circle), isinstance(shape, RoundBody)
        for row in self._shape_rows:
            row.setVisible(not on_film)
        self._film.setVisible(on_film)
        self._body.refresh()
        self._sizes.setVisible(not circle and not on_film and not round_)
        self._diameter.setVisible(circle and not on_film)
        self._corner.setVisible(isinstance(shape, Rectangle) and not on_film)
        high = (
            say(", {height} high", height=bare_length(job.piece.height)) if job.piece.height else ""
        )
        self.thing.say(f"{sizes(shape.width, shape.height)}{high}")


class SurfacePart(Part):
    """What the piece's face is made of, as light sees it."""

    NAME = say("Surface")

    def build(self) -> None:
        form, session = self.form, self.session
        form.row(say("Like"), _surface_choice(self.desk))
        materials = [(m, m.words) for m in Material]
        material = (
            lambda j: j.piece.surface.material,
            lambda j, v: with_surface(j, material=v),
        )
        self.choice(say("Light sees it"), say("Material"), materials, material)
        form.row(say("Colour"), ColourField(
            session, say("Surface colour"), lambda j: j.piece.surface.colour,
            lambda j, v: with_surface(j, colour=v, name=""),
        ))  # fmt: skip

    def refresh(self) -> None:
        job = self.session.job
        if job is not None:
            self.thing.say(surface_words(job.piece))


class ReaderPart(Part):
    """Who reads the piece, on how many sides it is printed; what follows in words."""

    NAME = say("Reader")

    def build(self) -> None:
        form = self.form
        readers = [
            (ReadBy.FACE, say("the face")),
            (ReadBy.THROUGH, say("through it")),
            (ReadBy.BOTH, say("both")),
            (ReadBy.TRANSFER, say("transfer")),
        ]
        form.wide(
            SwitchField(
                self.session, say("Read from"), readers, read_by, stack_edits.with_readers_of
            )
        )
        self._other = form.button(
            say("Look as the other reader"),
            lambda: self.session.look_at(other_side=not self.session.other_side),
            say("Work on what the other reader sees (Ctrl+B)"),
        )
        sides = [(False, say("one side")), (True, say("both sides"))]
        self.choice(say("Printed on"), say("Sides"), sides, (lambda j: j.two_sided, both_sides))
        form.words(
            say(
                "The reader is whoever looks at the print: at the ink itself, through the "
                "piece, or at a transfer once it is pressed. Order and mirroring follow."
            )
        )
        self._why = form.words()

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        self._other.setVisible(job.two_readers)
        through = job.reader is Reader.THROUGH
        self._other.setText(
            say(
                "Look as the one who {words}",
                words=say("looks at the ink") if through else say("looks through"),
            )
        )
        self._why.setText(f"{order_words(job)} {mirror_words(job)}")
        sides = say(", both sides") if job.two_sided else ""
        self.thing.say(f"{_READ_WORDS[read_by(job)]}{sides}")


_READ_WORDS = {
    ReadBy.FACE: say("the face"), ReadBy.THROUGH: say("through it"), ReadBy.BOTH: say("both"),
    ReadBy.TRANSFER: say("transfer"),
}  # fmt: skip


class PieceInspector(Inspector):
    """The piece, its surface, who reads it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Piece"))
        self.shape, self.surface = ShapePart(self, desk), SurfacePart(self, desk)
        self.reader = ReaderPart(self, desk)


def piece_station(desk: Desk) -> StationView:
    """The station's picture and inspector."""
    return StationView(PieceCanvas(desk), PieceInspector(desk))


def _surface_choice(desk: Desk) -> ChoiceField:
    """Surfaces by name; what is set by hand is none of them."""
    choices = [(surface, spoken(surface.name)) for surface in SURFACES]
    return ChoiceField(
        desk.session,
        say("Surface like"),
        choices,
        lambda j: j.piece.surface,
        lambda j, v: with_piece(j, surface=v),
    )


def take_outline(desk: Desk, path: Path) -> None:
    """Read an outline from a drawing in a worker and make it the piece's shape."""
    desk.workers.start(
        "outline",
        lambda _: read_outline(path),
        desk.session.for_this_job(
            lambda shape: desk.session.edit(
                say("Outline"), lambda job: with_piece(job, shape=shape)
            )
        ),
        title=say("Reading {path}", path=path.name),
    )
