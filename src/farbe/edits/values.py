"""A value deep in a job: how to get it, and how to put another in its place."""

from __future__ import annotations

from collections.abc import Callable
from functools import reduce
from typing import Any

from farbe.layout.faced import Faced
from farbe.model.base import Value

Get = Callable[[Faced], Any]
Set = Callable[[Faced, Any], Faced]


def lens(path: str) -> tuple[Get, Set]:
    """Getter and setter of a path like ``jig.datum.x``.

    Parameters
    ----------
    path : names with dots between them
    """
    parts = path.split(".")

    def get(job: Faced) -> Any:
        return reduce(getattr, parts, job)

    def put(job: Faced, value: Any) -> Faced:
        made: Faced = _put(job, parts, value)
        return made

    return get, put


def _put(holder: Value | Faced, parts: list[str], value: Any) -> Any:
    first, *rest = parts
    return holder.replace(**{first: _put(getattr(holder, first), rest, value) if rest else value})


def with_piece(job: Faced, **fields: object) -> Faced:
    """The job with other values of its piece.

    Parameters
    ----------
    job : as one of its faces has it
    fields : of the piece, by their names
    """
    return job.replace(piece=job.piece.replace(**fields))


def with_surface(job: Faced, **fields: object) -> Faced:
    """The job with other values of its surface.

    Parameters
    ----------
    job : as one of its faces has it
    fields : of the surface, by their names
    """
    return with_piece(job, surface=job.piece.surface.replace(**fields))


def with_jig(job: Faced, **fields: object) -> Faced:
    """The job with other values of its jig.

    Parameters
    ----------
    job : as one of its faces has it
    fields : of the jig, by their names
    """
    return job.replace(jig=job.jig.replace(**fields))


def with_artwork(job: Faced, index: int, **fields: object) -> Faced:
    """The job with one of its artworks changed; ``index`` counts from 0.

    Parameters
    ----------
    job : as one of its faces has it
    index : counted from 0
    """
    arts = job.artworks
    return job.replace(artworks=(*arts[:index], arts[index].replace(**fields), *arts[index + 1 :]))
