"""Edits of a job's artworks."""

from __future__ import annotations

from collections.abc import Sequence

from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.plan.spots import with_plates
from farbe.said import say


def with_only(job: Faced, artwork: ArtworkFile) -> Faced:
    """The job with this artwork in place of all others; its texts and moves stay.

    Parameters
    ----------
    job : as one of its faces has it
    artwork : the one that stays
    """
    changes = tuple(change.replace(artwork=None) for change in job.changes)
    return with_plates(job.replace(artworks=(artwork,), changes=changes), artwork)


def with_added(job: Faced, artwork: ArtworkFile) -> Faced:
    """The job with one more artwork; it gets one pocket if another takes the rest.

    Parameters
    ----------
    job : as one of its faces has it
    artwork : the new one

    Raises
    ------
    BadInput
        If the artwork is in the job already.
    """
    if any(one.key == artwork.key for one in job.artworks):
        raise BadInput(
            say(
                "{file_name} is in the tray already; raise its quantity there, or take it "
                "once more for another page or size.",
                file_name=artwork.file_name,
            )
        )
    rest = any(one.quantity is None for one in job.artworks)
    placed = artwork.replace(quantity=1 if rest else None)
    return with_plates(job.replace(artworks=(*job.artworks, placed)), placed)


def with_all(job: Faced, artworks: Sequence[ArtworkFile]) -> Faced:
    """The job with more artworks, in their order; those that it has already stay as they are.

    Parameters
    ----------
    job : that gets them
    artworks : that were read
    """
    for artwork in artworks:
        if all(one.key != artwork.key for one in job.artworks):
            job = with_added(job, artwork)
    return job


def with_only_these(job: Faced, artworks: Sequence[ArtworkFile]) -> Faced:
    """The job with these artworks in place of all others.

    Parameters
    ----------
    job : that gets them
    artworks : at least one
    """
    return with_all(with_only(job, artworks[0]), artworks[1:])


def index_of(job: Faced, artwork: ArtworkFile) -> int:
    """Which artwork of a job it is, from 0, whatever was edited since it was looked at.

    Parameters
    ----------
    job : as one of its faces has it
    artwork : that was in it

    Raises
    ------
    BadInput
        If it is there no longer.
    """
    for index, one in enumerate(job.artworks):
        if one.key == artwork.key:
            return index
    raise BadInput(
        say("{file_name} was taken out of the job meanwhile.", file_name=artwork.file_name)
    )


def replaced(job: Faced, other: ArtworkFile, artwork: ArtworkFile) -> Faced:
    """The job with an artwork in place of another one; its quantity and places stay.

    Parameters
    ----------
    job : that has the other one
    other : that goes
    artwork : that was read

    Raises
    ------
    BadInput
        If the artwork is in the job already, or the other one no longer.
    """
    index = index_of(job, other)
    old = job.artworks[index]
    if any(one.key == artwork.key for one in job.artworks if one is not old):
        raise BadInput(
            say(
                "{file_name} is in the tray already; raise its quantity there.",
                file_name=artwork.file_name,
            )
        )
    made = artwork.replace(quantity=old.quantity)
    arts = (*job.artworks[:index], made, *job.artworks[index + 1 :])
    changes = tuple(
        one.replace(artwork=made.key) if one.artwork == old.key else one for one in job.changes
    )
    job = job.replace(artworks=arts, changes=changes)
    if job.roll is not None:
        places = tuple(
            one.replace(artwork=made.key) if one.artwork == old.key else one
            for one in job.roll.places
        )
        job = job.replace(medium=job.roll.replace(places=places))
    return with_plates(job, made)


def once_more(job: Faced, index: int, **fields: object) -> Faced:
    """The job with an artwork's file once more, behind it: another page, or another size.

    Parameters
    ----------
    job : that has the artwork
    index : of the artwork, from 0
    fields : what is otherwise
    """
    art = job.artworks[index]
    taken = [one.copy_number for one in job.artworks if one.digest == art.digest]
    made = art.replace(copy_number=max(taken) + 1, quantity=1, **fields)
    arts = (*job.artworks[: index + 1], made, *job.artworks[index + 1 :])
    return with_plates(job.replace(artworks=arts), made)
