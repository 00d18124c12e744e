"""Lines in millimetres as paths of a page."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt
from reportlab.pdfgen.canvas import Canvas
from reportlab.pdfgen.pathobject import PDFPathObject


def path_of(
    page: Canvas, lines: Iterable[npt.NDArray[np.float64]], x: float, y: float
) -> PDFPathObject:
    """Closed lines in mm, moved by a place, as a path of the page.

    Parameters
    ----------
    page : that is drawn on
    lines : closed, in mm
    x : mm to the right
    y : mm up
    """
    path: PDFPathObject = page.beginPath()
    for line in lines:
        first, *rest = line.tolist()
        path.moveTo(x + first[0], y + first[1])
        for point in rest:
            path.lineTo(x + point[0], y + point[1])
        path.close()
    return path
