"""The rows of a list of orders, from CSV or JSON."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

from farbe.files.table import file_text, table_rows
from farbe.model.base import BadInput
from farbe.names import plain_name
from farbe.said import say

#: Rows of a list at the most, and columns.
MOST_ROWS, MOST_COLUMNS = 100_000, 200
#: Letters of a field that are kept, so that what is too long can still be said so.
_MOST_LETTERS = 2000


@dataclass(frozen=True)
class Row:
    """A row as it is written.

    Attributes
    ----------
    line : of the file, from 1; of JSON the number of the order in it
    fields : by the names of the columns
    fault : why it cannot be read; empty if it can
    """

    line: int
    fields: Mapping[str, str]
    fault: str = ""

    @property
    def written(self) -> tuple[tuple[str, str], ...]:
        """Its fields as a value."""
        return tuple(self.fields.items())


@dataclass(frozen=True)
class ListOfRows:
    """A list as it is written.

    Attributes
    ----------
    name : of the file
    columns : as they are called there
    rows : in their order
    """

    name: str
    columns: tuple[str, ...]
    rows: tuple[Row, ...]


def read_list(path: Path) -> ListOfRows:
    """Read a list whose first line names its columns; or JSON, a list of objects.

    Parameters
    ----------
    path : ends with ``.csv`` or ``.json``

    Raises
    ------
    BadInput
        If it cannot be read as a whole, or was changed meanwhile.
    """
    before = _stamp(path)
    text = file_text(path)
    if _stamp(path) != before:
        raise BadInput(say("{path} was changed while it was read; read it again.", path=path.name))
    found = _json_rows(text, path.name) if path.suffix.lower() == ".json" else _csv_rows(
        text, path.name
    )  # fmt: skip
    if len(found.rows) > MOST_ROWS:
        raise BadInput(
            say("{path} has more than {most} rows; split the list.", path=path.name, most=MOST_ROWS)
        )
    if not found.rows:
        raise BadInput(say("{path} has no orders in it.", path=path.name))
    return found


def _stamp(path: Path) -> tuple[int, int, int] | None:
    """By which a change of a file is seen; None if it is not there, which reading says."""
    try:
        told = path.stat()
    except OSError:
        return None
    return told.st_ino, told.st_size, told.st_mtime_ns


def _csv_rows(text: str, name: str) -> ListOfRows:
    lines = table_rows(text, name)
    header = next(lines, None)
    if header is None:
        raise BadInput(say("{path} is empty; its first line should name the columns.", path=name))
    columns = header[1]
    # Spreadsheets leave empty columns behind the last.
    while columns and not columns[-1]:
        columns.pop()
    _check_columns(columns, name)
    rows = []
    for line, fields in lines:
        while len(fields) > len(columns) and not fields[-1]:
            fields.pop()
        fault = ""
        if len(fields) != len(columns):
            fault = say(
                "It has {fields} fields where the first line names {columns} columns; quote "
                "fields that contain the separator.",
                fields=len(fields),
                columns=len(columns),
            )
        short = [field[:_MOST_LETTERS] for field in fields] + [""] * len(columns)
        rows.append(Row(line, dict(zip(columns, short, strict=False)), fault))
        if len(rows) > MOST_ROWS:
            break
    return ListOfRows(name, tuple(columns), tuple(rows))


def _check_columns(columns: list[str], name: str) -> None:
    if len(columns) > MOST_COLUMNS:
        raise BadInput(say("{path} has more than {most} columns.", path=name, most=MOST_COLUMNS))
    for index, column in enumerate(columns, start=1):
        if not column:
            raise BadInput(
                say("{path}: column {index} has no name; name it in the first line.",
                    path=name, index=index)
            )  # fmt: skip
    folded = [column.casefold() for column in columns]
    twice = next((column for column in columns if folded.count(column.casefold()) > 1), None)
    if twice is not None:
        raise BadInput(
            say("{path} has two columns named {column}; name one otherwise.",
                path=name, column=twice)
        )  # fmt: skip


def _json_rows(text: str, name: str) -> ListOfRows:
    try:
        told = json.loads(text)
    except (ValueError, RecursionError) as error:
        where = say(" (line {line})", line=error.lineno) if isinstance(
            error, json.JSONDecodeError
        ) else ""  # fmt: skip
        raise BadInput(
            say("{path} is no JSON that can be read{where}.", path=name, where=where)
        ) from error
    orders = told.get("orders") if isinstance(told, dict) else told
    if not isinstance(orders, list):
        raise BadInput(
            say("{path} holds no list of orders; it is to be a list of objects.", path=name)
        )
    rows = [_json_row(at, order) for at, order in enumerate(orders[: MOST_ROWS + 1], start=1)]
    columns = list(dict.fromkeys(column for row in rows for column in row.fields))
    if rows:
        _check_columns(columns or [""], name)
    return ListOfRows(name, tuple(columns), tuple(rows))


def _json_row(at: int, order: object) -> Row:
    """An order's object; what ``texts`` hold are columns of their own."""
    if not isinstance(order, dict):
        return Row(at, {}, say("It is no object with fields."))
    fields: dict[str, str] = {}
    for name, value in order.items():
        if isinstance(value, dict) and name == "texts":
            fields |= {plain_name(str(key)): _words(one) for key, one in value.items()}
        elif isinstance(value, list | dict):
            return Row(
                at,
                {},
                say("Its field {name} is no text and no number.", name=plain_name(str(name))[:80]),
            )
        else:
            fields[plain_name(str(name))] = _words(value)
    return Row(at, fields)


def _words(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        value = int(value)
    return plain_name(str(value)).strip()[:_MOST_LETTERS]


def mended(
    rows: Iterable[Row], mends: Mapping[tuple[tuple[str, str], ...], Mapping[str, str]]
) -> tuple[Row, ...]:
    """Rows with those in their places that were mended here.

    Parameters
    ----------
    rows : as the list has them
    mends : fields that count, by those that the list has
    """
    return tuple(Row(row.line, mends[row.written]) if row.written in mends else row for row in rows)
