"""Piece: what is printed on and who reads it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QPushButton, QWidget

from farbe.desk.fields import ChoiceField, ColourField, NumberField, SwitchField, TextField
from farbe.desk.form import Form
from farbe.desk.session import Session
from farbe.desk.stations.base import Desk, StationView, scrolled
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
from farbe.edits.values import with_piece, with_surface
from farbe.files.outlinefile import read_outline
from farbe.model.piece import (
    Circle,
    Material,
    Reader,
    Rectangle,
    RoundBody,
    Surface,
)
from farbe.plan.readers import ReadBy, mirror_words, order_words, read_by

#: Surfaces that are often met; a click states one.
SURFACES = (
    Surface(colour="#1d3b31", name="steel, dark green"),
    Surface(colour="#ffffff", name="white board"),
    Surface(colour="#c99f6a", name="wood"),
    Surface(material=Material.CLEAR, name="clear film"),
    Surface(material=Material.TRANSLUCENT, colour="#eef0ee", name="opal acrylic"),
    Surface(material=Material.TEXTILE, colour="#23262e", name="dark cotton"),
)


def piece_station(desk: Desk) -> StationView:
    """The station's picture and inspector."""
    session = desk.session
    form = Form()
    form.title("Piece", "what is printed on, and who reads it")
    form.row(
        "Job", TextField(session, "Job name", lambda j: j.name, lambda j, v: j.replace(name=v))
    )
    form.row(
        "Piece",
        TextField(
            session, "Piece name", lambda j: j.piece.name, lambda j, v: with_piece(j, name=v)
        ),
    )
    form.head("Shape")
    kinds = [
        ("circle", "round"),
        ("ellipse", "oval"),
        ("rectangle", "rectangle"),
        ("outline", "from a drawing"),
        ("round body", "round body"),
    ]
    drawing = QPushButton("Outline from a drawing…")
    drawing.setToolTip("A closed line in SVG or DXF, at real size; lines within it are holes")

    def choose_drawing() -> None:
        name, _ = QFileDialog.getOpenFileName(drawing, "Outline", "", "Drawings (*.svg *.dxf)")
        if name:
            take_outline(desk, Path(name))

    drawing.clicked.connect(choose_drawing)
    film = form.words("On film from a roll each artwork is a piece of its own.")
    shape_rows = [
        form.row(
            "Outline",
            ChoiceField(session, "Outline", kinds, lambda j: j.piece.shape.kind, with_shape_kind),
        ),
        form.wide(drawing),
    ]
    width = NumberField(session, "Width", lambda j: j.piece.shape.width, with_width)
    height = NumberField(session, "Length", lambda j: j.piece.shape.height, with_height)
    sizes = form.row("Width, length", width, height)
    diameter = form.row(
        "Diameter", NumberField(session, "Diameter", lambda j: j.piece.shape.width, with_width)
    )
    corner = _corner_row(form, session)
    body = BodyRows(form, session)
    form.row(
        "Height, relief",
        NumberField(
            session,
            "Height",
            lambda j: j.piece.height,
            lambda j, v: with_piece(j, height=v),
            step=0.5,
        ),
        NumberField(
            session,
            "Relief",
            lambda j: j.piece.relief,
            lambda j, v: with_piece(j, relief=v),
            step=0.1,
        ),
    )
    form.head("Surface")
    form.row("Like", _surface_choice(desk))
    form.row(
        "Light sees it",
        ChoiceField(
            session,
            "Material",
            [(m, m.value) for m in Material],
            lambda j: j.piece.surface.material,
            lambda j, v: with_surface(j, material=v),
        ),
    )
    form.row(
        "Colour",
        ColourField(
            session,
            "Surface colour",
            lambda j: j.piece.surface.colour,
            lambda j, v: with_surface(j, colour=v, name=""),
        ),
    )
    other_reader = _reader_rows(form, session)
    why = form.words()

    def refresh() -> None:
        job = session.job
        if job is not None:
            circle = isinstance(job.piece.shape, Circle)
            on_film = job.roll is not None
            for row in shape_rows:
                row.setVisible(not on_film)
            film.setVisible(on_film)
            round_ = isinstance(job.piece.shape, RoundBody)
            body.refresh()
            sizes.setVisible(not circle and not on_film and not round_)
            diameter.setVisible(circle and not on_film)
            corner.setVisible(isinstance(job.piece.shape, Rectangle) and not on_film)
            other_reader.setVisible(job.two_readers)
            through = job.reader is Reader.THROUGH
            other_reader.setText(
                f"Look as the one who {'looks at the ink' if through else 'looks through'}"
            )
            why.setText(f"{order_words(job)} {mirror_words(job)}")

    session.changed.connect(refresh)
    refresh()
    return StationView(PieceCanvas(desk), scrolled(form))


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


def _corner_row(form: Form, session: Session) -> QWidget:
    return form.row(
        "Corner radius",
        NumberField(
            session,
            "Corner radius",
            lambda j: getattr(j.piece.shape, "corner_radius", 0.0),
            with_radius,
            step=0.5,
        ),
    )


def _reader_rows(form: Form, session: Session) -> QPushButton:
    """Who reads the piece, on how many sides it is printed; the button to the other reader."""
    form.head("Reader")
    readers = [
        (ReadBy.FACE, "the face"),
        (ReadBy.THROUGH, "through it"),
        (ReadBy.BOTH, "both"),
        (ReadBy.TRANSFER, "transfer"),
    ]
    form.wide(SwitchField(session, "Read from", readers, read_by, stack_edits.with_readers_of))
    other = form.button(
        "Look as the other reader",
        lambda: session.look_at(other_side=not session.other_side),
        "Work on what the other reader sees (Ctrl+B)",
    )
    form.row(
        "Printed on",
        ChoiceField(
            session,
            "Sides",
            [(False, "one side"), (True, "both sides")],
            lambda j: j.two_sided,
            both_sides,
        ),
    )
    return other


def take_outline(desk: Desk, path: Path) -> None:
    """Read an outline from a drawing in a worker and make it the piece's shape."""
    desk.workers.start(
        "outline",
        lambda _: read_outline(path),
        lambda shape: desk.session.edit("Outline", lambda job: with_piece(job, shape=shape)),
        title=f"Reading {path.name}",
    )
