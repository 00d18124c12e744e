"""Places of pockets from tables: a CSV file, or what a spreadsheet copies."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from pydantic import ValidationError

from farbe.files.table import file_text, table_rows
from farbe.model.base import BadInput, sentence
from farbe.model.jig import MAX_POCKETS, Place
from farbe.said import say

#: What the columns may be called, in whatever case.
NAMES = {
    "pocket": ("pocket", "number", "no", "nr", "aufnahme", "nummer"),
    "x": ("x", "x mm", "x (mm)", "x [mm]"),
    "y": ("y", "y mm", "y (mm)", "y [mm]"),
    "turn": ("turn", "turned", "angle", "rotation", "winkel", "drehung", "gedreht"),
}
#: Columns of a table that names none, by how many it has.
_UNNAMED = {2: ("x", "y"), 3: ("x", "y", "turn"), 4: ("pocket", "x", "y", "turn")}


def read_places(path: Path) -> tuple[Place, ...]:
    """The places of a table file.

    Parameters
    ----------
    path : of a CSV

    Returns
    -------
    See :func:`places_of_text`.

    Raises
    ------
    BadInput
        If the file cannot be read, or as :func:`places_of_text` does.
    """
    return places_of_text(file_text(path), path.name)


def places_of_text(text: str, name: str) -> tuple[Place, ...]:
    """Places of pockets from rows of x, y and turn; the first line may name the columns.

    Without names there are x and y, then the turn, or the pocket's number before all of them. A
    comma is a decimal comma where the fields are parted by something else.

    Parameters
    ----------
    text : rows, their fields parted by tabs, semicolons or commas; mm from the datum and degrees
    name : what it is called in sentences

    Returns
    -------
    In the order of their numbers, if they have any, else of the rows.

    Raises
    ------
    BadInput
        If a column lacks or a row is not of figures.
    """
    rows = list(table_rows(text, name))
    if not rows:
        raise BadInput(say("{name} holds no row of x and y.", name=name))
    columns = _columns(rows[0][1], name)
    named = _figure(rows[0][1][columns["x"]]) is None
    found: list[tuple[float, Place]] = []
    for order, (line, fields) in enumerate(rows[1:] if named else rows):
        given = {what: _figure(fields[at]) if at < len(fields) else None
                 for what, at in columns.items()}  # fmt: skip
        x, y = given["x"], given["y"]
        turn = given.get("turn") if "turn" in columns else 0.0
        number = given.get("pocket") if "pocket" in columns else float(order)
        if x is None or y is None or number is None or (turn is None and _has(fields, columns)):
            raise BadInput(
                say(
                    "{name}, line {line}: {row} is not x and y in mm, and a turn in degrees.",
                    name=name,
                    line=line,
                    row=", ".join(fields),
                )
            )
        try:
            found.append((number, Place(x=x, y=y, turn=(turn or 0.0) % 360.0)))
        except ValidationError as error:
            raise BadInput(
                say("{name}, line {line}: {why}", name=name, line=line, why=sentence(error))
            ) from error
    if len(found) > MAX_POCKETS:
        raise BadInput(
            say("{name} has more than {most} rows; split it.", name=name, most=MAX_POCKETS)
        )
    _check_numbers([number for number, _ in found], name)
    return tuple(place for _, place in sorted(found, key=lambda one: one[0]))


def _has(fields: Sequence[str], columns: dict[str, int]) -> bool:
    """Whether a row says something of its turn; an empty field is no turn."""
    at = columns.get("turn", len(fields))
    return at < len(fields) and bool(fields[at])


def _check_numbers(numbers: list[float], name: str) -> None:
    twice = next((one for one, times in Counter(numbers).items() if times > 1), None)
    if twice is not None:
        raise BadInput(say("{name} has pocket {pocket} twice.", name=name, pocket=f"{twice:g}"))


def _columns(first: Sequence[str], name: str) -> dict[str, int]:
    """Which column is what, by the first line."""
    if all(_figure(field) is not None for field in first if field):
        there = _UNNAMED.get(len(first))
        if there is None:
            raise BadInput(say("{name} needs two to four columns: x, y and a turn.", name=name))
        return {what: at for at, what in enumerate(there)}
    words = [field.casefold().strip() for field in first]
    found = {
        what: words.index(word) for what, names in NAMES.items() for word in names if word in words
    }
    lacking = next((what for what in ("x", "y") if what not in found), None)
    if lacking is not None:
        raise BadInput(
            say(
                "{name} has no column named {lacking}; it needs x and y, and may have turn.",
                name=name,
                lacking=lacking,
            )
        )
    return found


def _figure(field: str) -> float | None:
    """A figure with a point or a comma; None for anything else."""
    plain = field.strip().removesuffix("mm").removesuffix("°").strip()
    if "," in plain and "." in plain:
        thousands = "," if plain.rfind(".") > plain.rfind(",") else "."
        plain = plain.replace(thousands, "")
    try:
        value = float(plain.replace(",", "."))
    except ValueError:
        return None
    return value if abs(value) < float("inf") else None
