"""What a plate of a customer's file is for."""

from __future__ import annotations

from enum import StrEnum


class Meaning(StrEnum):
    """What a named plate of an artwork is for."""

    COLOUR = "colour"
    WHITE = "white"
    VARNISH = "varnish"
    INK = "named ink"
    CUT = "cut line"
    IGNORE = "nothing"
    UNKNOWN = "not told yet"
