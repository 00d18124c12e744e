"""Small JSON files that hold one value: kept jigs, printers."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from pydantic import ValidationError

from farbe.atomic import check_regular, make_folder, whole_file
from farbe.model.base import BadInput, Value, sentence
from farbe.said import say

MAX_BYTES = 4_000_000
#: Letters of a name that its file keeps.
_NAME_LENGTH = 60
Held = TypeVar("Held", bound=Value)


def write_document(value: Value, path: Path) -> None:
    """Write a value as JSON.

    Parameters
    ----------
    value : any of the kept kinds
    path : of the new file

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    with whole_file(path) as file:
        document = value.model_dump(mode="json")
        file.write(json.dumps(document, indent=1, ensure_ascii=False).encode("utf-8"))


def read_document(path: Path, kind: type[Held], what: str, *, most: int = MAX_BYTES) -> Held:
    """Read a value of a kind; ``what`` names it for the user.

    Parameters
    ----------
    path : of the file
    kind : of value that it should hold
    what : what the user calls it
    most : bytes of a file that is read

    Returns
    -------
    The value that the file holds.

    Raises
    ------
    BadInput
        If the file is missing, too large, or holds no such value.
    """
    check_regular(path, f"a {what}")
    try:
        if path.stat().st_size > most:
            raise BadInput(say("{path} is too large to be a {what}.", path=path.name, what=what))
        return kind.model_validate_json(path.read_bytes())
    except OSError:
        raise BadInput(
            say("{path} cannot be read; choose the file again.", path=path.name)
        ) from None
    except RecursionError as error:
        raise BadInput(say("{path} holds no {what}.", path=path.name, what=what)) from error
    except ValidationError as error:
        raise BadInput(
            say("{path} holds no {what}: {error}", path=path.name, what=what, error=sentence(error))
        ) from error


def library_path(folder: Path, name: str, suffix: str) -> Path:
    """Where a thing of this name is kept; names that differ in letters and figures differ.

    Parameters
    ----------
    folder : of the library
    name : as people know it
    suffix : of the file, with its dot
    """
    plain = re.sub(r"[^\w]+", "-", name.casefold()).strip("-") or "unnamed"
    return folder / f"{plain[:_NAME_LENGTH]}{suffix}"


def keep(value: Value, name: str, folder: Path, suffix: str) -> Path:
    """Put a value into a library of the user's; one of the same name is replaced.

    Parameters
    ----------
    value : any of the kept kinds
    name : under which it is kept
    folder : of the library
    suffix : of its files

    Returns
    -------
    The file that it was written to.

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    make_folder(folder)
    path = library_path(folder, name, suffix)
    write_document(value, path)
    return path


def library(
    folder: Path, suffix: str, read: Callable[[Path], Held]
) -> tuple[tuple[Held, ...], tuple[str, ...]]:
    """All values of a library by name, and the names of files in it that hold none.

    Parameters
    ----------
    folder : of the library
    suffix : of the file, with its dot
    read : makes a value of a file
    """
    found, unusable = [], []
    for path in sorted(folder.glob(f"*{suffix}")) if folder.is_dir() else ():
        try:
            found.append(read(path))
        except BadInput:
            # One bad file must not keep the others away; its name is shown instead.
            unusable.append(path.name)
    return tuple(found), tuple(unusable)
