"""Patches of charts and strips: what is laid down at one place to be measured."""

from dataclasses import dataclass

from farbe.said import Spoken

#: Process inks of the strip, in percent.
STRIP_INKS: tuple[tuple[float, float, float, float], ...] = (
    (100, 0, 0, 0), (0, 100, 0, 0), (0, 0, 100, 0), (0, 0, 0, 100),
    (50, 0, 0, 0), (0, 50, 0, 0), (0, 0, 50, 0), (0, 0, 0, 50),
    (25, 0, 0, 0), (0, 25, 0, 0), (0, 0, 25, 0), (0, 0, 0, 25),
    (100, 100, 0, 0), (0, 100, 100, 0), (100, 0, 100, 0), (100, 100, 100, 0),
    (50, 40, 40, 0), (75, 66, 66, 0), (25, 19, 19, 0), (70, 60, 60, 80),
)  # fmt: skip


class Base(Spoken):
    """What lies behind the films of a patch."""

    BARE = "bare"
    BLACK = "black"
    WHITE = "white"


@dataclass(frozen=True)
class Patch:
    """What is laid down at one place, from the reader's eye backwards.

    Attributes
    ----------
    inks : percent of cyan, magenta, yellow, black
    varnish : under one hit of varnish
    named, amount : a named ink, and percent of it
    white, level : hits of white, and percent of each
    blackout : hits behind the white
    base : behind all of them
    kept_out : nothing is made from it, so that it can judge what is made
    """

    inks: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    varnish: bool = False
    named: str = ""
    amount: float = 0.0
    white: int = 0
    level: float = 100.0
    blackout: int = 0
    base: Base = Base.BARE
    kept_out: bool = False

    @property
    def total(self) -> float:
        """Process ink in percent, together."""
        return sum(self.inks)

    @property
    def is_colour(self) -> bool:
        """Whether process ink on solid white, or on the bare surface, is all that it shows."""
        return (
            not self.varnish and not self.named and not self.blackout
            and self.base is Base.BARE and self.level == 100.0
        )  # fmt: skip


def level_of(percent: float) -> int:
    """Level of a plate, 0 to 255.

    Parameters
    ----------
    percent : 0 to 100
    """
    return round(percent * 2.55)
