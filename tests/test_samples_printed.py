"""Every sample from the queue to the finished piece: the press agrees with the proof.

Both work out what is seen from the same job, one from its files, with code of its own.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from conftest import Sample, some
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.edits.bed import both_sides
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.pockets import footprint
from farbe.model.jig import Board, Datum
from farbe.model.piece import Reader
from farbe.model.treatment import Choke, Dots, Grain
from farbe.optics.proof import proof_picture
from farbe.press.client import Press
from farbe.queue.store import Queue
from farbe.queue.work import add_job, print_entry
from farbe.render.glimpse import glimpse
from farbe.samples.jobs import SAMPLES
from farbe.separate.grid import Grid

#: How a finished piece is looked at.
OF = {Reader.FACE: "piece", Reader.THROUGH: "turned", Reader.TRANSFER: "pressed"}


def likeness(one: np.ndarray, other: np.ndarray) -> float:
    """Correlation of two pictures."""
    a, b = (p.astype(float) - p.mean() for p in (one, other))
    return float((a * b).sum() / np.sqrt((a * a).sum() * (b * b).sum()))


def as_lying(picture: np.ndarray, quarters: int, like: np.ndarray) -> np.ndarray:
    turned = Image.fromarray(np.ascontiguousarray(np.rot90(picture, quarters)))
    return np.asarray(turned.resize(like.shape[1::-1], Image.Resampling.BOX))


def middle(picture: np.ndarray) -> np.ndarray:
    """Without the edge, where bleed and board differ."""
    high, wide = picture.shape[:2]
    return picture[int(high * 0.15) : int(high * 0.85), int(wide * 0.15) : int(wide * 0.85)]


def one_of_it(job: Faced) -> Faced:
    """A job on film of which one artwork, or one pair, is wanted and lies there."""
    assert job.roll is not None
    place = job.roll.places[0]
    made = job.replace(medium=job.roll.replace(places=(place,)))
    for face, digest in enumerate((place.artwork, place.behind)):
        if digest is not None and face < len(made.job.faces):
            of = Faced(made.job, face)
            one = (art.replace(quantity=1) for art in of.artworks if art.digest == digest)
            made = Faced(of.replace(artworks=tuple(one)).job)
    return made


@pytest.mark.parametrize("name", some(SAMPLES, "jar-lids"))
def test_the_finished_piece_is_as_the_proof_says(name: str, sample: Sample, tmp_path: Path) -> None:
    job, store = sample(name)
    # Scattered dots need their size, and small pieces theirs; all else is told on coarser pixels.
    dots = any(isinstance(t, Dots) for la in job.stack for t in la.treatments)
    fine = job.piece.shape.height < 10
    dpi = 300 if dots else 400 if fine else 160 if job.piece.shape.width < 100 else 90
    # One piece on a board of its size: the same print, and far less of an empty bed.
    wide, high = (side + 30.0 for side in footprint(job.jig, job.piece.shape))
    jig = job.jig.replace(
        board=Board(width=wide, height=high, colour=job.jig.board.colour), datum=Datum(),
        columns=1, rows=1, first_x=15.0, first_y=15.0, first_only=None, off=frozenset(),
    )  # fmt: skip
    on_bed = job.roll is None
    job = job.replace(
        printer=job.printer.replace(
            dpi_x=dpi, dpi_y=dpi,
            bed_width=wide if on_bed else job.printer.bed_width,
            bed_height=high if on_bed else job.printer.bed_height,
        ),
        jig=jig if on_bed else job.jig, bleed=0.0,
        receiver=job.receiver.replace(formats=("tiff",)),
    )  # fmt: skip
    if job.two_sided:
        job = both_sides(job, False)
    if job.roll is not None:
        job = one_of_it(job)
    queue = Queue(tmp_path / "queue")
    number = add_job(queue, job.job, store)
    with Press() as press:
        print_entry(queue, number, press, store)
        for view in (job, job.other) if job.other is not None else (job,):
            press.ask(do="picture", path=str(tmp_path / "piece.png"), of=OF[view.reader])
            seen = np.asarray(Image.open(tmp_path / "piece.png"))
            # Fine print is foretold finely, and then looked at as coarsely as the piece.
            proof = proof_picture(view, store, pixels=max(seen.shape[:2]) * (4 if fine else 1))
            right, mirrored = (
                max(likeness(middle(seen), middle(as_lying(p, k, seen))) for k in range(4))
                for p in (proof, proof[:, ::-1])
            )
            assert right > 0.93, right
            assert right > mirrored


def test_the_proof_shows_dots_as_later_treatments_leave_them(job: Faced, store: ArtStore) -> None:
    """Half tones whose dots are choked away are gone in the proof too, and it is said."""
    dots, choke = Dots(grain=Grain.NOISE, dot=0.4), Choke(by=0.15)
    white = job.stack[0]
    after = job.replace(stack=(white.replace(treatments=(dots, choke)), *job.stack[1:]))
    before = job.replace(stack=(white.replace(treatments=(choke, dots)), *job.stack[1:]))
    fine, coarse = Grid(150, 210), Grid(60, 60)
    amounts = []
    # Where dots come last, their tone stands for them, up to the grain of the noise.
    for one, near in ((after, 0.02), (before, 0.09)):
        printed, shown = (glimpse(one, store, g).plates_of("White")[0] for g in (fine, coarse))
        assert shown.mean() == pytest.approx(printed.mean(), rel=near)
        amounts.append(float(printed.mean()))
    assert amounts[0] < 0.97 * amounts[1]
    check = next(c for c in run_checks(Facts(after, store)) if c.code == "dots-choked")
    assert check.fix is not None and check.fix.mend(after) == before
    assert "dots-choked" not in {c.code for c in run_checks(Facts(before, store))}
