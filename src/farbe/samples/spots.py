"""A label as a PDF with white and varnish as spots, as a customer's designer would send it."""

from __future__ import annotations

import math
from pathlib import Path

import pikepdf
from pikepdf import Array, Dictionary, Name

WIDTH, HEIGHT = 84.0, 56.0
POINT = 72 / 25.4


def _circle(x: float, y: float, radius: float) -> str:
    """A circle of four curves, in mm."""
    k = 4 / 3 * (math.sqrt(2) - 1) * radius
    return (
        f"{x + radius:.3f} {y:.3f} m"
        f" {x + radius:.3f} {y + k:.3f} {x + k:.3f} {y + radius:.3f} {x:.3f} {y + radius:.3f} c"
        f" {x - k:.3f} {y + radius:.3f} {x - radius:.3f} {y + k:.3f} {x - radius:.3f} {y:.3f} c"
        f" {x - radius:.3f} {y - k:.3f} {x - k:.3f} {y - radius:.3f} {x:.3f} {y - radius:.3f} c"
        f" {x + k:.3f} {y - radius:.3f} {x + radius:.3f} {y - k:.3f} {x + radius:.3f} {y:.3f} c h"
    )


def _hexagon(x: float, y: float, radius: float) -> str:
    turns = [math.pi / 6 + i * math.pi / 3 for i in range(6)]
    points = [f"{x + radius * math.cos(a):.3f} {y + radius * math.sin(a):.3f}" for a in turns]
    return f"{points[0]} m " + " ".join(f"{p} l" for p in points[1:]) + " h"


def _spot(pdf: pikepdf.Pdf, name: str, shown: tuple[float, ...]) -> pikepdf.Object:
    """A Separation colour space that is shown in process inks."""
    tint = Dictionary(
        FunctionType=2, Domain=Array([0, 1]), N=1, C0=Array([0, 0, 0, 0]), C1=Array(list(shown))
    )
    return pdf.make_indirect(Array([Name.Separation, Name("/" + name), Name.DeviceCMYK, tint]))


def write_spot_label(path: Path) -> None:
    """Write the label: white under its parts, colour over it, varnish on comb and seal."""
    seal, comb = _circle(42, 28, 13), [
        _hexagon(x + dx * 7.6, 28 + dy * 6.6, 3.6)
        for x in (15.0, 69.0)
        for dx, dy in ((0, -1), (-0.5, 0), (0.5, 0), (0, 1))
    ]  # fmt: skip
    bands = "0 43 84 13 re 0 0 84 13 re"
    drawn = [
        f"{POINT} 0 0 {POINT} 0 0 cm /Over gs",
        f"/White cs 1 scn {bands} f {seal} f " + " ".join(f"{cell} f" for cell in comb),
        "0.85 0.35 0.75 0.3 k 0 43 84 13 re f",
        "0 0.35 0.9 0 k 0 0 84 13 re f " + " ".join(f"{cell} f" for cell in comb),
        f"0 0 0 0 k {seal} f 0.4 0.7 0.9 0.6 k {_circle(42, 28, 9)} f",
        "0 0.3 0.95 0 k " + " ".join(f"{36 + 3 * i} 23.5 1.6 9 re f" for i in range(5)),
        f"/Varnish cs 1 scn {seal} f " + " ".join(f"{cell} f" for cell in comb),
    ]
    with pikepdf.new() as pdf:
        page = pdf.add_blank_page(page_size=(WIDTH * POINT, HEIGHT * POINT))
        page.Resources = Dictionary(
            ColorSpace=Dictionary(
                White=_spot(pdf, "White", (0.15, 0, 0, 0)),
                Varnish=_spot(pdf, "Varnish", (0, 0, 0.25, 0)),
            ),
            ExtGState=Dictionary(Over=Dictionary(OP=True, op=True, OPM=1)),
        )
        page.Contents = pdf.make_stream("\n".join(drawn).encode())
        page.trimbox = page.mediabox
        pdf.save(path, deterministic_id=True)
