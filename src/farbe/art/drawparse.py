"""What a helper does with drawings for :mod:`farbe.art.drawing`."""

from __future__ import annotations

import subprocess
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pikepdf
import pypdfium2

from farbe.art.drawing import is_encapsulated
from farbe.art.pdf.parse import parse_pdf
from farbe.art.svgparse import parse_svg
from farbe.art.wanted import Wanted
from farbe.model.base import BadInput
from farbe.said import say

MAX_BYTES = 400_000_000
#: What the readers raise on malformed drawings.
DAMAGE = (
    OSError, ValueError, TypeError, KeyError, IndexError, AttributeError, SyntaxError,
    ArithmeticError, RecursionError, RuntimeError, ElementTree.ParseError,
    pikepdf.PdfError, pypdfium2.PdfiumError, subprocess.SubprocessError,
)  # fmt: skip


def parse(path: Path, folder: Path, wanted: Wanted) -> dict[str, Any]:
    """What :func:`farbe.art.drawing.read_drawing` does, in this process, without limits.

    Parameters
    ----------
    path : the file
    folder : where planes are put, and the printer's profile is
    wanted : of the file

    Returns
    -------
    What to say of the planes, or why the file is refused.

    Raises
    ------
    BadInput
        If the drawing cannot be read.
    """
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(say("{path} is larger than 400 MB; export it smaller.", path=path.name))
        with path.open("rb") as file:
            start = file.read(1024)
        if b"%PDF-" in start or is_encapsulated(start):
            return parse_pdf(path, folder, wanted)
        return parse_svg(path, folder, wanted.groups)
    except BadInput as refusal:
        return {"refused": str(refusal)}
    except pikepdf.PasswordError:
        return {
            "refused": say(
                "{path} is locked with a password; ask for it without one.", path=path.name
            )
        }
    except MemoryError:
        return {
            "refused": say(
                "{path} takes too much memory to read; export it smaller.", path=path.name
            )
        }
    except DAMAGE:
        return {
            "refused": say("{path} is damaged or is no drawing; export it again.", path=path.name)
        }


def answer_to(path: Path, folder: Path, words: str) -> dict[str, Any]:
    """What a helper answers.

    Parameters
    ----------
    path : the file
    folder : where planes are put, and the printer's profile is
    words : what is wanted, as :meth:`Wanted.words` has it
    """
    return parse(path, folder, Wanted.read(words, folder))
