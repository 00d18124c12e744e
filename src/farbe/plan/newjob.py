"""A first job from a recipe."""

from __future__ import annotations

from farbe.layout.fill import fullest
from farbe.layout.pockets import centred_jig
from farbe.model.face import Face, SamePrint
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.piece import Piece, Reader, Rectangle, RoundBody, Shape
from farbe.model.roll import Roll
from farbe.plan.printers import FLATBED, ROLL_PRINTER
from farbe.plan.receivers import OPEN_PLATES
from farbe.plan.recipes import Recipe, recipe

#: Space kept around a grid that is laid out anew.
MARGIN, GAP = 10.0, 8.0


def filled_jig(shape: Shape, name: str) -> Jig:
    """As many pockets as fit on the whole bed, in its middle."""
    board = Board(width=FLATBED.bed_width, height=FLATBED.bed_height)
    jig = Jig(name=name, board=board, first_x=0, first_y=0, gap_x=GAP, gap_y=GAP)
    return fullest(jig, shape, FLATBED, MARGIN).jig


def job_from_recipe(made_by: Recipe) -> Job:
    """A job of plain pieces, 90 × 55 mm, as the recipe says; the artwork comes later."""
    shape = Rectangle(width=90, height=55, corner_radius=3)
    faces: tuple[Face, ...] = (Face(reader=made_by.reader, stack=made_by.stack),)
    two = any(layer.reader for layer in made_by.stack)
    if two:
        beyond = Reader.FACE if made_by.reader is Reader.THROUGH else Reader.THROUGH
        faces = (*faces, Face(reader=beyond))
    return Job(
        name=f"New job, {made_by.name}",
        piece=Piece(name="piece", shape=shape, height=2, surface=made_by.surface),
        faces=faces,
        comes_up=SamePrint() if two else None,
        printer=FLATBED,
        conversion=made_by.conversion,
        jig=filled_jig(shape, "New jig"),
        receiver=OPEN_PLATES,
    )


def job_on_film() -> Job:
    """A job on film from a roll, a transfer for dark garments; the artworks come later."""
    made = job_from_recipe(recipe("transfer on dark"))
    return made.replace(name="New job on film", printer=ROLL_PRINTER, medium=Roll())


def job_on_body() -> Job:
    """A job on a bottle that turns on rollers; the artwork comes later."""
    made = job_from_recipe(recipe("dark opaque piece"))
    body = RoundBody(diameter=70, zone=90)
    jig = made.jig.replace(columns=4, rows=1, turned=90, gap_x=40)
    return made.replace(
        name="New job on a round body",
        piece=made.piece.replace(name="bottle", shape=body, height=body.widest),
        jig=centred_jig(jig, body),
    )


#: Jobs that begin with what they are printed on rather than with a recipe.
STARTS = {"film from a roll": job_on_film, "round body on rollers": job_on_body}
