"""Millimetres to pixels."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.art.artwork import MM_PER_INCH


@dataclass(frozen=True)
class Grid:
    """Output pixels: dots per inch along x and y."""

    dpi_x: float
    dpi_y: float

    @property
    def per_mm_x(self) -> float:
        """Pixels to a millimetre."""
        return self.dpi_x / MM_PER_INCH

    @property
    def per_mm_y(self) -> float:
        """Pixels to a millimetre."""
        return self.dpi_y / MM_PER_INCH

    def size(self, width: float, height: float) -> tuple[int, int]:
        """Whole pixels (x, y) nearest to a size in mm, at least one each.

        Parameters
        ----------
        width, height : mm

        Returns
        -------
        Columns and rows, 1 at the least.
        """
        return max(1, round(width * self.per_mm_x)), max(1, round(height * self.per_mm_y))
