"""A jig's cutting file in the format that the file's name asks for."""

from __future__ import annotations

from pathlib import Path

from farbe.atomic import whole_file
from farbe.files.cutpdf import cut_pdf
from farbe.files.svg import cut_svg
from farbe.layout.carrier import carrier_of
from farbe.layout.cutfile import crossing, cut_page, line_words
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length
from farbe.model.base import BadInput
from farbe.render.cutlines import cut_lines
from farbe.render.sources import Sources
from farbe.said import say

SUFFIXES = (".svg", ".pdf", ".dxf")


def write_cutting_file(job: Faced, sources: Sources, path: Path) -> None:
    """Write the cutting file of a job's jig, or of what lies on its film.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels of its artworks
    path : ends in .svg or .dxf

    Raises
    ------
    BadInput
        If the name ends otherwise, lines of a jig cross, or the file cannot be written.
    """
    page = cut_page(job, shapes=(cut_lines(job, sources),))
    met = None if carrier_of(job).one_sheet else crossing(page)
    if met is not None:
        one, other, x, y = met
        raise BadInput(
            say(
                "Cut lines of {one} and {other} cross at {x}, {y} mm on the bed; move the pockets "
                "apart, or give them less clearance.",
                one=line_words(one),
                other=line_words(other),
                x=bare_length(x, 1),
                y=bare_length(y, 1),
            )
        )
    match path.suffix.lower():
        case ".svg":
            data = cut_svg(page).encode("utf-8")
        case ".pdf":
            data = cut_pdf(page)
        case ".dxf":
            # Slow to import, and rarely needed.
            from farbe.files.dxf import cut_dxf

            data = cut_dxf(page).encode("utf-8")
        case _:
            raise BadInput(say("{path} should end in .svg, .pdf or .dxf.", path=path.name))
    with whole_file(path) as file:
        file.write(data)
