"""Small JSON files that hold one value: kept jigs, printers."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TypeVar

from pydantic import ValidationError

from farbe.files.atomic import whole_file
from farbe.model.base import BadInput, Value, sentence

MAX_BYTES = 4_000_000
Held = TypeVar("Held", bound=Value)


def write_document(value: Value, path: Path) -> None:
    """Write a value as JSON.

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    with whole_file(path) as file:
        document = value.model_dump(mode="json")
        file.write(json.dumps(document, indent=1, ensure_ascii=False).encode("utf-8"))


def read_document(path: Path, kind: type[Held], what: str) -> Held:
    """Read a value of a kind; ``what`` names it for the user.

    Raises
    ------
    BadInput
        If the file is missing, too large, or holds no such value.
    """
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(f"{path.name} is too large to be a {what}.")
        return kind.model_validate_json(path.read_bytes())
    except OSError:
        raise BadInput(f"{path.name} cannot be read; choose the file again.") from None
    except ValidationError as error:
        raise BadInput(f"{path.name} holds no {what}: {sentence(error)}") from error
