"""Rows for the fields of a value, by what is listed for its kind."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from PySide6.QtWidgets import QWidget

from farbe.desk.fields import ChoiceField, NumberField
from farbe.desk.form import Form
from farbe.desk.session import Session
from farbe.layout.faced import Faced
from farbe.model.base import Value
from farbe.said import inside


@dataclass(frozen=True)
class FigureRow:
    """A number of a value; where it may be None, ``none`` says so in words."""

    words: str
    field: str
    unit: str = "mm"
    step: float = 1.0
    digits: int = 2
    none: str = ""
    name: str = ""


@dataclass(frozen=True)
class Pick:
    """One of a closed list."""

    words: str
    field: str
    choices: tuple[tuple[Any, str], ...]


Listed = FigureRow | Pick


def add_rows(
    form: Form,
    session: Session,
    about: str,
    listed: Sequence[Listed],
    get: Callable[[Faced], Value | None],
    put: Callable[[Faced, Value], Faced],
) -> list[QWidget]:
    """Rows that show a value's fields and change them; two figures may share a row.

    Parameters
    ----------
    about : what the value is, for names that are heard and found
    get : the value in a job; None where it is not there just now
    put : the job with another value in its place
    """

    def bound(entry: Listed) -> tuple[Callable[[Faced], Any], Callable[[Faced, Any], Faced]]:
        def read(job: Faced) -> Any:
            value = get(job)
            found = getattr(value, entry.field, None)
            plain = isinstance(entry, FigureRow) and not entry.none
            return 0.0 if found is None and plain else found

        def write(job: Faced, new: Any) -> Faced:
            value = get(job)
            if value is None:
                return job
            return put(job, value.replace(**{entry.field: new}))

        return read, write

    made: list[QWidget] = []
    for entry in listed:
        name = f"{about}: {inside(entry.words)}" if not getattr(entry, "name", "") else entry.name  # type: ignore[union-attr]
        read, write = bound(entry)
        control: QWidget
        match entry:
            case FigureRow():
                control = NumberField(session, name, read, write, unit=entry.unit,
                                      step=entry.step, digits=entry.digits,
                                      none=entry.none)  # fmt: skip
            case Pick():
                control = ChoiceField(session, name, entry.choices, read, write)
        made.append(form.row(entry.words, control))
    return made
