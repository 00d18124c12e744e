"""A figure that is changed in the window: when pictures follow, one edit at a time and dragged.

``python benchmarks/drag.py [SAMPLE ...]``: the choke of the white, a point of a tone curve of it,
and where the artwork lies. A drag, which is of the choke, makes an edit every so many milliseconds.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, QTimer
from windows import opened, sample, stolen, wait

from farbe.desk.app import settle
from farbe.desk.window import MainWindow
from farbe.edits.stack import with_choke, with_layer
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.model.layer import Layer, LayerKind
from farbe.model.treatment import Curve
from farbe.plan.stations import Station

NAMES = ("jar-labels", "jar-lids", "name-tags")
#: Edits that are made one after the other, milliseconds between those of a drag, and its seconds.
SINGLE, APART, LONG = 40, (8, 16, 33), 2.5
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
    return job.replace(placing=job.placing.replace(offset_x=MOVE * (1 + step % 40)))


EDITS = {"choke": choked, "curve": curved, "placement": moved}


def single(window: MainWindow, change: Callable[[Faced, int], Faced]) -> str:
    """Milliseconds from an edit to its coarse and to its fine picture: medians, and 95 %.

    Those in which others had the processors are left out, and counted.
    """
    first, fine, seen = list[float](), list[float](), list[tuple[float, bool]]()

    def note() -> None:
        preview = window.results.preview
        seen.append((time.perf_counter(), preview is not None and preview.coarse))

    window.results.preview_changed.connect(note)
    for step in range(SINGLE):
        settle(window)
        seen.clear()
        start, taken = time.perf_counter(), stolen()
        window.session.edit("Step", lambda job, step=step: change(job, step))
        while not any(not coarse for _, coarse in seen):
            wait(0.002)
        if stolen() > taken:
            continue
        first.append(seen[0][0] - start)
        fine.append(next(at for at, coarse in seen if not coarse) - start)
    window.results.preview_changed.disconnect(note)
    if not first:
        return f"others had the processors in all of {SINGLE} edits"
    told = (f"{1000 * np.median(of):.0f} ms, 95 % {1000 * np.percentile(of, 95):.0f}"
            for of in (first, fine))  # fmt: skip
    left_out = f" ({SINGLE - len(first)} of {SINGLE} left out)"
    return "first picture {}; settled {}".format(*told) + left_out


def dragged(window: MainWindow, apart: int) -> str:
    """How many edits and pictures there are in a drag."""
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
    return f"every {apart} ms: {edits[0] / LONG:.0f} edits, {shown[0] / LONG:.0f} pictures a second"


def main() -> None:
    keep_freed()
    with tempfile.TemporaryDirectory() as folder:
        window = opened(Path(folder))
        for name in sys.argv[1:] or NAMES:
            window.session.take(sample(name, window.session.store), saved=True)
            settle(window)
            window.visit(Station.LAYERS)
            for what, change in EDITS.items():
                print(f"{name:12} {what:10} {single(window, change)}", flush=True)
            for apart in APART:
                print(f"{name:12} {dragged(window, apart)}", flush=True)
        os._exit(0)


main()
