"""Which column of a list says what, matched once and remembered."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from farbe.atomic import make_folder, whole_file
from farbe.folders import config_folder
from farbe.model.base import BadInput
from farbe.said import say

#: What a row says of an order, and what columns are called that say it.
FIELDS: dict[str, tuple[str, ...]] = {
    "order": ("order", "order number", "order no", "order no.", "number", "bestellung",
              "bestellnummer", "auftrag", "auftragsnummer"),
    "product": ("product", "produkt", "item", "article", "artikel"),
    "artwork": ("artwork", "file", "picture", "datei", "bild", "druckdatei"),
    "quantity": ("quantity", "count", "pieces", "menge", "anzahl", "stück"),
    "due": ("due", "due date", "fällig", "termin"),
    "note": ("note", "remark", "notiz", "bemerkung"),
    "cancelled": ("cancelled", "canceled", "storniert"),
}  # fmt: skip
NEEDED = ("order", "product")
FILE_NAME = "order-columns.json"


@dataclass(frozen=True)
class Columns:
    """Which column says what; all others are texts under their own names.

    Attributes
    ----------
    of : the list's column for each field that has one
    texts : the columns of texts
    """

    of: Mapping[str, str]
    texts: tuple[str, ...]

    def value(self, fields: Mapping[str, str], name: str) -> str:
        """What a row says; empty if it does not.

        Parameters
        ----------
        fields : of the row
        name : one of :data:`FIELDS`
        """
        column = self.of.get(name)
        return "" if column is None else fields.get(column, "").strip()


def guessed(columns: tuple[str, ...]) -> dict[str, str]:
    """The columns whose names say what they are.

    Parameters
    ----------
    columns : of a list
    """
    found: dict[str, str] = {}
    for name, words in FIELDS.items():
        known = {column.casefold(): column for column in columns}
        match = next((known[word] for word in words if word in known), None)
        if match is not None and match not in found.values():
            found[name] = match
    return found


def matched(
    columns: tuple[str, ...], stated: Mapping[str, str] | None = None, *, name: str = ""
) -> Columns:
    """Match a list's columns: as stated, else as remembered of lists like it, else by their names.

    Parameters
    ----------
    columns : of the list
    stated : columns by the fields that they say; an empty one says that no column does
    name : of the list, in sentences

    Raises
    ------
    BadInput
        If a column is not there, or nothing says what has to be said.
    """
    chosen = guessed(columns) | _remembered(columns) | dict(stated or {})
    for field, column in chosen.items():
        if field not in FIELDS:
            raise BadInput(
                say("There is no field {name}; there are: {known}.",
                    name=field, known=", ".join(FIELDS))
            )  # fmt: skip
        if column and column not in columns:
            raise BadInput(
                say("{list} has no column {column}; it has: {columns}.",
                    list=name, column=column, columns=_listed(columns))
            )  # fmt: skip
    of = {field: column for field, column in chosen.items() if column}
    lacking = next((field for field in NEEDED if field not in of), None)
    if lacking is not None:
        raise BadInput(
            say("No column of {list} is named {field}; say which one it is, among: {columns}.",
                list=name, field=lacking, columns=_listed(columns))
        )  # fmt: skip
    twice = [column for column in of.values() if list(of.values()).count(column) > 1]
    if twice:
        raise BadInput(
            say("{list}: the column {column} cannot say two things.", list=name, column=twice[0])
        )
    return Columns(of, tuple(column for column in columns if column not in of.values()))


def _listed(columns: tuple[str, ...]) -> str:
    return ", ".join(column[:30] for column in columns[:20])


def _file() -> Path:
    return config_folder() / FILE_NAME


def _key(columns: tuple[str, ...]) -> str:
    return "\t".join(columns)


def _all_remembered() -> dict[str, dict[str, str]]:
    try:
        told = json.loads(_file().read_text(encoding="utf-8"))
    except FileNotFoundError:
        return {}
    except (OSError, ValueError) as error:
        raise BadInput(
            say("{path} cannot be read; delete it, and match the columns again.", path=_file())
        ) from error
    return told if isinstance(told, dict) else {}


def _remembered(columns: tuple[str, ...]) -> dict[str, str]:
    told = _all_remembered().get(_key(columns), {})
    return {str(name): str(column) for name, column in told.items() if name in FIELDS}


def remember(columns: tuple[str, ...], stated: Mapping[str, str]) -> None:
    """Match lists with these columns so from now on.

    Parameters
    ----------
    columns : of the list
    stated : columns by the fields that they say

    Raises
    ------
    BadInput
        If it cannot be kept.
    """
    known = _all_remembered()
    known[_key(columns)] = known.get(_key(columns), {}) | dict(stated)
    make_folder(config_folder())
    with whole_file(_file()) as file:
        file.write(json.dumps(known, indent=1, ensure_ascii=False).encode("utf-8"))
