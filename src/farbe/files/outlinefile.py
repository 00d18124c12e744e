"""Outlines of pieces from drawings, SVG or DXF, at real size, read in a process with limits."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from farbe.model.base import BadInput
from farbe.model.piece import Outline

#: Seconds that a drawing may take.
SECONDS = 20


def read_outline(path: Path) -> Outline:
    """The outline of a piece: the drawing's outer closed line, and closed lines in it as holes.

    Drawings come from strangers, so another process with limits reads them.

    Raises
    ------
    BadInput
        If the file cannot be read, a line is not closed or crosses itself, or there is more than
        one outer line.
    """
    with tempfile.TemporaryDirectory(prefix="farbe-outline-") as folder:
        answer = Path(folder) / "answer.json"
        command = [sys.executable, "-m", "farbe.files.outlineparse", str(path), str(answer)]
        try:
            subprocess.run(command, capture_output=True, timeout=SECONDS, check=False)
            found = json.loads(answer.read_bytes())
        except subprocess.TimeoutExpired:
            raise BadInput(f"{path.name} takes too long to read; simplify the drawing.") from None
        except (OSError, ValueError):
            raise BadInput(f"{path.name} is damaged or too large; export it again.") from None
    if "refused" in found:
        raise BadInput(found["refused"])
    return Outline.model_validate(found["outline"])
