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

#: Surfaces that are often met; a click states one.
SURFACES = (
    Surface(colour="#1d3b31", name="steel, dark green"),
    Surface(colour="#ffffff", name="white board"),
    Surface(colour="#c99f6a", name="wood"),
    Surface(material=Material.CLEAR, name="clear film"),
    Surface(material=Material.TRANSLUCENT, colour="#eef0ee", name="opal acrylic"),
    Surface(material=Material.TEXTILE, colour="#23262e", name="dark cotton"),
)


class ShapePart(Part):
    """What is printed on: its name, outline, size and height."""

    NAME = "Piece"

    def build(self) -> None:
        form, session = self.form, self.session
        form.row(
            "Job", TextField(session, "Job name", lambda j: j.name, lambda j, v: j.replace(name=v))
        )
        form.row("Piece", TextField(session, "Piece name", *lens("piece.name")))
        self._film = form.words("On film from a roll each artwork is a piece of its own.")
        kinds = [
            ("circle", "round"), ("ellipse", "oval"), ("rectangle", "rectangle"),
            ("outline", "from a drawing"), ("round body", "round body"),
        ]  # fmt: skip
        outline = ChoiceField(
            session, "Outline", kinds, lambda j: j.piece.shape.kind, with_shape_kind
        )
        self._shape_rows = [
            form.row("Outline", outline),
            form.button(
                "Outline from a drawing…", self._ask_drawing,
                "A closed line in SVG or DXF, at real size; lines within it are holes",
            ),
        ]  # fmt: skip
        self._sizes = self.numbers(
            "Width, length",
            ("Width", (lambda j: j.piece.shape.width, with_width)),
            ("Length", (lambda j: j.piece.shape.height, with_height)),
        )
        self._diameter = self.numbers(
            "Diameter", ("Diameter", (lambda j: j.piece.shape.width, with_width))
        )
        radius = (lambda j: getattr(j.piece.shape, "corner_radius", 0.0), with_radius)
        self._corner = self.numbers("Corner radius", ("Corner radius", radius), step=0.5)
        self._body = BodyRows(form, session)
        form.row(
            "Height, relief",
            self.number("Height", "piece.height", step=0.5),
            self.number("Relief", "piece.relief", step=0.1),
        )

    def _ask_drawing(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.form, "Outline", "", "Drawings (*.svg *.dxf)")
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
        high = f", {bare_length(job.piece.height)} high" if job.piece.height else ""
        self.thing.say(f"{sizes(shape.width, shape.height)}{high}")


class SurfacePart(Part):
    """What the piece's face is made of, as light sees it."""

    NAME = "Surface"

    def build(self) -> None:
        form, session = self.form, self.session
        form.row("Like", _surface_choice(self.desk))
        materials = [(m, m.value) for m in Material]
        material = (
            lambda j: j.piece.surface.material,
            lambda j, v: with_surface(j, material=v),
        )
        self.choice("Light sees it", "Material", materials, material)
        form.row("Colour", ColourField(
            session, "Surface colour", lambda j: j.piece.surface.colour,
            lambda j, v: with_surface(j, colour=v, name=""),
        ))  # fmt: skip

    def refresh(self) -> None:
        job = self.session.job
        if job is not None:
            self.thing.say(surface_words(job.piece))


class ReaderPart(Part):
    """Who reads the piece, on how many sides it is printed; what follows in words."""

    NAME = "Reader"

    def build(self) -> None:
        form = self.form
        readers = [
            (ReadBy.FACE, "the face"), (ReadBy.THROUGH, "through it"), (ReadBy.BOTH, "both"),
            (ReadBy.TRANSFER, "transfer"),
        ]  # fmt: skip
        form.wide(
            SwitchField(self.session, "Read from", readers, read_by, stack_edits.with_readers_of)
        )
        self._other = form.button(
            "Look as the other reader",
            lambda: self.session.look_at(other_side=not self.session.other_side),
            "Work on what the other reader sees (Ctrl+B)",
        )
        sides = [(False, "one side"), (True, "both sides")]
        self.choice("Printed on", "Sides", sides, (lambda j: j.two_sided, both_sides))
        form.words(
            "The reader is whoever looks at the print: at the ink itself, through the piece, or at"
            " a transfer once it is pressed. Order and mirroring follow."
        )
        self._why = form.words()

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        self._other.setVisible(job.two_readers)
        through = job.reader is Reader.THROUGH
        self._other.setText(
            f"Look as the one who {'looks at the ink' if through else 'looks through'}"
        )
        self._why.setText(f"{order_words(job)} {mirror_words(job)}")
        sides = ", both sides" if job.two_sided else ""
        self.thing.say(f"{_READ_WORDS[read_by(job)]}{sides}")


_READ_WORDS = {
    ReadBy.FACE: "the face", ReadBy.THROUGH: "through it", ReadBy.BOTH: "both",
    ReadBy.TRANSFER: "transfer",
}  # fmt: skip


class PieceInspector(Inspector):
    """The piece, its surface, who reads it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__("Piece")
        self.shape, self.surface = ShapePart(self, desk), SurfacePart(self, desk)
        self.reader = ReaderPart(self, desk)


def piece_station(desk: Desk) -> StationView:
    """The station's picture and inspector."""
    return StationView(PieceCanvas(desk), PieceInspector(desk))


def _surface_choice(desk: Desk) -> ChoiceField:
    """Surfaces by name; what is set by hand is none of them."""
    choices = [(surface, surface.name) for surface in SURFACES]
    return ChoiceField(
        desk.session,
        "Surface like",
        choices,
        lambda j: j.piece.surface,
        lambda j, v: with_piece(j, surface=v),
    )


def take_outline(desk: Desk, path: Path) -> None:
    """Read an outline from a drawing in a worker and make it the piece's shape."""
    desk.workers.start(
        "outline",
        lambda _: read_outline(path),
        lambda shape: desk.session.edit("Outline", lambda job: with_piece(job, shape=shape)),
        title=f"Reading {path.name}",
    )
