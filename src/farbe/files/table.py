"""Tables from CSV files: words for pockets, measured places."""

from __future__ import annotations

import codecs
import csv
import io
import re
from collections.abc import Iterator
from pathlib import Path

from pydantic import ValidationError

from farbe.atomic import check_regular
from farbe.model.base import BadInput, sentence
from farbe.model.correction import Correction, Measured
from farbe.model.text import MAX_ROWS, Table
from farbe.said import say

MAX_BYTES = 8_000_000
_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)


def file_text(path: Path) -> str:
    """A text file in UTF-8 or UTF-16, or in the older Western encoding of office programs.

    Parameters
    ----------
    path : of the file

    Raises
    ------
    BadInput
        If it cannot be read, is too large, or is no text.
    """
    check_regular(path, say("a table"))
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(say("{path} is larger than 8 MB; split the table.", path=path.name))
        data = path.read_bytes()
    except OSError:
        raise BadInput(
            say("{path} cannot be read; choose the file again.", path=path.name)
        ) from None
    marked = next((name for mark, name in _MARKS if data.startswith(mark)), None)
    for encoding in (marked,) if marked else ("utf-8", "cp1252"):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" not in text:
            return text
    raise BadInput(
        say("{path} is not text that can be read; save it as CSV in UTF-8.", path=path.name)
    )


def _separator(header: str) -> str:
    """What parts the fields of the first line: the mark that occurs most outside quotes."""
    bare = re.sub(r'"[^"]*"', "", header)
    return max(",;\t", key=bare.count)


def table_rows(text: str, name: str) -> Iterator[tuple[int, list[str]]]:
    """Line numbers and fields of lines that are not empty.

    Parameters
    ----------
    text : fields parted by what occurs most in the first line: tabs, semicolons or commas
    name : what it is called in sentences

    Raises
    ------
    BadInput
        If a quote is not closed.
    """
    first = text.lstrip("\r\n").splitlines()[0] if text.strip() else ""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=_separator(first), strict=True)
    while True:
        line = reader.line_num + 1
        try:
            row = next(reader)
        except StopIteration:
            return
        except csv.Error:
            raise BadInput(
                say(
                    "{name}, line {line}: a quote is opened and not closed, or stands inside a "
                    "field; double quotes inside quoted fields.",
                    name=name,
                    line=line,
                )
            ) from None
        if any(field.strip() for field in row):
            yield line, [field.strip() for field in row]


def read_table(path: Path) -> Table:
    """Read a table whose first line names the columns.

    Parameters
    ----------
    path : of a CSV, its text in UTF-8 or as spreadsheets write it

    Returns
    -------
    The table with its columns and its rows of text.

    Raises
    ------
    BadInput
        If the file cannot be read, has no rows, or a line has not as many fields as the first.
    """
    rows = table_rows(file_text(path), path.name)
    header = next(rows, None)
    if header is None:
        raise BadInput(
            say("{path} is empty; its first line should name the columns.", path=path.name)
        )
    columns = header[1]
    for index, column in enumerate(columns, start=1):
        if not column:
            raise BadInput(
                say(
                    "{path}: column {index} has no name; name it in the first line.",
                    path=path.name,
                    index=index,
                )
            )
    found = []
    for line, fields in rows:
        if len(fields) != len(columns):
            raise BadInput(
                say(
                    "{path}, line {line}: {fields} fields where the first line names {columns} "
                    "columns; quote fields that contain the separator.",
                    path=path.name,
                    line=line,
                    fields=len(fields),
                    columns=len(columns),
                )
            )
        found.append(tuple(fields))
        if len(found) > MAX_ROWS:
            raise BadInput(
                say(
                    "{path} has more than {max_rows} rows; split the table.",
                    path=path.name,
                    max_rows=MAX_ROWS,
                )
            )
    if not found:
        raise BadInput(say("{path} names columns but has no rows.", path=path.name))
    try:
        return Table(file_name=path.name[-80:], columns=tuple(columns), rows=tuple(found))
    except ValidationError as error:
        raise BadInput(f"{path.name}: {sentence(error)}") from error


def read_measured(path: Path) -> Correction:
    """Read measured pockets from a table with the columns ``pocket``, ``x`` and ``y``, in mm.

    Parameters
    ----------
    path : of a CSV

    Returns
    -------
    The correction that follows from the measured pockets.

    Raises
    ------
    BadInput
        If the file cannot be read, lacks a column, or holds what is no figure.
    """
    table = read_table(path)
    names = [column.casefold() for column in table.columns]
    lacking = [name for name in ("pocket", "x", "y") if name not in names]
    if lacking:
        raise BadInput(
            say(
                "{path} has no column named {lacking}; it needs pocket, x and y.",
                path=path.name,
                lacking=lacking[0],
            )
        )
    pocket, x, y = (names.index(name) for name in ("pocket", "x", "y"))
    points = []
    for number, row in enumerate(table.rows, start=1):
        try:
            # A comma is a decimal comma where the fields are parted by something else.
            at = [float(row[i].replace(",", ".")) for i in (x, y)]
            points.append(Measured(pocket=int(row[pocket]), x=at[0], y=at[1]))
        except (ValueError, ValidationError):
            raise BadInput(
                say(
                    "{path}, row {number}: {row} is not a pocket and two figures in mm.",
                    path=path.name,
                    number=number,
                    row=", ".join(row),
                )
            ) from None
    try:
        return Correction(points=tuple(points))
    except ValidationError as error:
        raise BadInput(f"{path.name}: {sentence(error)}") from error
