"""Work that grows: ``work_growing.py pockets|artworks|queue|roll CODEC OUT TIMES``.

It is so many pockets with a name in each, different artworks, jobs that wait, or transfers on a
film.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from inputs import drawn

from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.edits.consequences import settled
from farbe.files.store import ArtStore
from farbe.files.tiff import write_tiff
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.model.artwork import ArtworkFile
from farbe.model.piece import Rectangle
from farbe.model.receiver import Compression
from farbe.model.text import Table, TextBox
from farbe.plan.newjob import job_from_recipe
from farbe.plan.recipes import recipe
from farbe.queue.states import State
from farbe.queue.store import Added, Queue
from farbe.render.bed import job_bed
from farbe.samples.jobs import SAMPLES

#: What there is of each once; columns of the first two.
POCKETS, COLUMNS, JOBS, COPIES = 25, 25, 250, 2
#: Mm of a piece, and between two.
SIDE, GAP = 10.0, 2.0


def bed_of(artworks: tuple[ArtworkFile, ...], pockets: int) -> Faced:
    """Small pieces in rows of 25 on a bed as long as they want."""
    plain = Faced(job_from_recipe(recipe("dark opaque piece")))
    rows = -(-pockets // COLUMNS)
    width, length = (count * (SIDE + GAP) + 20 for count in (COLUMNS, rows))
    jig = plain.jig.replace(
        columns=COLUMNS, rows=rows, gap_x=GAP, gap_y=GAP, first_x=12.0, first_y=12.0,
        off=frozenset(), first_only=None, keep_outs=(),
        board=plain.jig.board.replace(width=width, height=length),
    )  # fmt: skip
    return plain.replace(
        jig=jig, changes=(), texts=(), table=None, bleed=0.0, artworks=artworks,
        printer=plain.printer.replace(bed_width=width + 20, bed_height=length + 20),
        piece=plain.piece.replace(shape=Rectangle(width=SIDE, height=SIDE), relief=0.0),
    )  # fmt: skip


def checked_and_written(job: Faced, store: ArtStore, out: Path) -> None:
    """All that is found of a job, and its bed."""
    run_checks(Facts(job, store))
    write_tiff(job_bed(job, store), out, compression=Compression(sys.argv[2]))


def pockets(times: int, folder: Path, out: Path) -> None:
    store, count = ArtStore(folder / "store"), POCKETS * times
    art = store.add_artwork(drawn(folder / "one.png", 1)).replace(quantity=None)
    rows = tuple((f"Name {number}",) for number in range(count))
    table = Table(file_name="names.csv", columns=("name",), rows=rows)
    named = TextBox(text="{name}", width=9, height=3, size=1.5)
    job = bed_of((art,), count).replace(table=table, texts=(named,))
    checked_and_written(job, store, out)


def artworks(times: int, folder: Path, out: Path) -> None:
    store = ArtStore(folder / "store")
    files = [drawn(folder / f"{number}.png", number) for number in range(POCKETS * times)]
    arts = tuple(one for one in store.add_artworks(files) if isinstance(one, ArtworkFile))
    job = bed_of(tuple(art.replace(quantity=1) for art in arts), len(arts))
    checked_and_written(job, store, out)


def queue(times: int, folder: Path, out: Path) -> None:
    line = Queue(folder)
    numbers = line.add_all([Added(f"Job {at}", f"{at:08x}") for at in range(JOBS * times)])
    line.each(numbers[::10], line.hold)
    held = [entry for entry in line.entries() if entry.state is State.HELD]
    out.write_text(f"{len(held)} of {len(numbers)}\n")


def roll(times: int, folder: Path, out: Path) -> None:
    store = ArtStore(folder / "store")
    job = Faced(SAMPLES["apron-gang"](store))
    more = tuple(art.replace(quantity=COPIES * times) for art in job.artworks)
    laid = settled(job.replace(artworks=more), store)
    out.write_text(f"{len(laid.roll.places if laid.roll else ())}\n")


WORK = {one.__name__: one for one in (pockets, artworks, queue, roll)}


def main() -> None:
    what, out, times = sys.argv[1], *sys.argv[3:5]
    keep_freed()
    with tempfile.TemporaryDirectory() as folder:
        WORK[what](int(times), Path(folder), Path(out))


if __name__ == "__main__":
    main()
