"""Three invented printers that ship."""

from __future__ import annotations

from farbe.model.printer import Printer

FLATBED = Printer(
    name="Flatbed 600 × 300",
    bed_width=600,
    bed_height=300,
    max_piece_height=100,
    dpi_x=600,
    dpi_y=900,
)
DESKTOP = Printer(
    name="Small flatbed 420 × 297",
    bed_width=420,
    bed_height=297,
    max_piece_height=60,
    head_gap=2.0,
    dpi_x=720,
    dpi_y=720,
    passes=12,
    swath=24.0,
    speed=450.0,
)
WIDE = Printer(
    name="Wide flatbed 1600 × 1000",
    bed_width=1600,
    bed_height=1000,
    max_piece_height=50,
    head_gap=1.2,
    dpi_x=600,
    dpi_y=600,
    passes=6,
    swath=54.0,
    speed=1100.0,
    turn=0.9,
)
PRINTERS = (FLATBED, DESKTOP, WIDE)
