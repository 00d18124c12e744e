"""An edit of a jig with a thousand pockets: CPU until all is drawn, and how long the window waits.

``python benchmarks/pockets.py [same] [names] [different] [--profile]``; each of the thousand that
are ``different`` is surveyed first, which takes two minutes.
"""

from __future__ import annotations

import cProfile
import os
import pstats
import statistics
import sys
import tempfile
import time
from pathlib import Path

from inputs import drawn
from windows import Waits, opened, wait, worked

from farbe.desk.app import settle
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.model.piece import Rectangle
from farbe.model.text import Table, TextBox
from farbe.plan.stations import Station
from farbe.samples.jobs import lid_job

#: Pockets, and the side of a piece in mm.
COLUMNS, ROWS, SIDE = 40, 25, 10.0
EDITS = 9
#: Seconds until all thousand stand.
PATIENCE = 900.0


def job_with(which: str, store: ArtStore, folder: Path) -> Faced:
    """A thousand pockets that print the same, names, or each another picture."""
    plain = Faced(lid_job(store))
    count = COLUMNS * ROWS
    jig = plain.job.jig.replace(
        columns=COLUMNS, rows=ROWS, gap_x=2.0, gap_y=0.8, first_x=12.0, first_y=12.0,
        off=frozenset(), first_only=None, keep_outs=(),
    )  # fmt: skip
    job = plain.replace(
        jig=jig, changes=(), texts=(), table=None, bleed=0.0,
        piece=plain.job.piece.replace(shape=Rectangle(width=SIDE, height=SIDE), relief=0.0),
    )  # fmt: skip
    if which == "different":
        arts = [store.add_artwork(drawn(folder / f"{n}.png", n)) for n in range(count)]
        return job.replace(artworks=tuple(art.replace(quantity=1) for art in arts))
    art = store.add_artwork(drawn(folder / "one.png", 1)).replace(quantity=None)
    job = job.replace(artworks=(art,))
    if which == "names":
        rows = tuple((f"Name {number}",) for number in range(count))
        table = Table(file_name="names.csv", columns=("name",), rows=rows)
        job = job.replace(table=table, texts=(TextBox(text="{name}", width=9, height=3, size=1.5),))
    return job


def measured(which: str, profile: bool) -> None:
    with tempfile.TemporaryDirectory() as folder:
        window = opened(Path(folder))
        job = job_with(which, window.session.store, Path(folder))
        window.session.take(job.job, saved=True)
        settle(window, PATIENCE)
        window.visit(Station.BED)
        settle(window, PATIENCE)
        cpu, wall, waits = [], [], []
        seen = cProfile.Profile()
        for number in range(EDITS):
            watch = Waits()
            began, start = worked(), time.perf_counter()
            if profile:
                seen.enable()
            window.session.edit(
                "Gap", lambda j, n=number: j.replace(jig=j.jig.replace(gap_x=2.0 + 0.01 * n))
            )
            while window.workers.busy():
                wait(0.005)
            if profile:
                seen.disable()
            cpu.append(worked() - began)
            wall.append(time.perf_counter() - start)
            settle(window, PATIENCE)
            waits.append(max(watch.gaps, default=0.0))
            watch.end()
        print(
            f"{which:10} CPU {statistics.median(cpu):.2f} s, settled {statistics.median(wall):.2f}"
            f" s, window waits {statistics.median(waits) * 1000:.0f} ms at the most",
            flush=True,
        )
        if profile:
            pstats.Stats(seen).sort_stats("cumtime").print_stats(45)
        window.session.take(None)
        window.close()


if __name__ == "__main__":
    keep_freed()
    wanted = [word for word in sys.argv[1:] if not word.startswith("-")]
    for which_ in wanted or ["same", "names", "different"]:
        measured(which_, "--profile" in sys.argv)
    os._exit(0)
