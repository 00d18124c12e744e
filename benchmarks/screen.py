"""What the screen waits for: a changed choke, and the start of a window."""

from __future__ import annotations

import itertools
import math
import os
import random
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import rectpack
from PIL import Image

from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.packboxes import pack_boxes
from farbe.layout.packing import Strip, pack_shapes
from farbe.memory import keep_freed
from farbe.model.layer import BLACKOUT, COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.piece import Rectangle
from farbe.optics.view import View, seen_as
from farbe.render.glimpse import glimpse
from farbe.samples.draw import lid_emblem
from farbe.samples.jobs import lid_job
from farbe.separate.choke import choke
from farbe.separate.grid import Grid

START = """
import sys, tempfile
from pathlib import Path
from farbe.desk.app import make_app
from farbe.desk.preferences import Preferences
from farbe.desk.theme import LIGHT, use_theme
from farbe.desk.window import MainWindow
from farbe.files.store import ArtStore
app = make_app()
use_theme(app, LIGHT)
window = MainWindow(ArtStore(Path(tempfile.mkdtemp())), Preferences())
window.show()
app.processEvents()
"""


def choked() -> None:
    """The white plate at 2000 x 1600 after the choke changed, at 720 dpi."""
    alpha = np.asarray(lid_emblem().resize((2000, 1600)))[..., 3].copy()
    times = []
    for step in range(60):
        start = time.perf_counter()
        choke(alpha, 0.05 + step * 0.002, Grid(720, 720))
        times.append((time.perf_counter() - start) * 1000)
    times.sort()
    print(f"choke at 2000 x 1600: median {statistics.median(times):.1f} ms, p95 {times[57]:.1f} ms")


def proofed() -> None:
    """The look of five layers at 2000 x 1600: of drawn artwork, and of a photograph over all."""
    clouds = [np.random.default_rng(i).integers(0, 256, (40, 50), np.uint8) for i in range(3)]
    photo = cv2.resize(cv2.merge(clouds), (2000, 1600), interpolation=cv2.INTER_CUBIC)
    whites = (WHITE_UNDER.replace(treatments=()), WHITE_UNDER.replace(name="White 2"))
    layers = (*whites, BLACKOUT, COLOUR, VARNISH_OVER)
    with tempfile.TemporaryDirectory() as folder:
        store = ArtStore(Path(folder))
        plain = Faced(lid_job(store))
        for name, picture in (("drawn", lid_emblem()), ("photograph", Image.fromarray(photo))):
            picture.resize((2000, 1600)).save(Path(folder) / f"{name}.png", dpi=(508, 508))
            artwork = store.add_artwork(Path(folder) / f"{name}.png").replace(
                width=100.0, height=80.0
            )
            job = plain.replace(
                artworks=(artwork,), stack=layers,
                piece=plain.piece.replace(shape=Rectangle(width=100, height=80)))  # fmt: skip
            part = glimpse(job, store, Grid(508, 508))
            taken = [_seconds(lambda part=part: seen_as(part, View()).by(0.0)) for _ in range(9)]
            size = f"{part.plates[0].shape[1]} x {part.plates[0].shape[0]}"
            print(f"proof of five layers, {size}, {name}: median {statistics.median(taken):.3f} s")


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def nested() -> None:
    """200 different artworks on film of 600 mm, against each of a set of packers."""
    random.seed(7)
    sizes = [(random.uniform(40, 160), random.uniform(40, 160)) for _ in range(200)]
    film, gap = Strip(590, 30_000, 4, turning=True), 400
    start = time.perf_counter()
    spots = pack_boxes(sizes, film)
    taken = time.perf_counter() - start
    own = max(s.y + sizes[s.item][0 if s.turned % 180 else 1] / 2 for s in spots)
    best = math.inf
    for algorithm, sort in itertools.product(
        (rectpack.MaxRectsBl, rectpack.SkylineBl, rectpack.SkylineBlWm, rectpack.MaxRectsBaf),
        (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_PERI),
    ):
        packer = rectpack.newPacker(pack_algo=algorithm, sort_algo=sort, rotation=True)
        packer.add_bin(59_000 + gap, 3_000_000)
        for wide, high in sizes:
            packer.add_rect(math.ceil(wide * 100) + gap, math.ceil(high * 100) + gap)
        packer.pack()
        if len(packer.rect_list()) == len(sizes):
            length = (max(y + h for _, _, y, _, h, _ in packer.rect_list()) - gap) / 100
            best = min(best, length)
    print(f"200 rectangles on film: {taken:.2f} s, film {own / best:.3f} of the best packer's")
    y, x = np.mgrid[0:100, 0:100] + 0.5
    masks = [
        np.asarray(cv2.resize(((x + y < 100) | (y > 70)).astype(np.uint8), (int(w), int(h)),
                              interpolation=cv2.INTER_NEAREST), bool)
        for w, h in sizes
    ]  # fmt: skip
    start = time.perf_counter()
    spots = pack_shapes(masks, range(200), film)
    taken = time.perf_counter() - start
    shapes = max(s.y + masks[s.item].shape[1 if s.turned % 180 else 0] / 2 for s in spots)
    print(f"200 true shapes on film: {taken:.2f} s, film {shapes / own:.3f} of their rectangles'")


def started() -> None:
    """A process from nothing to a drawn window, warm."""
    times = []
    with tempfile.TemporaryDirectory() as folder:
        env = os.environ | {"QT_QPA_PLATFORM": "offscreen", "FARBE_CONFIG": folder}
        for _ in range(6):
            start = time.perf_counter()
            subprocess.run([sys.executable, "-c", START], check=True, env=env, cwd=Path.cwd())
            times.append(time.perf_counter() - start)
    print(f"start to a drawn window: median of 5 {statistics.median(times[1:]):.2f} s")


def panned() -> None:
    """The Bed station with a thousand pockets, each move of the picture drawn at once."""
    from PySide6.QtCore import QPointF
    from windows import opened

    from farbe.desk.app import settle
    from farbe.layout.fill import fullest
    from farbe.model.piece import Circle
    from farbe.plan.stations import Station
    from farbe.samples.jobs import lid_job

    with tempfile.TemporaryDirectory() as folder:
        window = opened(Path(folder))
        job, shape = Faced(lid_job(window.session.store)), Circle(diameter=10)
        jig = job.jig.replace(gap_x=2.2, gap_y=2.2)
        jig = fullest(jig, shape, job.printer, 1.0).jig
        job = job.replace(jig=jig, piece=job.piece.replace(shape=shape, relief=0))
        window.session.take(job.job, saved=True)
        window.visit(Station.BED)
        settle(window)
        canvas = window.bench.views[Station.BED].picture
        canvas.repaint()
        for what, move in (
            ("panning", lambda i: canvas._origin.__iadd__(QPointF(3 if i % 2 else -3, 1))),
            ("zooming", lambda i: canvas.zoom(1.02 if i % 2 else 1 / 1.02, QPointF(400, 250))),
        ):
            times = []
            for i in range(80):
                move(i)
                start = time.perf_counter()
                canvas.repaint()
                times.append((time.perf_counter() - start) * 1000)
            times.sort()
            print(
                f"{len(canvas.pockets)} pockets, {what}: median {statistics.median(times):.1f} ms,"
                f" p95 {times[76]:.1f} ms"
            )
        window.session.take(None)
        window.close()


keep_freed()
choked()
proofed()
nested()
panned()
started()
