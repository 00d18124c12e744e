"""The survey against separating the same prints: the sheet, and samples; choke that spares.

``survey.py WHAT`` does one piece of work, so that its memory is its own.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from functools import lru_cache
from itertools import product
from pathlib import Path

import inputs
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import allotted
from farbe.memory import keep_freed
from farbe.model.piece import Reader, Rectangle
from farbe.plan.newjob import job_from_recipe
from farbe.plan.order import default_stack
from farbe.plan.recipes import recipe
from farbe.samples.draw import lid_emblem
from farbe.samples.jobs import SAMPLES
from farbe.separate.choke import choke
from farbe.separate.grid import Grid
from farbe.separate.spare import spared
from farbe.sidebyside import in_order
from farbe.survey import prints
from farbe.survey.look import survey_of
from farbe.survey.subject import Subject, subject

NAMES = ("apron-transfers", "jar-lids", "jar-labels", "hanging-banners")


def sheet_job(store: ArtStore) -> Faced:
    """The transfer sheet of the other benchmarks as a job of one piece of its size."""
    art = store.add_artwork(inputs.WORK / "sheet.png")
    made = job_from_recipe(recipe("transfer on dark"))
    job = made if isinstance(made, Faced) else Faced(made)
    shape = Rectangle(width=art.width, height=art.height)
    return job.replace(
        piece=job.piece.replace(shape=shape), artworks=(art,), reader=Reader.TRANSFER,
        stack=default_stack(Reader.TRANSFER),
        jig=job.jig.replace(columns=1, rows=1, first_x=0, first_y=0),
        printer=job.printer.replace(dpi_x=600, dpi_y=600, bed_width=2000, bed_height=2000),
    )  # fmt: skip


def the_subject(what: str, store: ArtStore) -> Subject:
    if what == "sheet":
        job = sheet_job(store)
    else:
        made = SAMPLES[what](store)
        job = made if isinstance(made, Faced) else Faced(made)
    what = next(iter(allotted(job).prints.values()))
    key = prints._key(job, what, prints._turns(job), exact=True)
    return subject(key.print_.job, store, key.grid, exact=True, register=key.register,
                   turn=key.turn, edged=key.edged)  # fmt: skip


def separated(of: Subject) -> None:
    """All plates of a print, two threads, in strips as the survey takes them."""
    height = of.separation.size[1]
    for _ in in_order(
        lambda top: len(of.separation.plates(top, min(height, top + 384))), range(0, height, 384)
    ):
        pass


def once(what: str) -> None:
    keep_freed()
    with tempfile.TemporaryDirectory() as folder:
        store = ArtStore(Path(folder))
        separated(the_subject(what, store))  # tables of colours are made once
        start = time.perf_counter()
        separated(the_subject(what, store))
        plain = time.perf_counter() - start
        of = the_subject(what, store)
        start = time.perf_counter()
        found = survey_of(of)
        looked = time.perf_counter() - start
        size = found.size[0] * found.size[1] / 1e6
        print(f"{what:16} {size:6.1f} Mpx  separated {plain:5.2f} s  surveyed {looked:5.2f} s"
              f"  ratio {looked / plain:.2f}", flush=True)  # fmt: skip


def sparing() -> None:
    """What a least width costs: on solid shapes, and on a plate that is full of type."""
    grid = Grid(600, 600)
    solid = np.zeros((4000, 6000), np.uint8)
    solid[200:3800, 200:5800] = 255
    page = Image.new("L", (6000, 4000))
    draw, font = ImageDraw.Draw(page), ImageFont.load_default(40)
    for line in range(0, 4000, 60):
        draw.text((0, line), "The honey of the heather and of the lime " * 6, font=font, fill=255)
    for name, plate in (("solid", solid), ("type", np.asarray(page))):
        start = time.perf_counter()
        choked = choke(plate, 0.1, grid)
        plain = time.perf_counter() - start
        start = time.perf_counter()
        spared(plate, choked, 0.1, 0.1, grid)
        more = time.perf_counter() - start
        print(f"choke of {name}, 24 Mpx: {plain:.2f} s, sparing 0.1 mm {more:.2f} s more")


def noise(number: int) -> Image.Image:
    """A soft picture in which nearly every pixel is another colour."""
    coarse = np.random.default_rng(number).integers(0, 256, (6, 8, 3)).astype(np.uint8)
    return Image.fromarray(coarse).resize((400, 300))


@lru_cache(maxsize=1)
def plain_emblem() -> np.ndarray:
    return np.asarray(lid_emblem().resize((300, 300)))


def emblem(number: int) -> Image.Image:
    """A drawn emblem with fine lines, in a tint of its own."""
    pixels = plain_emblem().copy()
    tint = np.array([(number * 37) % 97, (number * 53) % 89, (number * 71) % 83])
    pixels[..., :3] = np.maximum(pixels[..., :3], tint).astype(np.uint8)
    return Image.fromarray(pixels)


def hundred() -> None:
    """All checks of a job with a hundred artworks on small pieces, no two alike."""
    for drawn, dpi in product((noise, emblem), ((150, 210), (600, 900))):
        with tempfile.TemporaryDirectory() as folder:
            store = ArtStore(Path(folder) / "store")
            arts = []
            for number in range(100):
                path = Path(folder) / f"{number}.png"
                drawn(number).save(path, dpi=(600, 600))
                arts.append(store.add_artwork(path).replace(quantity=1))
            job = Faced(job_from_recipe(recipe("dark opaque piece")))
            job = job.replace(
                piece=job.piece.replace(shape=Rectangle(width=14, height=11)), artworks=tuple(arts),
                jig=job.jig.replace(columns=10, rows=10, gap_x=4, gap_y=4, first_x=5, first_y=5),
                printer=job.printer.replace(dpi_x=dpi[0], dpi_y=dpi[1]),
            )  # fmt: skip
            start = time.perf_counter()
            run_checks(Facts(job, store))
            print(f"100 artworks ({drawn.__name__}), 14 x 11 mm at {dpi[0]} x {dpi[1]} dpi:"
                  f" {time.perf_counter() - start:.2f} s")  # fmt: skip


def main() -> None:
    if sys.argv[1:] == ["hundred"]:
        hundred()
        return
    if len(sys.argv) > 1:
        once(sys.argv[1])
        return
    inputs.sheet()
    for what in ("sheet", *NAMES):
        process = subprocess.Popen([sys.executable, __file__, what])
        _, status, usage = os.wait4(process.pid, 0)
        if status != 0:
            raise SystemExit(f"the survey of {what} failed")
        print(f"{'':16} {usage.ru_maxrss / 1024:6.0f} MB", flush=True)
    sparing()
    hundred()


if __name__ == "__main__":
    main()
