"""A first job from a recipe."""

from __future__ import annotations

from farbe.layout.fill import fullest
from farbe.layout.pockets import centred_jig
from farbe.model.base import BadInput
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.piece import Piece, Rectangle, RoundBody, Shape
from farbe.model.roll import Roll
from farbe.model.side import ArtworkFile, Content
from farbe.plan.recipes import Recipe, recipe
from farbe.plan.spots import with_plates
from farbe.samples.printers import FLATBED, ROLL_PRINTER
from farbe.samples.receivers import OPEN_PLATES

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
    return Job(
        name=f"New job, {made_by.name}",
        piece=Piece(name="piece", shape=shape, height=2, surface=made_by.surface),
        reader=made_by.reader,
        printer=FLATBED,
        stack=made_by.stack,
        opposite=Content() if any(layer.opposite for layer in made_by.stack) else None,
        conversion=made_by.conversion,
        jig=filled_jig(shape, "New jig"),
        receiver=OPEN_PLATES,
    )


def job_on_film() -> Job:
    """A job on film from a roll, a transfer for dark garments; the artworks come later."""
    made = job_from_recipe(recipe("transfer on dark"))
    return made.replace(name="New job on film", printer=ROLL_PRINTER, roll=Roll())


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


def fitted(job: Job, artwork: ArtworkFile) -> ArtworkFile:
    """An artwork at its stated size, or as large as the job's piece or film lets it."""
    wide, high = job.piece.shape.width, job.piece.shape.height
    if job.roll is not None:
        wide, high = job.roll.room, job.roll.longest - job.roll.lead - job.roll.trail
    share = min(1.0, wide / artwork.width, high / artwork.height)
    return artwork.replace(width=artwork.width * share, height=artwork.height * share)


def with_only(job: Job, artwork: ArtworkFile) -> Job:
    """The job with this artwork in place of all others; its texts and moves stay."""
    placed = fitted(job, artwork)
    changes = tuple(change.replace(artwork=None) for change in job.changes)
    return with_plates(job.replace(artworks=(placed,), changes=changes), placed)


def with_added(job: Job, artwork: ArtworkFile) -> Job:
    """The job with one more artwork; it gets one pocket if another takes the rest."""
    if any(one.digest == artwork.digest for one in job.artworks):
        raise BadInput(f"{artwork.file_name} is in the tray already; raise its quantity there.")
    rest = any(one.quantity is None for one in job.artworks)
    placed = fitted(job, artwork).replace(quantity=1 if rest else None)
    return with_plates(job.replace(artworks=(*job.artworks, placed)), placed)
