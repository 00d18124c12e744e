"""A first job from a recipe."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from farbe.layout.fill import fullest
from farbe.layout.pockets import centred_jig, pockets
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.face import Face, SamePrint
from farbe.model.jig import Board, Jig
from farbe.model.job import Guess, Job
from farbe.model.piece import Piece, Reader, Rectangle, RoundBody, Shape, Surface
from farbe.model.printer import Printer
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


def job_for(
    artworks: Sequence[ArtworkFile],
    made_by: Recipe,
    *,
    shape: Shape | None = None,
    count: int | None = None,
    surface: Surface | None = None,
    printer: Printer | None = None,
) -> Job:
    """A job for artworks that are there; what is not stated is guessed, and marked so.

    Parameters
    ----------
    artworks : at least one; the job is named after the first
    made_by : says surface, reader and layers
    shape : of the piece; the artwork's rectangle, if it is not stated
    count : of pieces; one for each artwork, if it is not stated
    surface : of the piece; the recipe's, if it is not stated
    printer : the shipped flatbed, if it is not stated

    Raises
    ------
    BadInput
        If so many pieces do not fit on the bed.
    """
    on = printer or FLATBED
    base = job_from_recipe(made_by)
    wide = max(art.width for art in artworks)
    high = max(art.height for art in artworks)
    piece = base.piece.replace(
        shape=shape or Rectangle(width=wide, height=high), surface=surface or made_by.surface
    )
    wanted = count or len(artworks)
    guesses = ((shape, Guess.PIECE), (count, Guess.COUNT), (surface, Guess.SURFACE))
    return base.replace(
        name=Path(artworks[0].file_name).stem or "New job",
        piece=piece, printer=on, jig=_jig_for(piece.shape, on, wanted),
        faces=(base.faces[0].replace(artworks=_shared_out(artworks, wanted)), *base.faces[1:]),
        guesses=tuple(guess for stated, guess in guesses if stated is None),
    )  # fmt: skip


def _jig_for(shape: Shape, printer: Printer, count: int) -> Jig:
    """So many pockets and no more, in the middle of the bed."""
    board = Board(width=printer.bed_width, height=printer.bed_height)
    plain = Jig(name="New jig", board=board, first_x=0, first_y=0, gap_x=GAP, gap_y=GAP)
    if count == 1:
        return centred_jig(plain, shape)
    found = fullest(plain, shape, printer, 0.0)
    if found.count < count:
        raise BadInput(
            f"{count} pieces of {shape.width:g} × {shape.height:g} mm do not fit on the bed of"
            f" {printer.name}; {found.count} do."
        )
    rows = -(-count // found.jig.columns)
    fewer = centred_jig(found.jig.replace(rows=min(rows, found.jig.rows)), shape)
    there = len(pockets(fewer, shape, printer))
    made = fewer if there >= count else found.jig
    return made.replace(first_only=count if len(pockets(made, shape, printer)) > count else None)


def _shared_out(artworks: Sequence[ArtworkFile], count: int) -> tuple[ArtworkFile, ...]:
    """Artworks with quantities that add up; the last takes the rest."""
    each, more = divmod(count, len(artworks))
    last = len(artworks) - 1
    return tuple(
        art.replace(quantity=None if at == last else max(1, each + (at < more)))
        for at, art in enumerate(artworks)
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
