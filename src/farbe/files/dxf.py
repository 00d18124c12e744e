"""Cutting files as DXF in millimetres."""

from __future__ import annotations

import io

from ezdxf import units
from ezdxf.filemanagement import new

from farbe.layout.cutfile import CutPage


def cut_dxf(page: CutPage) -> str:
    """The page as closed polylines on the layer CUT, figures on the layer FIGURES (R2010).

    Parameters
    ----------
    page : sizes in mm, y up
    """
    drawing = new("R2010", units=units.MM)
    drawing.layers.add("CUT", color=1)
    drawing.layers.add("FIGURES", color=8)
    space = drawing.modelspace()
    for _, points in page.lines:
        corners = [(float(x), float(y)) for x, y in points]
        space.add_lwpolyline(corners, close=True, dxfattribs={"layer": "CUT"})
    for text in page.texts:
        space.add_text(
            text.text,
            height=text.height,
            dxfattribs={"layer": "FIGURES", "insert": (text.x, text.y)},
        )
    target = io.StringIO()
    drawing.write(target)
    return target.getvalue()
