"""Text by CGATS.17: tables of patches, their inks and what was read of them."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from farbe.model.base import BadInput
from farbe.said import say

#: Rows and fields of a table that is no chart of anybody's.
MOST_ROWS, MOST_FIELDS = 20_000, 600
_WORD = re.compile(r'"((?:[^"]|"")*)"|(\S+)')


@dataclass(frozen=True)
class CgatsTable:
    """One table: its keywords, names of fields, and rows of words as they stand.

    Keywords and fields are in capitals.
    """

    fields: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    keywords: Mapping[str, str] = field(default_factory=dict)

    def numbers(self, name: str, *, where: str) -> list[float]:
        """A field as numbers.

        Parameters
        ----------
        name : of the field
        where : the file, for messages

        Raises
        ------
        BadInput
            If a row has none there.
        """
        at = self.fields.index(name)
        return [
            number_in(row[at], where, say("row {row}, {name}", row=count, name=name))
            for count, row in enumerate(self.rows, start=1)
        ]


def number_in(word: str, where: str, place: str) -> float:
    """A number as devices of all countries write it.

    Parameters
    ----------
    word : as it stands
    where : the file, for messages
    place : in it

    Raises
    ------
    BadInput
        If it is none, or none that can be.
    """
    try:
        found = float(word.replace(",", ".") if "." not in word else word)
    except ValueError:
        found = math.nan
    if not math.isfinite(found):
        raise BadInput(
            say("{where}: {place} is no number: {word}.", where=where, place=place, word=word[:20])
        )
    return found


def _words(line: str) -> list[str]:
    """Words of a line; those in quotes are one, and the rest of it after # is a remark."""
    found = []
    for match in _WORD.finditer(line):
        quoted, plain = match.groups()
        if quoted is None and plain.startswith("#"):
            break
        found.append(plain if quoted is None else quoted.replace('""', '"'))
    return found


class _Table:
    """The table as it is read line by line."""

    def __init__(self, where: str) -> None:
        self.where = where
        self.fields: list[str] = []
        self.rows: list[tuple[str, ...]] = []
        self.keywords: dict[str, str] = {}
        self.promised = 0
        self._part = ""

    def take(self, words: list[str]) -> None:
        """A line of a table."""
        word = words[0].upper()
        if word in ("BEGIN_DATA_FORMAT", "BEGIN_DATA"):
            self._part = word
            if word == "BEGIN_DATA_FORMAT":
                self.fields = []
        elif word in ("END_DATA_FORMAT", "END_DATA"):
            self._part = ""
        elif self._part == "BEGIN_DATA_FORMAT":
            self.fields += [one.upper() for one in words]
        elif self._part == "BEGIN_DATA":
            self._row(words)
        elif word == "NUMBER_OF_SETS" and len(words) > 1 and words[1].isdigit():
            self.promised = int(words[1])
        elif word != "KEYWORD":
            self.keywords[word] = " ".join(words[1:])

    def _row(self, words: list[str]) -> None:
        if not self.fields or len(self.fields) > MOST_FIELDS or len(self.rows) >= MOST_ROWS:
            raise BadInput(say("{where} holds no table that can be read.", where=self.where))
        if len(words) != len(self.fields):
            raise BadInput(
                say("{where}: row {row} has {words} figures for {fields} fields; export it again.",
                    where=self.where, row=len(self.rows) + 1, words=len(words),
                    fields=len(self.fields))
            )  # fmt: skip
        self.rows.append(tuple(words))

    @property
    def whole(self) -> bool:
        """Whether its rows have come to their end."""
        return bool(self.rows) and not self._part

    def found(self) -> CgatsTable:
        """The table, once all is read."""
        if self._part:
            raise BadInput(say("{where} ends in the middle of its table; export it again.",
                               where=self.where))  # fmt: skip
        if not self.rows:
            raise BadInput(
                say("{where} holds no table of readings; export them as CGATS text.",
                    where=self.where)
            )  # fmt: skip
        if self.promised and self.promised != len(self.rows):
            raise BadInput(
                say("{where} says {promised} patches and holds {rows}; export it again.",
                    where=self.where, promised=self.promised, rows=len(self.rows))
            )  # fmt: skip
        return CgatsTable(tuple(self.fields), tuple(self.rows), self.keywords)


def read_cgats(text: str, where: str) -> CgatsTable:
    """The first table of a text that has rows.

    Parameters
    ----------
    text : by CGATS.17
    where : the file, for messages

    Raises
    ------
    BadInput
        If there is no table, it is torn, or a row has more or fewer words than there are fields.
    """
    table = _Table(where)
    for line in text.splitlines():
        words = _words(line)
        if words:
            table.take(words)
        if table.whole:
            break
    return table.found()


def cgats_text(table: CgatsTable, *, own: Sequence[str] = (), kind: str = "CGATS.17") -> str:
    """A table as text.

    Parameters
    ----------
    table : its keywords, fields and rows
    own : keywords and fields that the standard does not know, which it wants declared
    kind : its first line
    """
    lines = [kind]
    lines += [f'KEYWORD "{name}"' for name in own]
    lines += [f'{name} "{value}"' for name, value in table.keywords.items()]
    lines += [f"NUMBER_OF_FIELDS {len(table.fields)}", "BEGIN_DATA_FORMAT",
              " ".join(table.fields), "END_DATA_FORMAT",
              f"NUMBER_OF_SETS {len(table.rows)}", "BEGIN_DATA"]  # fmt: skip
    lines += [" ".join(_quoted(word) for word in row) for row in table.rows]
    return "\n".join([*lines, "END_DATA", ""])


def _quoted(word: str) -> str:
    try:
        float(word)
        return word
    except ValueError:
        return '"' + word.replace('"', '""') + '"'
