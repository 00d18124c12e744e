"""Printers as JSON files."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from farbe.files.document import read_document
from farbe.model.base import Value
from farbe.model.printer import Printer
from farbe.said import shipped

SUFFIX = ".printer.json"


class PrinterFile(Value):
    """A printer as a file."""

    format: Literal["farbe-printer"] = "farbe-printer"
    version: Literal[1] = 1
    printer: Printer


def read_printer(path: Path) -> Printer:
    """Read a printer; BadInput if the file is missing or holds none.

    Parameters
    ----------
    path : of the file

    Returns
    -------
    The printer that the file describes.

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    return read_document(path, PrinterFile, shipped("printer")).printer
