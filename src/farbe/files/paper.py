"""Paper that sheets are printed on."""

from __future__ import annotations

from enum import StrEnum

from reportlab.lib.pagesizes import A4, LETTER


class Paper(StrEnum):
    """A size of paper, upright."""

    A4 = "A4"
    LETTER = "Letter"

    @property
    def points(self) -> tuple[float, float]:
        """Width and height in points, 72 to the inch."""
        width, height = A4 if self is Paper.A4 else LETTER
        return float(width), float(height)
