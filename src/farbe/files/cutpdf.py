"""Cutting files as PDF at real size, the lines as the processing step "cutting"."""

from __future__ import annotations

import io

import pikepdf
from pikepdf import Array, Dictionary, Name, String

from farbe.layout.cutfile import CutPage

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
                            Properties=Dictionary(C=cut, F=figures),
                            Font=Dictionary(
                                H=Dictionary(
                                    Type=Name.Font,
                                    Subtype=Name.Type1,
                                    BaseFont=Name.Helvetica,
                                    Encoding=Name.WinAnsiEncoding,
                                )
                            ),
                        ),
                        Contents=pdf.make_stream(_content(page)),
                    )
                )
            )
        )
        pdf.Root.OCProperties = Dictionary(
            OCGs=Array([cut, figures]), D=Dictionary(Order=Array([cut, figures]))
        )
        pdf.docinfo["/Title"] = page.title
        pdf.docinfo["/Creator"] = "Farbe"
        target = io.BytesIO()
        pdf.save(target)
        return target.getvalue()


def _content(page: CutPage) -> bytes:
    parts = [f"/OC /C BDC q {LINE * POINTS:.4f} w /Cut CS 1 SCN"]
    for _, points in page.lines:
        moves = [f"{x * POINTS:.4f} {y * POINTS:.4f}" for x, y in points]
        parts.append(f"{moves[0]} m " + " ".join(f"{move} l" for move in moves[1:]) + " h S")
    parts.append("Q EMC /OC /F BDC")
    for text in page.texts:
        encoded = text.text.encode("cp1252", "replace").hex()
        size = text.height / 0.718 * POINTS
        place = f"{text.x * POINTS:.4f} {text.y * POINTS:.4f}"
        parts.append(f"BT /H {size:.3f} Tf {place} Td <{encoded}> Tj ET")
    parts.append("EMC")
    return "\n".join(parts).encode("ascii")
