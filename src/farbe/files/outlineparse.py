"""What a helper does with drawings for :mod:`farbe.files.outlinefile`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from shapely.geometry import Polygon
from shapely.validation import explain_validity

from farbe.files.drawnlines import JOINED, DrawnLine, chained, gap_of, read_lines
from farbe.model.base import BadInput
from farbe.model.piece import Outline
from farbe.said import say


def parse_outline(path: Path) -> Outline:
    """What :func:`farbe.files.outlinefile.read_outline` does, in this process, without limits.

    Parameters
    ----------
    path : of an SVG or DXF, at real size

    Raises
    ------
    BadInput
        If there is no closed outline in the file.
    """
    lines = [one.line for one in chained(read_lines(path)) if len(one.line) > 2]
    return _outline(lines, path.name)


def answer_to(path: Path, _: Path) -> dict[str, Any]:
    """What a helper answers: the outline of a drawing.

    Parameters
    ----------
    path : the drawing

    Raises
    ------
    BadInput
        If it has no outline.
    """
    return {"outline": parse_outline(path).model_dump(mode="json")}


def _outline(lines: list[DrawnLine], name: str) -> Outline:
    if not lines:
        raise BadInput(
            say(
                "There is no closed line in {name}; draw the outline as one closed line.", name=name
            )
        )
    for line in lines:
        if gap_of(line) > JOINED:
            raise BadInput(
                say(
                    "A line in {name} is not closed: its ends are {gap} mm apart; close it.",
                    name=name,
                    gap=f"{gap_of(line):.2f}",
                )
            )
    shapes = sorted((Polygon(line) for line in lines), key=lambda shape: -shape.area)
    for shape in shapes:
        if not shape.is_valid:
            where = explain_validity(shape).split("[")[-1].rstrip("]").split()
            place = ", ".join(f"{float(v):.6g}" for v in where[:2])
            raise BadInput(
                say(
                    "A line in {name} crosses itself at {place} mm; mend it.",
                    name=name,
                    place=place,
                )
            )
    outer, *holes = shapes
    if outer.area < 0.01:
        raise BadInput(say("The outline in {name} has no size; draw it in millimetres.", name=name))
    if any(not outer.contains(hole) for hole in holes):
        raise BadInput(
            say("{name} has more than one outer line; keep one and its holes.", name=name)
        )
    left, bottom, right, top = outer.bounds
    middle = ((left + right) / 2, (bottom + top) / 2)
    rings = [np.asarray(shape.exterior.coords)[:-1] - middle for shape in (outer, *holes)]
    return Outline(
        rings=tuple(tuple((round(float(x), 4), round(float(y), 4)) for x, y in r) for r in rings)
    )
