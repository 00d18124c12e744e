"""A bed by Farbe: ``work_farbe.py bed|different CODEC OUT [FACTOR|plain]``.

The factor is that of the bed's sides; a plain choke spares no fine strokes.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from inputs import WORK, different

from farbe.files.store import ArtStore
from farbe.files.tiff import write_tiff
from farbe.layout.faced import Faced
from farbe.layout.pockets import centred_jig
from farbe.memory import keep_freed
from farbe.model.artwork import ArtworkFile
from farbe.model.face import Face
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.piece import Circle, Piece
from farbe.model.placing import PocketChange
from farbe.model.printer import Printer
from farbe.model.receiver import Compression, Receiver
from farbe.render.bed import job_bed

#: 12 x 8 lids; the bed has 1.6 Gpx at 600 x 600 dpi.
COLUMNS, ROWS, BED = 12, 8, (2050.0, 1395.0)


def lid_bed(store: ArtStore, artwork: ArtworkFile, factor: float) -> Faced:
    """Lids on a bed ``factor`` times as wide and as long, with as many more pockets."""
    times = round(factor)
    shape = Circle(diameter=70)
    width, height = BED[0] * times, BED[1] * times
    jig = Jig(
        name="Bench", board=Board(width=width, height=height), first_x=0, first_y=0,
        columns=COLUMNS * times, rows=ROWS * times, gap_x=80, gap_y=80,
    )  # fmt: skip
    made = Job(
        name="Bench",
        piece=Piece(name="lid", shape=shape),
        printer=Printer(name="Bench", bed_width=width, bed_height=height, max_piece_height=10),
        faces=(
            Face(
                artworks=(artwork.replace(width=70, height=70),),
                stack=(WHITE_UNDER, COLOUR, VARNISH_OVER),
            ),
        ),
        jig=centred_jig(jig, shape),
        receiver=Receiver(name="Bench"),
    )
    return Faced(made)


def different_bed(store: ArtStore) -> Faced:
    """The same bed with 96 artworks, each turned and shifted."""
    files = [file for file in store.add_artworks(different()) if isinstance(file, ArtworkFile)]
    artworks = tuple(file.replace(width=64.0, height=64.0, quantity=1) for file in files)
    changes = tuple(
        PocketChange(pocket=number + 1, rotation=3.0 + number, offset_x=0.013 * number)
        for number in range(len(files))
    )
    return lid_bed(store, artworks[0], 1.0).replace(artworks=artworks, changes=changes)


def main() -> None:
    what, codec, out = sys.argv[1:4]
    keep_freed()
    compression = Compression(codec)
    with tempfile.TemporaryDirectory() as folder:
        store = ArtStore(Path(folder))
        if what == "different":
            job = different_bed(store)
        else:
            artwork = store.add_artwork(WORK / "emblem.png")
            job = lid_bed(store, artwork, float(sys.argv[4]) if len(sys.argv) > 4 else 1.0)
        if "plain" in sys.argv:
            job = job.replace(stack=tuple(layer.sparing(0.0) for layer in job.stack))
        write_tiff(job_bed(job, store), Path(out), compression=compression)


if __name__ == "__main__":
    main()
