"""Paper that sheets are printed on."""

from __future__ import annotations

from enum import StrEnum


class Paper(StrEnum):
    """A size of paper, upright."""

    A4 = "A4"
    LETTER = "Letter"

    @property
    def points(self) -> tuple[float, float]:
        """Width and height in points, 72 to the inch."""
        # ISO 216, and ANSI A.
        return (210 * 72 / 25.4, 297 * 72 / 25.4) if self is Paper.A4 else (612.0, 792.0)
