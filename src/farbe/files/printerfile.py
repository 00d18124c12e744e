"""Printers as JSON files, and the user's own ones in a folder."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Literal

from pydantic import ValidationError

from farbe.files.atomic import whole_file
from farbe.model.base import BadInput, Value, sentence
from farbe.model.printer import Printer

SUFFIX = ".printer.json"
MAX_BYTES = 1_000_000


class PrinterFile(Value):
    """A printer as a file."""

    format: Literal["farbe-printer"] = "farbe-printer"
    version: Literal[1] = 1
    printer: Printer


def write_printer(printer: Printer, path: Path) -> None:
    """Write a printer.

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    document = PrinterFile(printer=printer).model_dump(mode="json")
    with whole_file(path) as file:
        file.write(json.dumps(document, indent=1, ensure_ascii=False).encode("utf-8"))


def read_printer(path: Path) -> Printer:
    """Read a printer.

    Raises
    ------
    BadInput
        If the file is missing or holds no printer.
    """
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(f"{path.name} is too large to be a printer.")
        return PrinterFile.model_validate_json(path.read_bytes()).printer
    except OSError:
        raise BadInput(f"{path.name} cannot be read; choose the file again.") from None
    except ValidationError as error:
        raise BadInput(f"{path.name} holds no printer: {sentence(error)}") from error
