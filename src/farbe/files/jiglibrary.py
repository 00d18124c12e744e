"""Jigs that are kept: one JSON file each, in the user's library or wherever it is exported to."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Literal

from farbe.files.atomic import make_folder
from farbe.files.document import read_document, write_document
from farbe.model.base import BadInput, Margin, Value
from farbe.model.jig import Cutting, Guide, Jig
from farbe.model.job import Job
from farbe.model.piece import Shape

SUFFIX = ".jig.json"


class KeptJig(Value):
    """All that a board with its pockets is: the same pieces go into it, whatever is printed."""

    format: Literal["farbe-jig"] = "farbe-jig"
    version: Literal[1] = 1
    jig: Jig
    shape: Shape
    height: Margin
    bed_turned: bool = False
    guide: Guide
    cutting: Cutting


def kept_from(job: Job) -> KeptJig:
    """The jig of a job."""
    return KeptJig(
        jig=job.jig,
        shape=job.piece.shape,
        height=job.piece.height,
        bed_turned=job.bed_turned,
        guide=job.guide,
        cutting=job.cutting,
    )


def with_kept(job: Job, kept: KeptJig) -> Job:
    """A job on a kept jig; its artwork, layers and surface stay.

    Raises
    ------
    BadInput
        If the job cannot have it.
    """
    return job.replace(
        jig=kept.jig,
        piece=job.piece.replace(shape=kept.shape, height=kept.height),
        bed_turned=kept.bed_turned,
        guide=kept.guide,
        cutting=kept.cutting,
    )


def write_jig(kept: KeptJig, path: Path) -> None:
    """Write a jig; BadInput if it cannot be written."""
    write_document(kept, path)


def read_jig(path: Path) -> KeptJig:
    """Read a jig; BadInput if the file is missing or holds none."""
    return read_document(path, KeptJig, "jig")


def library_path(folder: Path, name: str) -> Path:
    """Where a jig of this name is kept; names that differ in letters and figures differ."""
    plain = re.sub(r"[^\w]+", "-", name.casefold()).strip("-") or "jig"
    return folder / f"{plain[:60]}{SUFFIX}"


def keep(kept: KeptJig, folder: Path) -> Path:
    """Put a jig into a library; one of the same name is replaced."""
    make_folder(folder)
    path = library_path(folder, kept.jig.name)
    write_jig(kept, path)
    return path


def library(folder: Path) -> tuple[tuple[KeptJig, ...], tuple[str, ...]]:
    """All jigs of a library by name, and the names of files in it that hold none."""
    found, unusable = [], []
    for path in sorted(folder.glob(f"*{SUFFIX}")) if folder.is_dir() else ():
        try:
            found.append(read_jig(path))
        except BadInput:
            # One bad file must not keep the others away; its name is shown instead.
            unusable.append(path.name)
    return tuple(found), tuple(unusable)
