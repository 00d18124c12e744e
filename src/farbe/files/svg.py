"""Cutting files as SVG in millimetres."""

from __future__ import annotations

from xml.sax.saxutils import escape, quoteattr

from farbe.layout.cutfile import CutLine, CutPage, figure_lines, layer_of

#: Shown as thin as a cut; cutters take the line's middle.
LINE = 0.1


def cut_svg(page: CutPage) -> str:
    """The page at real size. y runs down in SVG, so the datum's side is below.

    Parameters
    ----------
    page : sizes in mm, y up
    """

    def path(line: CutLine) -> str:
        return "M" + "L".join(f"{x:.4f} {page.height - y:.4f}" for x, y in line) + "Z"

    layers: dict[str, list[str]] = {}
    for name, points in page.lines:
        drawn = f'<path id={quoteattr(name)} d="{path(points)}"/>'
        layers.setdefault(layer_of(name), []).append(drawn)
    figures = [
        f"<path aria-label={quoteattr(text.text)}"
        f' d="{"".join(path(line) for line in figure_lines(text))}"/>'
        for text in page.texts
    ]
    groups = [
        f'<g id="layer-{layer.lower()}" fill="none" stroke="#000000" stroke-width="{LINE}">\n'
        + "\n".join(drawn)
        + "\n</g>\n"
        for layer, drawn in layers.items()
    ]
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{page.width:g}mm"'
        f' height="{page.height:g}mm" viewBox="0 0 {page.width:g} {page.height:g}">\n'
        f"<title>{escape(page.title)}</title>\n"
        + "".join(groups)
        + f'<g id="layer-figures" fill="none" stroke="#0000ff" stroke-width="{LINE}">\n'
        + "\n".join(figures)
        + "\n</g>\n</svg>\n"
    )
