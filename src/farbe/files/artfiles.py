"""Files of artwork among what is given: in the order of their names, folders opened."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from pathlib import Path

from farbe.art.read import SUFFIXES
from farbe.model.base import BadInput
from farbe.said import say

#: Files that are taken at once, at the most.
MOST = 2000


def artwork_files(paths: Iterable[Path]) -> tuple[Path, ...]:
    """Files, and pictures and drawings in folders, in the order of their names.

    Numbers in names count as numbers: ``lid 2`` goes before ``lid 10``.

    Parameters
    ----------
    paths : files are taken whatever their name says; of folders what looks like artwork

    Raises
    ------
    BadInput
        If nothing is left, or too much.
    """
    found = sorted(dict.fromkeys(_each(paths)), key=by_name)
    if not found:
        raise BadInput(say("There is no artwork; choose pictures or drawings."))
    if len(found) > MOST:
        raise BadInput(
            say(
                "These are {count} files; take {most} at once at the most.",
                count=len(found),
                most=MOST,
            )
        )
    return tuple(found)


def _each(paths: Iterable[Path]) -> Iterator[Path]:
    for path in paths:
        if path.is_dir():
            yield from (one for one in path.rglob("*")
                        if one.suffix.lower() in SUFFIXES and not one.name.startswith(".")
                        and one.is_file())  # fmt: skip
        else:
            yield path


def by_name(path: Path) -> tuple[tuple[int, int, str], ...]:
    """By which files are put in order.

    Parameters
    ----------
    path : of a file
    """
    parts = re.split(r"(\d+)", path.name.casefold())
    return tuple((0, int(part), "") if part.isdigit() else (1, 0, part) for part in parts)
