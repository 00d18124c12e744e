"""What a plate of a customer's file is for."""

from farbe.said import Spoken


class Meaning(Spoken):
    """What a named plate of an artwork is for."""

    COLOUR = "colour"
    WHITE = "white"
    VARNISH = "varnish"
    INK = "named ink"
    CUT = "cut line"
    IGNORE = "nothing"
    UNKNOWN = "not told yet"
