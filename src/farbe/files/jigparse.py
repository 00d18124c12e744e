"""What a helper does with drawings for :mod:`farbe.files.jigdrawing`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from shapely.geometry import Polygon
from shapely.validation import explain_validity

from farbe.files.drawnlines import Drawn, chained, gap_of, read_lines
from farbe.model.base import BadInput
from farbe.said import say

#: Smaller lines, in mm², are specks.
LEAST = 0.5
MOST = 20_000


def answer_to(path: Path, _: Path, joined: str) -> dict[str, Any]:
    """What a helper answers: closed lines of a drawing, and the places where others do not close.

    Parameters
    ----------
    path : the drawing
    joined : mm that ends may be apart

    Raises
    ------
    BadInput
        If it cannot be read, a line crosses itself, or there are very many.
    """
    closed, unclosed = [], []
    for one in chained(read_lines(path), float(joined)):
        if gap_of(one.line) > float(joined) or len(one.line) < 4:
            if len(one.line) > 1 and gap_of(one.line) > float(joined):
                x, y = one.line[0].tolist()
                unclosed.append([x, y, gap_of(one.line)])
            continue
        line = _closed(one, path.name)
        if line.area >= LEAST:
            closed.append({"line": line.exterior.coords[:-1], "layer": one.layer, "turn": one.turn})
    if len(closed) > MOST:
        raise BadInput(say("{path} holds more than 20,000 closed lines.", path=path.name))
    return {"closed": closed, "open": unclosed}


def _closed(one: Drawn, name: str) -> Polygon:
    line = Polygon(one.line)
    if not line.is_valid:
        where = explain_validity(line).split("[")[-1].rstrip("]").split()
        place = ", ".join(f"{float(value):.6g}" for value in where[:2])
        raise BadInput(
            say("A line in {name} crosses itself at {place} mm; mend it.", name=name, place=place)
        )
    return line
