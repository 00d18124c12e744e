"""A choke that is changed in the window: when pictures follow, one edit at a time and dragged.

``python benchmarks/drag.py [SAMPLE ...]``; a drag makes an edit every so many milliseconds.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, QTimer
from windows import opened, sample, stolen, wait

from farbe.desk.app import settle
from farbe.desk.window import MainWindow
from farbe.edits.stack import with_choke
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.model.layer import LayerKind
from farbe.plan.stations import Station

NAMES = ("jar-labels", "jar-lids", "name-tags")
#: Edits that are made one after the other, milliseconds between those of a drag, and its seconds.
SINGLE, APART, LONG = 40, (8, 16, 33), 2.5
#: Mm between chokes: what a key, the wheel and a drag change the field's figure by.
STEP = 0.01


def choked(job: Faced, step: int) -> Faced:
    """The job with another choke of its white."""
    at = next(i for i, layer in enumerate(job.stack) if layer.kind is LayerKind.WHITE)
    layer = with_choke(job.stack[at], 0.05 + STEP * (step % 40))
    return job.replace(stack=(*job.stack[:at], layer, *job.stack[at + 1 :]))


def single(window: MainWindow) -> str:
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
        window.session.edit("Choke", lambda job, step=step: choked(job, step))
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
            print(f"{name:12} {single(window)}", flush=True)
            for apart in APART:
                print(f"{name:12} {dragged(window, apart)}", flush=True)
        os._exit(0)


main()
