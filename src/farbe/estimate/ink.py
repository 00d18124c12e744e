"""How much ink coverage is."""

from __future__ import annotations

from farbe.model.base import MM_PER_INCH


def ink_ml(coverage_sum: float, laydown: float, dpi_x: float, dpi_y: float, hits: int = 1) -> float:
    """Ink in ml: sum of coverage (0 to 255 a pixel) × pixel area × laydown (ml/m²) × hits.

    Parameters
    ----------
    coverage_sum : sum of coverage, 0 to 255 each
    laydown : ml/m² of a solid hit
    dpi_x : dots per inch along x
    dpi_y : dots per inch along y
    hits : how often it is laid down, 1 or more
    """
    square_metre = (MM_PER_INCH / 1000.0) ** 2 / (dpi_x * dpi_y)
    return coverage_sum / 255.0 * square_metre * laydown * hits
