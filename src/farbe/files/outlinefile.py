"""Outlines of pieces from drawings, SVG or DXF, at real size, read in a process with limits."""

from __future__ import annotations

import tempfile
from pathlib import Path

from farbe.art.limited import ask
from farbe.model.piece import Outline

#: Seconds that a drawing may take.
SECONDS = 20


def read_outline(path: Path) -> Outline:
    """The outline of a piece: the drawing's outer closed line, and closed lines in it as holes.

    Drawings come from strangers, so another process with limits reads them.

    Parameters
    ----------
    path : of an SVG or DXF, at real size

    Raises
    ------
    BadInput
        If the file cannot be read, a line is not closed or crosses itself, or there is more than
        one outer line.
    """
    with tempfile.TemporaryDirectory(prefix="farbe-outline-") as folder:
        found = ask("farbe.files.outlineparse", path, Path(folder), SECONDS)
    return Outline.model_validate(found["outline"])
