"""A first job from a recipe."""

from __future__ import annotations

from farbe.layout.fill import fullest
from farbe.model.base import BadInput
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.piece import Piece, Rectangle, Shape
from farbe.model.side import ArtworkFile, Content
from farbe.plan.recipes import Recipe
from farbe.plan.spots import with_plates
from farbe.samples.printers import FLATBED
from farbe.samples.receivers import OPEN_PLATES

#: Space kept around a grid that is laid out anew.
MARGIN, GAP = 10.0, 8.0


def filled_jig(shape: Shape, name: str) -> Jig:
    """As many pockets as fit on the whole bed, in its middle."""
    board = Board(width=FLATBED.bed_width, height=FLATBED.bed_height)
    jig = Jig(name=name, board=board, first_x=0, first_y=0, gap_x=GAP, gap_y=GAP)
    return fullest(jig, shape, FLATBED, MARGIN).jig


def job_from_recipe(recipe: Recipe) -> Job:
    """A job of plain pieces, 90 × 55 mm, as the recipe says; the artwork comes later."""
    shape = Rectangle(width=90, height=55, corner_radius=3)
    return Job(
        name=f"New job, {recipe.name}",
        piece=Piece(name="piece", shape=shape, height=2, surface=recipe.surface),
        reader=recipe.reader,
        printer=FLATBED,
        stack=recipe.stack,
        opposite=Content() if any(layer.opposite for layer in recipe.stack) else None,
        conversion=recipe.conversion,
        jig=filled_jig(shape, "New jig"),
        receiver=OPEN_PLATES,
    )


def fitted(job: Job, artwork: ArtworkFile) -> ArtworkFile:
    """An artwork at its stated size, or as large as the job's piece lets it."""
    shape = job.piece.shape
    share = min(1.0, shape.width / artwork.width, shape.height / artwork.height)
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
