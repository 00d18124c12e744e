"""Artworks read from files: for whoever shows them, who then finds their pixels read already."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image

from farbe.files.artfiles import artwork_files
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile, PageBox
from farbe.model.base import BadInput
from farbe.model.edit import Crop
from farbe.render.raster import Report
from farbe.separate.edit import trim_of

Taken = tuple[ArtworkFile, ...]


def added(given: Sequence[Path], store: ArtStore, report: Report) -> tuple[Taken, list[str]]:
    """Copy pictures in, and those in folders.

    Parameters
    ----------
    given : files and folders
    store : that keeps them
    report : is told how far it is

    Returns
    -------
    Those that could be read, in the order of their names, and why others could not.
    """
    files = artwork_files(given)
    found: list[ArtworkFile] = []
    refused: list[str] = []
    with closing(store.add_artworks(files)) as each:
        for one in each:
            if isinstance(one, BadInput):
                refused.append(str(one))
            else:
                found.append(one)
            report((len(found) + len(refused)) / len(files))
    return tuple(found), refused


def pasted(pixels: npt.NDArray[np.uint8], store: ArtStore, report: Report) -> ArtworkFile:
    """A picture from the clipboard as an artwork of the store.

    Parameters
    ----------
    pixels : straight RGBA, uint8 (h, w, 4)
    store : that keeps it
    report : is told how far it is
    """
    report(0.0)
    with tempfile.TemporaryDirectory(prefix="farbe-paste-") as folder:
        path = Path(folder) / "Pasted picture.png"
        # Written without a resolution: a screen's is not the picture's.
        Image.fromarray(pixels).save(path)
        return store.add_artwork(path)


def at_pages(
    file: ArtworkFile,
    pages: Sequence[int],
    box: PageBox | None,
    job: Faced,
    store: ArtStore,
    report: Report,
) -> Taken:
    """An artwork from other pages of its file, or another box of them.

    Parameters
    ----------
    file : that was added
    pages : from 1
    box : of a PDF page; None is the one that it has
    job : that has it
    store : that keeps it
    report : is told how far it is

    Raises
    ------
    BadInput
        If there is no such page.
    """
    found = []
    for done, page in enumerate(pages):
        report(done / len(pages))
        found.append(store.at_page(file, page, box, job))
    return tuple(found)


def trimmed(file: ArtworkFile, job: Faced, store: ArtStore, report: Report) -> Crop | None:
    """The crop that leaves what is drawn of an artwork; None if there is nothing to trim.

    Parameters
    ----------
    file : as the job knows it
    job : that has it
    store : that keeps it
    report : is told how far it is

    Raises
    ------
    BadInput
        If its file cannot be read.
    """
    report(0.0)
    return trim_of(store.artwork(file, job), file)
