"""Cutting files as PDF at real size, the lines as the processing step "cutting"."""

from __future__ import annotations

import io

import pikepdf
from pikepdf import Array, Dictionary, Name, String

from farbe.layout.cutfile import CutLine, CutPage, figure_lines, layer_of

POINTS = 72.0 / 25.4
LINE = 0.1


def cut_pdf(page: CutPage) -> bytes:
    """One page; cut lines in a spot colour and an optional content group of ISO 19593-1.

    Parameters
    ----------
    page : sizes in mm, y up
    """
    with pikepdf.new() as pdf:
        cut = pdf.make_indirect(
            Dictionary(
                Type=Name.OCG,
                Name=String("Cut"),
                GTS_Metadata=Dictionary(
                    Type=Name.GTS_Metadata,
                    GTS_ProcStepsGroup=Name.Structural,
                    GTS_ProcStepsType=Name.Cutting,
                ),
            )
        )
        figures = pdf.make_indirect(Dictionary(Type=Name.OCG, Name=String("Figures")))
        layers = {
            f"/{layer}": pdf.make_indirect(
                Dictionary(Type=Name.OCG, Name=String(layer.capitalize()))
            )
            for layer in _layers(page)
        }
        tint = Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[0, 1, 0, 0], N=1)
        space = Array([Name.Separation, Name.Cut, Name.DeviceCMYK, tint])
        box = Array([0, 0, round(page.width * POINTS, 6), round(page.height * POINTS, 6)])
        pdf.pages.append(
            pikepdf.Page(
                pdf.make_indirect(
                    Dictionary(
                        Type=Name.Page,
                        MediaBox=box,
                        TrimBox=box,
                        Resources=Dictionary(
                            ColorSpace=Dictionary(Cut=space),
                            Properties=Dictionary({"/C": cut, "/F": figures} | layers),
                        ),
                        Contents=pdf.make_stream(_content(page)),
                    )
                )
            )
        )
        pdf.Root.OCProperties = Dictionary(
            OCGs=Array([cut, figures, *layers.values()]),
            D=Dictionary(Order=Array([cut, Array([*layers.values()]), figures])),
        )
        pdf.docinfo["/Title"] = page.title
        pdf.docinfo["/Creator"] = "Farbe"
        target = io.BytesIO()
        pdf.save(target)
        return target.getvalue()


def _layers(page: CutPage) -> tuple[str, ...]:
    return tuple(dict.fromkeys(layer_of(name) for name, _ in page.lines))


def _path(line: CutLine) -> str:
    moves = [f"{x * POINTS:.4f} {y * POINTS:.4f}" for x, y in line]
    return f"{moves[0]} m " + " ".join(f"{move} l" for move in moves[1:]) + " h S"


def _content(page: CutPage) -> bytes:
    parts = [f"/OC /C BDC q {LINE * POINTS:.4f} w /Cut CS 1 SCN"]
    for layer in _layers(page):
        parts.append(f"/OC /{layer} BDC")
        parts += [_path(points) for name, points in page.lines if layer_of(name) == layer]
        parts.append("EMC")
    parts.append("Q EMC /OC /F BDC")
    parts.append(f"q {LINE * POINTS:.4f} w")
    parts += [_path(line) for text in page.texts for line in figure_lines(text)]
    parts.append("Q EMC")
    return "\n".join(parts).encode("ascii")
