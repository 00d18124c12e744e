"""Jigs from drawings, SVG or DXF, at real size, read in a process with limits."""

from __future__ import annotations

import tempfile
from pathlib import Path

from shapely.geometry import Polygon

from farbe.art.limited import ask
from farbe.layout.drawnjig import DrawnJig, DrawnPocket, OpenLine, told_apart
from farbe.model.base import BadInput
from farbe.said import say

#: Mm that the ends of lines may be apart, if nothing else is said.
JOINED = 0.1
#: Mm; wider gaps are no slips of the pen.
WIDEST = 5.0
#: Seconds that a drawing may take.
SECONDS = 30


def read_jig_drawing(path: Path, joined: float = JOINED) -> DrawnJig:
    """The board and the closed lines of a drawing; blocks count wherever they are inserted.

    Parameters
    ----------
    path : of an SVG or DXF, at real size
    joined : mm that ends of lines may be apart and are still taken to meet

    Raises
    ------
    BadInput
        If the file cannot be read, or no line in it closes.
    """
    if not 0 < joined <= WIDEST:
        raise BadInput(say("A gap between 0 and 5 mm can be closed."))
    with tempfile.TemporaryDirectory(prefix="farbe-jig-") as folder:
        found = ask("farbe.files.jigparse", path, Path(folder), SECONDS, repr(float(joined)))
    return told_apart(
        [
            DrawnPocket(Polygon(one["line"]), str(one["layer"]), float(one["turn"]))
            for one in found["closed"]
        ],
        tuple(OpenLine(*map(float, one)) for one in found["open"]),
    )
