"""The sample jobs."""

from __future__ import annotations

import tempfile
from pathlib import Path

from farbe.files.atomic import make_folder
from farbe.files.jobfile import SUFFIX, save_job
from farbe.files.store import ArtStore
from farbe.layout.pockets import centred_jig
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER, Choke
from farbe.model.piece import Circle, Piece, Reader, Surface
from farbe.model.receiver import Receiver
from farbe.samples.draw import DPI, lid_emblem, srgb_bytes
from farbe.samples.printers import FLATBED

OPEN_RECEIVER = Receiver(name="Open plates")


def lid_job(store: ArtStore) -> Job:
    """Jar lids in dark lacquered steel: white under the colour, raised varnish on top."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "heather-honey-lid.png"
        lid_emblem().save(path, dpi=(DPI, DPI), icc_profile=srgb_bytes())
        artwork = store.add_artwork(path)
    lid = Circle(diameter=70)
    jig = Jig(
        name="Lids 70, 7 × 3",
        board=Board(x=10, y=10, width=580, height=280),
        first_x=20,
        first_y=20,
        columns=7,
        rows=3,
        gap_x=10,
        gap_y=15,
    )
    return Job(
        name="Heather honey lids",
        piece=Piece(
            name="jar lid",
            shape=lid,
            height=9,
            relief=0.3,
            surface=Surface(colour="#1d3b31", name="steel, dark green"),
        ),
        reader=Reader.FACE,
        printer=FLATBED,
        artworks=(artwork.replace(width=66.0, height=66.0),),
        stack=(
            WHITE_UNDER.replace(treatments=(Choke(by=0.12),)),
            COLOUR,
            VARNISH_OVER.replace(hits=3, name="Raised varnish"),
        ),
        jig=centred_jig(jig, lid),
        receiver=OPEN_RECEIVER,
    )


SAMPLES = {"jar-lids": lid_job}


def write_samples(folder: Path, store: ArtStore) -> list[Path]:
    """Every sample job as a job file in a folder; the files.

    Raises
    ------
    BadInput
        If the folder cannot be written to.
    """
    make_folder(folder)
    paths = []
    for name, make in SAMPLES.items():
        path = folder / f"{name}{SUFFIX}"
        save_job(make(store), store, path)
        paths.append(path)
    return paths
