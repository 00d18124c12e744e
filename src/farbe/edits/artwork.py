"""Edits of a job's artworks."""

from __future__ import annotations

from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.plan.spots import with_plates


def fitted(job: Faced, artwork: ArtworkFile) -> ArtworkFile:
    """An artwork at its stated size, or as large as the job's piece or film lets it."""
    wide, high = job.piece.shape.width, job.piece.shape.height
    if job.roll is not None:
        wide, high = job.roll.room, job.roll.longest - job.roll.lead - job.roll.trail
    share = min(1.0, wide / artwork.width, high / artwork.height)
    return artwork.replace(width=artwork.width * share, height=artwork.height * share)


def with_only(job: Faced, artwork: ArtworkFile) -> Faced:
    """The job with this artwork in place of all others; its texts and moves stay."""
    placed = fitted(job, artwork)
    changes = tuple(change.replace(artwork=None) for change in job.changes)
    return with_plates(job.replace(artworks=(placed,), changes=changes), placed)


def with_added(job: Faced, artwork: ArtworkFile) -> Faced:
    """The job with one more artwork; it gets one pocket if another takes the rest.

    Raises
    ------
    BadInput
        If the artwork is in the job already.
    """
    if any(one.key == artwork.key for one in job.artworks):
        raise BadInput(f"{artwork.file_name} is in the tray already; raise its quantity there.")
    rest = any(one.quantity is None for one in job.artworks)
    placed = fitted(job, artwork).replace(quantity=1 if rest else None)
    return with_plates(job.replace(artworks=(*job.artworks, placed)), placed)
