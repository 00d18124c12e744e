"""A control strip beside a job's own pieces: where it lies, what it prints, what it tells."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from conftest import small_art
from farbe.art.profiles import shipped_profile
from farbe.checks.check import Facts
from farbe.checks.striprules import strip_has_room
from farbe.estimate.estimate import estimate
from farbe.files.handoff import hand_off
from farbe.files.reference import Reference, read_reference
from farbe.files.store import ArtStore
from farbe.layout.bedframe import board_on_bed, keep_out_on_bed
from farbe.layout.faced import Faced
from farbe.layout.guide import guide_reach
from farbe.layout.laid import laid
from farbe.layout.lengths import strip_room
from farbe.layout.rolls import film_length
from farbe.layout.strip import STRIP_LINE, _free_place, laid_strips
from farbe.measure.readings import Readings
from farbe.measure.strip import is_strip, with_drift
from farbe.model.condition import Condition, Origin
from farbe.model.jig import Board
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Material, Reader, Surface
from farbe.model.roll import Roll
from farbe.plan.printers import FLATBED
from farbe.press.device import APERTURE, read_spots
from farbe.press.machine import WHOLE, TestPress
from farbe.press.truth import true_inks
from farbe.render.bed import job_bed
from farbe.render.footprints import ganged


@pytest.fixture
def striped(job: Faced) -> Faced:
    """The tokens on a larger board, with a strip."""
    printer = FLATBED.replace(
        name="Shop", dpi_x=100, dpi_y=100, modes=(), bed_width=260, bed_height=120, conditions=()
    )
    return job.replace(
        marks=job.marks.replace(strip=True), printer=printer, stack=(WHITE_UNDER, COLOUR),
        jig=job.jig.replace(board=Board(width=240, height=100)),
    )  # fmt: skip


def pressed(job: Faced, store: ArtStore, folder: Path, drift: float) -> tuple[Reference, Readings]:
    """The strip of a job as the nominal press prints it, read by the device."""
    ticket = hand_off(job.job, store, folder)
    press = TestPress(inks=true_inks(0, drift))
    press.take(folder)
    press.print_run("guide", lambda *_: None)
    press.place()
    press.print_run("artwork", lambda *_: None)
    (strip,) = ticket.strips
    reference = read_reference(folder / strip.reference)
    top = ticket.bed_height - strip.y - strip.height
    spots = [(strip.x + spot.x, top + spot.y) for spot in reference.spots]
    xyz = read_spots(press.spot_light("piece", spots, APERTURE, WHOLE))
    return reference, Readings("device", tuple(spot.name for spot in reference.spots), xyz)


@pytest.mark.long
def test_a_job_s_own_strip_tells_drift(striped: Faced, store: ArtStore, tmp_path: Path) -> None:
    condition = Condition(
        name="A", surfaces=(Material.OPAQUE,), origin=Origin.MEASURED,
        inks=tuple(ink.name for ink in striped.printer.inks),
    )  # fmt: skip
    for drift, day in ((0.0, date(2026, 12, 1)), (1.0, date(2027, 1, 1))):
        reference, read = pressed(striped, store, tmp_path / str(drift), drift)
        assert is_strip(reference) and reference.white == 1
        condition = with_drift(
            reference, [read], striped.printer, condition, shipped_profile(), day
        )
    first, last = condition.drifts
    assert first.mean < condition.most_drift < last.mean


def test_the_estimate_has_the_strip_s_ink(striped: Faced, store: ArtStore, tmp_path: Path) -> None:
    ticket = hand_off(striped.job, store, tmp_path / "out")
    written = sum(ml for run in ticket.runs if run.what != "guide" for ml in run.ink_ml.values())
    with_strip = sum(use.ml for use in estimate(striped, store).inks if use.layer != "Guide")
    plain = striped.replace(marks=striped.marks.replace(strip=False))
    without = sum(use.ml for use in estimate(plain, store).inks if use.layer != "Guide")
    assert written == pytest.approx(with_strip, rel=2e-3) and with_strip > 1.05 * without


@settings(max_examples=40)
@given(
    columns=st.integers(1, 9), rows=st.integers(1, 6), gap=st.floats(2.0, 12.0),
    x=st.floats(0.0, 40.0), y=st.floats(0.0, 30.0), numbers=st.booleans(), label=st.booleans(),
)  # fmt: skip
def test_a_strip_lies_on_nothing_else(
    striped: Faced, columns: int, rows: int, gap: float, x: float, y: float, numbers: bool,
    label: bool,
) -> None:  # fmt: skip
    job = striped.replace(
        jig=striped.jig.replace(
            columns=columns, rows=rows, gap_x=gap, gap_y=gap, first_x=x, first_y=y
        ),
        guide=striped.guide.replace(numbers=numbers),
        marks=striped.marks.replace(label="{job}" if label else ""),
    )
    found = laid_strips(job)
    said = [check.code for check in strip_has_room(Facts(job, None))]  # type: ignore[arg-type]
    if not found:
        assert said == ["strip-not-printed"]
        return
    (strip,) = found
    area = box(strip.x, strip.y, strip.x + strip.size[0], strip.y + strip.size[1])
    board = box(*board_on_bed(job.jig.board, job.jig.datum, job.printer))
    assert box(0, 0, job.printer.bed_width, job.printer.bed_height).covers(area)
    assert board.covers(area) if strip.on_board else board.intersection(area).area < 1e-6
    assert said == ([] if strip.on_board else ["strip-off-board"])
    reach = max(job.bleed, guide_reach(job.guide))
    for piece in laid(job):
        (wide, high), far = piece.size, reach
        assert not area.intersects(
            box(piece.x - wide / 2 - far, piece.y - high / 2 - far, piece.x + wide / 2 + far,
                piece.y + high / 2 + far)
        )  # fmt: skip
    for zone in job.jig.keep_outs:
        assert not area.intersects(keep_out_on_bed(zone, job.jig.datum, job.printer))


def test_on_film_it_lies_behind_and_is_printed_as_it_is_read(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """Mirrored, each patch has the levels that the reference says, and the film is longer."""
    art = store.add_artwork(small_art(tmp_path / "one.png")).replace(width=50, height=40)
    plain = ganged(
        job.replace(
            artworks=(art.replace(quantity=2),), reader=Reader.TRANSFER, bleed=0.0, texts=(),
            stack=(COLOUR, WHITE_UNDER.replace(hits=2)), medium=Roll(width=120, side=4),
            piece=job.piece.replace(surface=Surface(material=Material.TEXTILE), height=0.0),
            printer=job.printer.replace(bed_width=160), table=None,
        ),
        store,
    )  # fmt: skip
    striped = plain.replace(marks=plain.marks.replace(strip=True))
    (strip,) = laid_strips(striped)
    assert film_length(striped) - film_length(plain) == pytest.approx(
        strip.rows * 9 + STRIP_LINE + 4
    )
    assert all(strip.y >= piece.y + piece.size[1] / 2 for piece in laid(striped))
    hand_off(striped.job, store, tmp_path / "out")
    reference = read_reference(tmp_path / "out" / "strip.reference.txt")
    assert reference.reader is Reader.TRANSFER and reference.white == 2
    bed = job_bed(striped, store)
    rows = bed.rows(0, bed.size[1])
    names = [info.name for info in bed.channels]
    for spot in reference.spots:
        x = strip.x + strip.columns * strip.wide - spot.x
        y = film_length(striped) - (strip.y + STRIP_LINE + strip.rows * strip.high) + spot.y
        printed = rows[int(y * bed.grid.per_mm_y), int(x * bed.grid.per_mm_x)]
        wanted = [round(255 * share / 100) for share in spot.patch.inks]
        found = [printed[names.index(ink)] for ink in ("Cyan", "Magenta", "Yellow", "Black")]
        assert np.abs(np.subtract(found, wanted, dtype=int)).max() <= 1
        assert printed[names.index("White")] == (255 if spot.patch.white else 0)


@pytest.mark.long
@pytest.mark.parametrize("width", [400, 2000])
def test_the_place_is_found_as_by_trying_all(width: int) -> None:
    """Against a search of each place of the bed, also where that is coarse."""
    taken = np.random.default_rng(4).random((400, width)) > 0.9997
    for size in ((36.0, 21.0), (81.0, 12.5)):
        wide, high = int(np.ceil(size[0] + 4)), int(np.ceil(size[1] + 4))
        free = [
            (x, y) for y in range(0, 401 - high) for x in range(0, width + 1 - wide)
            if y % 4 == 0 and x % 4 == 0 and not taken[y : y + high, x : x + wide].any()
        ]  # fmt: skip
        found = _free_place(cv2.integral(taken.astype(np.uint8)), size)
        assert free and found is not None
        x, y = found[0] - 2, found[1] - 2
        assert not taken[y : y + high, x : x + wide].any()
        assert y >= max(row for _, row in free)


def test_narrow_film_has_none_and_says_so(job: Faced) -> None:
    narrow = job.replace(
        marks=job.marks.replace(strip=True), medium=Roll(width=14, side=4),
        piece=job.piece.replace(height=0.0),
    )  # fmt: skip
    assert laid_strips(narrow) == () and strip_room(narrow.job) == 0.0
    (check,) = strip_has_room(Facts(narrow, None))  # type: ignore[arg-type]
    assert check.code == "strip-not-printed" and "narrow" in check.text
