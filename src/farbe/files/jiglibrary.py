"""Jigs that are kept: one JSON file each, in the user's library or wherever it is exported to."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Literal

from pydantic import ValidationError

from farbe.files.atomic import make_folder, whole_file
from farbe.model.base import BadInput, Margin, Value, sentence
from farbe.model.jig import Cutting, Guide, Jig
from farbe.model.job import Job
from farbe.model.piece import Shape

SUFFIX = ".jig.json"
MAX_BYTES = 4_000_000


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
    """Write a jig.

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    with whole_file(path) as file:
        document = kept.model_dump(mode="json")
        file.write(json.dumps(document, indent=1, ensure_ascii=False).encode("utf-8"))


def read_jig(path: Path) -> KeptJig:
    """Read a jig.

    Raises
    ------
    BadInput
        If the file is missing or holds no jig.
    """
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(f"{path.name} is too large to be a jig.")
        return KeptJig.model_validate_json(path.read_bytes())
    except OSError:
        raise BadInput(f"{path.name} cannot be read; choose the file again.") from None
    except ValidationError as error:
        raise BadInput(f"{path.name} holds no jig that can be used: {sentence(error)}") from error


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
