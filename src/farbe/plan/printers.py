"""Four invented printers that ship."""

from __future__ import annotations

from datetime import date

from farbe.model.condition import Condition, Origin, Trueness
from farbe.model.piece import Material
from farbe.model.printer import PROCESS, VARNISH, WHITE, Mode, Printer, Throw
from farbe.said import shipped


def _modes(fine: tuple[float, float], passes: int, speed: float) -> tuple[Mode, ...]:
    """The modes of a printer around its usual one."""
    x, y = fine
    return (
        Mode(name=shipped("standard"), dpi_x=x, dpi_y=y, passes=passes, speed=speed),
        Mode(
            name=shipped("fine"),
            dpi_x=x,
            dpi_y=y,
            passes=2 * passes,
            speed=0.8 * speed,
            both_ways=False,
        ),
        Mode(
            name=shipped("fast"),
            dpi_x=x,
            dpi_y=y,
            passes=max(2, passes // 2),
            speed=speed,
            laydown=90,
        ),
        Mode(
            name=shipped("curved pieces"),
            dpi_x=x,
            dpi_y=y,
            passes=2 * passes,
            speed=0.5 * speed,
            both_ways=False,
            throw=Throw.FAR,
        ),
        Mode(name=shipped("draft"), dpi_x=x / 2, dpi_y=y / 2, passes=2, speed=speed, laydown=70),
    )


#: How true predictions are for the test press, which is what these printers are; measured by
#: ``scripts/measure_shipped.py``.
_TRUE = {
    Material.OPAQUE: Trueness(patches=83, mean=2.13, most=4.25, worst=5.76),
    Material.CLEAR: Trueness(patches=83, mean=2.01, most=3.98, worst=5.02),
    Material.TEXTILE: Trueness(patches=83, mean=2.12, most=4.23, worst=5.66),
    Material.TRANSLUCENT: Trueness(patches=83, mean=2.13, most=4.30, worst=5.79),
}


_NAMES = {
    Material.OPAQUE: shipped("opaque"),
    Material.CLEAR: shipped("clear"),
    Material.TEXTILE: shipped("textile"),
    Material.TRANSLUCENT: shipped("translucent"),
}


def _known(printer: str) -> tuple[Condition, ...]:
    """What is known of a printer that ships, as long as it has its name."""
    return tuple(
        Condition(
            name=_NAMES[material], printer=printer,
            surfaces=(material,), inks=tuple(ink.name for ink in (*PROCESS, WHITE, VARNISH)),
            origin=Origin.MEASURED, when=date(2026, 11, 27), trueness=true,
        )
        for material, true in _TRUE.items()
    )  # fmt: skip


FLATBED = Printer(
    name=shipped("Flatbed 600 × 300"),
    conditions=_known("Flatbed 600 × 300"),
    bed_width=600,
    bed_height=300,
    max_piece_height=100,
    dpi_x=600,
    dpi_y=900,
    modes=_modes((600, 900), 8, 700.0),
)
DESKTOP = Printer(
    name=shipped("Small flatbed 420 × 297"),
    conditions=_known("Small flatbed 420 × 297"),
    bed_width=420,
    bed_height=297,
    max_piece_height=60,
    head_gap=2.0,
    dpi_x=720,
    dpi_y=720,
    passes=12,
    swath=24.0,
    speed=450.0,
    modes=_modes((720, 720), 12, 450.0),
)
WIDE = Printer(
    name=shipped("Wide flatbed 1600 × 1000"),
    conditions=_known("Wide flatbed 1600 × 1000"),
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
    modes=_modes((600, 600), 6, 1100.0),
)
ROLL_PRINTER = Printer(
    name=shipped("Roll printer 620"),
    conditions=_known("Roll printer 620"),
    bed_width=620,
    bed_height=20_000,
    max_piece_height=2,
    head_gap=2.0,
    dpi_x=600,
    dpi_y=600,
    passes=6,
    swath=54.0,
    speed=800.0,
    modes=_modes((600, 600), 6, 800.0),
)
PRINTERS = (FLATBED, DESKTOP, WIDE, ROLL_PRINTER)
