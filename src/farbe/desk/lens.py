"""A value deep in a job, by its path: how to get it, and how to put another in its place."""

from __future__ import annotations

from functools import reduce
from typing import Any

from farbe.desk.fields import Get, Set
from farbe.model.base import Value
from farbe.model.job import Job


def lens(path: str) -> tuple[Get, Set]:
    """Getter and setter of a path like ``jig.datum.x``."""
    parts = path.split(".")

    def get(job: Job) -> Any:
        return reduce(getattr, parts, job)

    def put(job: Job, value: Any) -> Job:
        made: Job = _put(job, parts, value)
        return made

    return get, put


def _put(holder: Value, parts: list[str], value: Any) -> Any:
    first, *rest = parts
    return holder.replace(**{first: _put(getattr(holder, first), rest, value) if rest else value})
