"""Numbers of pieces as people write them."""

from __future__ import annotations

import re

from farbe.model.base import BadInput
from farbe.said import say

#: More pieces than lie on any board.
MOST = 20_000
_PART = re.compile(r"(\d{1,6})(?:\s*[-–]\s*(\d{1,6}))?")


def pieces_of(words: str) -> tuple[int, ...]:
    """The numbers in words like ``3, 7-9``.

    Parameters
    ----------
    words : numbers and ranges, parted by commas or blanks

    Returns
    -------
    In their order, each once; none of empty words.

    Raises
    ------
    BadInput
        If it is something else.
    """
    found: set[int] = set()
    for part in re.sub(r"\s*[-–]\s*", "-", words.strip()).replace(",", " ").split():
        match = _PART.fullmatch(part)
        if match is None:
            raise BadInput(
                say("“{part}” is no number of a piece; write numbers as 3, 7-9.", part=part[:20])
            )
        first = int(match[1])
        last = int(match[2]) if match[2] else first
        if not 1 <= first <= last <= MOST:
            raise BadInput(say("“{part}” names no pieces; write numbers as 3, 7-9.", part=part))
        found |= set(range(first, last + 1))
    return tuple(sorted(found))
