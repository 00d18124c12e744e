"""A first job from a recipe."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from farbe.layout.figures import sizes
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
from farbe.plan.starts import ON_BODY, ON_FILM
from farbe.said import say, spoken

#: Space kept around a grid that is laid out anew.
MARGIN, GAP = 10.0, 8.0


def filled_jig(shape: Shape, name: str, printer: Printer = FLATBED) -> Jig:
    """As many pockets as fit on the whole bed, in its middle.

    Parameters
    ----------
    shape : of the piece
    name : of the jig
    printer : whose bed it is
    """
    # A roll's way is as long as it likes; a jig for it is never used.
    high = min(printer.bed_height, 3000.0)
    board = Board(width=printer.bed_width, height=high)
    jig = Jig(name=name, board=board, first_x=0, first_y=0, gap_x=GAP, gap_y=GAP)
    return fullest(jig, shape, printer.replace(bed_height=high), MARGIN).jig


def job_from_recipe(made_by: Recipe) -> Job:
    """A job of plain pieces, 90 × 55 mm, as the recipe says; the artwork comes later.

    Parameters
    ----------
    made_by : what the job starts from
    """
    shape = Rectangle(width=90, height=55, corner_radius=3)
    faces: tuple[Face, ...] = (Face(reader=made_by.reader, stack=made_by.stack),)
    two = any(layer.reader for layer in made_by.stack)
    if two:
        beyond = Reader.FACE if made_by.reader is Reader.THROUGH else Reader.THROUGH
        faces = (*faces, Face(reader=beyond))
    on = made_by.printer or FLATBED
    usual: dict[str, object] = {"printer": on, "receiver": OPEN_PLATES}
    return Job.model_validate(
        usual
        | made_by.stated
        | {
            "name": say("New job, {recipe}", recipe=spoken(made_by.name)),
            "piece": Piece(name=say("piece"), shape=shape, height=2, surface=made_by.surface),
            "faces": faces,
            "comes_up": SamePrint() if two else None,
            "conversion": made_by.conversion,
            "jig": filled_jig(shape, "New jig", on),
        }
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
    printer : the recipe's, or the shipped flatbed, if it is not stated

    Raises
    ------
    BadInput
        If so many pieces do not fit on the bed.
    """
    on = printer or made_by.printer or FLATBED
    base = job_from_recipe(made_by)
    artworks = [_as_wide(art, made_by.wide) for art in artworks]
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


def job_taken(artwork: ArtworkFile, made_by: Recipe) -> Job:
    """A job for artwork that came by itself: one piece, as large as the artwork, as a recipe says.

    Nothing of it is a guess: whoever set the folder up meant it so.

    Parameters
    ----------
    artwork : that came
    made_by : says all else; on film it is laid there once

    Raises
    ------
    BadInput
        If it does not fit on the bed.
    """
    art = _as_wide(artwork, made_by.wide)
    shape = Rectangle(width=art.width, height=art.height)
    return job_for([art], made_by, shape=shape, count=1, surface=made_by.surface)


def _as_wide(art: ArtworkFile, wide: float | None) -> ArtworkFile:
    """An artwork so many mm wide, in its proportions; as it is if that is not stated."""
    if wide is None:
        return art
    return art.replace(width=wide, height=art.height * wide / art.width)


def _jig_for(shape: Shape, printer: Printer, count: int) -> Jig:
    """So many pockets and no more, in the middle of the bed."""
    board = Board(width=printer.bed_width, height=printer.bed_height)
    plain = Jig(name="New jig", board=board, first_x=0, first_y=0, gap_x=GAP, gap_y=GAP)
    if count == 1:
        return centred_jig(plain, shape)
    found = fullest(plain, shape, printer, 0.0)
    if found.count < count:
        raise BadInput(
            say(
                "{count} pieces of {size} do not fit on the bed of {printer}; {most} do.",
                count=count,
                size=sizes(shape.width, shape.height),
                printer=spoken(printer.name),
                most=found.count,
            )
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
STARTS = {ON_FILM: job_on_film, ON_BODY: job_on_body}
