"""Cutting files as DXF in millimetres."""

from __future__ import annotations

import io

from ezdxf import units
from ezdxf.filemanagement import new

from farbe.layout.cutfile import CutPage, figure_lines, layer_of

#: Layers and the numbers of their colours.
COLOURS = {"BOARD": 1, "POCKETS": 2, "PINS": 3, "PIECES": 4, "FIGURES": 8}


def cut_dxf(page: CutPage) -> str:
    """Closed polylines: board, pockets, pins and figures on layers of their own (R2010).

    Parameters
    ----------
    page : sizes in mm, y up
    """
    drawing = new("R2010", units=units.MM)
    for layer, colour in COLOURS.items():
        drawing.layers.add(layer, color=colour)
    space = drawing.modelspace()
    lines = [(layer_of(name), points) for name, points in page.lines]
    lines += [("FIGURES", line) for text in page.texts for line in figure_lines(text)]
    for layer, points in lines:
        corners = [(float(x), float(y)) for x, y in points]
        space.add_lwpolyline(corners, close=True, dxfattribs={"layer": layer})
    target = io.StringIO()
    drawing.write(target)
    return target.getvalue()
