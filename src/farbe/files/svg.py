"""Guides as SVG in millimetres."""

from __future__ import annotations

from xml.sax.saxutils import escape, quoteattr

from farbe.layout.outline import corners, outline
from farbe.layout.pockets import used_pockets
from farbe.model.job import Job


def guide_svg(job: Job) -> str:
    """The guide at real size: one closed line for each pocket that is on, and its number.

    The line's middle is where the printed guide has it. The picture is the whole bed; y runs
    down in SVG, so the datum is its lower left corner.
    """
    printer, guide, shape = job.printer, job.guide, job.piece.shape
    line = outline(shape, grow=guide.distance + guide.line_width / 2)
    points = corners(line)
    parts = []
    for pocket in used_pockets(job):
        x, y = pocket.x, printer.bed_height - pocket.y
        path = "L".join(f"{x + px:.4f} {y - py:.4f}" for px, py in points)
        parts.append(f'<path id="pocket-{pocket.number}" d="M{path}Z"/>')
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{printer.bed_width:g}mm"'
        f' height="{printer.bed_height:g}mm"'
        f' viewBox="0 0 {printer.bed_width:g} {printer.bed_height:g}">\n'
        f"<title>{escape(job.jig.name)}</title>\n"
        f'<g fill="none" stroke="#000000" stroke-width={quoteattr(f"{guide.line_width:g}")}>\n'
        + "\n".join(parts)
        + "\n</g>\n</svg>\n"
    )
