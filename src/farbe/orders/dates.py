"""Days as people write them."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import date

from farbe.model.base import BadInput
from farbe.said import say

_YEAR_FIRST = re.compile(r"(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ].*)?")
_DOTS = re.compile(r"(\d{1,2})\.\s?(\d{1,2})\.\s?(\d{4})")
_SLASHES = re.compile(r"(\d{1,2})[/-](\d{1,2})[/-](\d{4})")


def day_first(written: Iterable[str]) -> bool | None:
    """Whether days with slashes begin with the day; None where nothing in a column tells.

    One above 12 cannot be a month, and a column is written in one way.

    Parameters
    ----------
    written : the days of a column
    """
    found = set[bool]()
    for words in written:
        match = _SLASHES.fullmatch(words.strip())
        if match is not None:
            first, second = int(match[1]), int(match[2])
            if first > 12 >= second:
                found.add(True)
            if second > 12 >= first:
                found.add(False)
    return found.pop() if len(found) == 1 else None


def day_of(words: str, by_day: bool | None) -> date | None:
    """The day that is written; None for nothing.

    Parameters
    ----------
    words : as 2026-12-04, 4.12.2026, or 04/12/2026 where it is clear which is the month
    by_day : whether what is written with slashes begins with the day; None if nothing tells

    Raises
    ------
    BadInput
        If it is none, or could be two.
    """
    words = words.strip()
    if not words:
        return None
    if (match := _YEAR_FIRST.fullmatch(words)) is not None:
        year, month, day = (int(part) for part in match.groups())
    elif (match := _DOTS.fullmatch(words)) is not None:
        day, month, year = (int(part) for part in match.groups())
    elif (match := _SLASHES.fullmatch(words)) is not None:
        first, second, year = (int(part) for part in match.groups())
        if by_day is None and first != second:
            raise BadInput(
                say("“{words}” may be two days; write it as 2026-12-31.", words=words[:40])
            )
        day, month = (first, second) if by_day else (second, first)
    else:
        raise BadInput(say("“{words}” is no day; write it as 2026-12-31.", words=words[:40]))
    try:
        return date(year, month, day)
    except ValueError:
        raise BadInput(
            say("“{words}” is no day of the calendar; write it as 2026-12-31.", words=words[:40])
        ) from None
