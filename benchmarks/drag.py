"""A figure that is changed in the window: when pictures follow, one edit at a time and dragged.

``python benchmarks/drag.py [SAMPLE ...] [--write]``: the choke of the white, a point of a tone
curve of it, and where the artwork lies. A drag, which is of the choke, makes an edit every so many
milliseconds. ``--write`` puts what was found into ``docs/performance.md``.
"""

from __future__ import annotations

import argparse
import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QEventLoop, Qt, QTimer
from tables import table, write_tables
from windows import opened, sample, stolen, wait

from farbe.desk.app import settle
from farbe.desk.window import MainWindow
from farbe.edits.stack import with_choke, with_layer
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.model.job import Job
from farbe.model.layer import Layer, LayerKind
from farbe.model.treatment import Curve
from farbe.plan.stations import Station

NAMES = ("jar-labels", "jar-lids", "name-tags")
#: Edits that are made one after the other, milliseconds between those of a drag, and its seconds.
SINGLE, APART, LONG = 30, (8, 16, 33), 2.5
#: What a key, the wheel and a drag change a field's figure by: mm of a choke, mm of an offset; and
#: percent by which a point of a curve moves.
STEP, MOVE, PERCENT = 0.01, 0.1, 1.0


def of_white(job: Faced, change: Callable[[Layer], Layer]) -> Faced:
    """The job with its first white changed."""
    white = next(layer for layer in job.stack if layer.kind is LayerKind.WHITE)
    return with_layer(job, white.name, change)


def choked(job: Faced, step: int) -> Faced:
    """The job with another choke of its white."""
    return of_white(job, lambda white: with_choke(white, 0.05 + STEP * (step % 40)))


def curved(job: Faced, step: int) -> Faced:
    """The job with another tone curve of its white, after what else is done to it."""

    def change(white: Layer) -> Layer:
        others = tuple(one for one in white.treatments if not isinstance(one, Curve))
        middle = (50.0, 50.0 + PERCENT * (step % 40))
        curve = Curve(points=((0.0, 0.0), middle, (100.0, 100.0)))
        return white.replace(treatments=(*others, curve))

    return of_white(job, change)


def moved(job: Faced, step: int) -> Faced:
    """The job with its artwork elsewhere on the piece."""
    right, up = MOVE * (1 + step % 40), MOVE * (step // 2 % 20)
    return job.replace(placing=job.placing.replace(offset_x=right, offset_y=up))


EDITS = {"choke": choked, "curve": curved, "placement": moved}


def single(window: MainWindow, change: Callable[[Faced, int], Faced]) -> list[str]:
    """Milliseconds from an edit to its first and to its settled picture: medians, and 95 %.

    Those in which others had the processors are left out; how many were not is told last.
    """
    first, fine, seen = list[float](), list[float](), list[tuple[float, bool]]()
    there = QEventLoop()

    def note() -> None:
        preview = window.results.preview
        seen.append((time.perf_counter(), preview is not None and preview.coarse))
        if not seen[-1][1]:
            # The window waits as it does for anybody, without being asked now and then.
            there.quit()

    window.results.preview_changed.connect(note)
    for step in range(SINGLE):
        settle(window)
        seen.clear()
        start, taken = time.perf_counter(), stolen()
        window.session.edit("Step", lambda job, step=step: change(job, step))
        if not any(not coarse for _, coarse in seen):
            there.exec()
        if stolen() > taken:
            continue
        first.append(seen[0][0] - start)
        fine.append(next(at for at, coarse in seen if not coarse) - start)
    window.results.preview_changed.disconnect(note)
    told = [
        f"{1000 * np.percentile(of, share):.0f}" if of else ""
        for of in (first, fine) for share in (50, 95)
    ]  # fmt: skip
    return [*told, f"{len(fine)} of {SINGLE}"]


def dragged(window: MainWindow, apart: int) -> list[str]:
    """How many edits and pictures there are in a second of a drag."""
    settle(window)
    edits, shown = [0], [0]

    def move() -> None:
        edits[0] += 1
        window.session.edit("Choke", lambda job: choked(job, edits[0]), joins=True)

    def note() -> None:
        shown[0] += 1

    window.results.preview_changed.connect(note)
    mouse = QTimer(interval=apart)
    mouse.setTimerType(Qt.TimerType.PreciseTimer)
    mouse.timeout.connect(move)
    mouse.start()
    wait(LONG)
    mouse.stop()
    window.results.preview_changed.disconnect(note)
    return [f"{edits[0] / LONG:.0f}", f"{shown[0] / LONG:.0f}"]


def shown(window: MainWindow, job: Job) -> None:
    """Open a job at Layers."""
    window.session.take(job, saved=True)
    settle(window)
    window.visit(Station.LAYERS)
    settle(window)


def measured(names: list[str], folder: Path) -> tuple[str, str]:
    """Tables of single edits, and of drags."""
    window, singles, drags = opened(folder), list[list[str]](), list[list[str]]()
    for name in names:
        job = sample(name, window.session.store)
        for what, change in EDITS.items():
            # Each of the sample as it comes.
            shown(window, job)
            singles.append([name, what, *single(window, change)])
            print(*singles[-1], flush=True)
        for apart in APART:
            shown(window, job)
            drags.append([name, str(apart), *dragged(window, apart)])
            print(*drags[-1], flush=True)
    heads = ["sample", "edit", "first, ms", "95 %", "settled, ms", "95 %", "edits"]
    return (
        table(heads, singles),
        table(["sample", "an edit every so many ms", "edits a second", "pictures a second"], drags),
    )


def main() -> None:
    told = argparse.ArgumentParser(description=__doc__)
    told.add_argument("samples", nargs="*", default=NAMES)
    told.add_argument("--write", action="store_true")
    asked = told.parse_args()
    keep_freed()
    with tempfile.TemporaryDirectory() as folder:
        made = measured(asked.samples, Path(folder))
    if asked.write:
        docs = Path(__file__).parents[1] / "docs" / "performance.md"
        write_tables(docs, {"drag": "\n\n".join(made)})
    os._exit(0)


main()
