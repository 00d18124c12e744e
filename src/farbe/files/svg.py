"""Cutting files as SVG in millimetres."""

from __future__ import annotations

from xml.sax.saxutils import escape, quoteattr

from farbe.layout.cutfile import CutPage

#: Shown as thin as a cut; cutters take the line's middle.
LINE = 0.1


def cut_svg(page: CutPage) -> str:
    """The page at real size. y runs down in SVG, so the datum's side is below.

    Parameters
    ----------
    page : sizes in mm, y up
    """
    lines = []
    for name, points in page.lines:
        path = "L".join(f"{x:.4f} {page.height - y:.4f}" for x, y in points)
        lines.append(f'<path id={quoteattr(name)} d="M{path}Z"/>')
    texts = [
        f'<text x="{t.x:.3f}" y="{page.height - t.y:.3f}" font-size="{t.height / 0.73:.3f}">'
        f"{escape(t.text)}</text>"
        for t in page.texts
    ]
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{page.width:g}mm"'
        f' height="{page.height:g}mm" viewBox="0 0 {page.width:g} {page.height:g}">\n'
        f"<title>{escape(page.title)}</title>\n"
        f'<g id="cut" fill="none" stroke="#000000" stroke-width="{LINE}">\n'
        + "\n".join(lines)
        + '\n</g>\n<g id="figures" font-family="Inter, sans-serif" fill="#000000">\n'
        + "\n".join(texts)
        + "\n</g>\n</svg>\n"
    )
