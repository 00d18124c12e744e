"""Lines to cut artworks apart along their shapes, against shapes that are known."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from shapely import Point, Polygon, contains, distance, points
from shapely.ops import unary_union

from farbe.art.artwork import Artwork, Space
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile, PlateUse
from farbe.model.meaning import Meaning
from farbe.model.piece import Reader
from farbe.model.roll import Cut, FilmPlace, Packing, Roll
from farbe.render import cutlines
from farbe.render.bed import job_bed
from farbe.render.cutlines import SEEN, CutShape, artwork_lines, cut_lines
from farbe.render.footprints import ganged

#: Whoever has the artwork does not matter.
JOB: Any = None
Y, X = np.mgrid[0:400, 0:600]


class Art:
    """Sources with a single artwork."""

    def __init__(self, alpha: np.ndarray, **plates: np.ndarray) -> None:
        pixels = np.dstack([np.full_like(alpha, 90)] * 3 + [alpha])
        self.art = Artwork(pixels, Space.RGB, (254, 254), None, plates=plates)

    def artwork(self, file: ArtworkFile, job: object = None) -> Artwork:
        return self.art


def file(*plates: str) -> ArtworkFile:
    """60 by 40 mm, ten pixels a mm."""
    uses = tuple(PlateUse(name=name, meaning=Meaning.CUT) for name in plates)
    return ArtworkFile(digest="0" * 64, file_name="a.png", width=60, height=40, plates=uses)


def disc(x: float, y: float, radius: float) -> np.ndarray:
    """A disc in mm from the upper left corner, solid."""
    inside = np.hypot((X + 0.5) / 10 - x, (Y + 0.5) / 10 - y) < radius
    return np.where(inside, 255, 0).astype(np.uint8)


@settings(max_examples=20)
@given(st.floats(12, 45), st.floats(12, 28), st.floats(2, 11), st.floats(0, 6))
def test_a_disc_is_cut_along_a_larger_circle(x: float, y: float, r: float, beyond: float) -> None:
    (line,) = artwork_lines(JOB, file(), Art(disc(x, y, r)), beyond)  # type: ignore[arg-type]
    far = np.hypot(line[:, 0] - (x - 30), line[:, 1] - (20 - y))
    assert np.allclose(far, r + beyond, atol=0.12)
    assert math.sqrt(Polygon(line).area / math.pi) == pytest.approx(r + beyond, abs=0.06)


@settings(max_examples=30)
@given(st.integers(0, 10**6), st.floats(0.01, 3.0))
def test_lines_from_afar_have_fewer_corners_and_stray_no_further(seed: int, stray: float) -> None:
    """Near by they are the very lines; seen in a mirror they are the same ones turned over."""
    around = np.linspace(0, 2 * math.pi, 400, endpoint=False)
    bumps = np.random.default_rng(seed).normal(0, 1.5, 40).repeat(10)
    line = np.stack([(25 + bumps) * np.cos(around), (25 + bumps) * np.sin(around)], axis=1)
    shape = CutShape((line, line / 3))
    for made, whole in zip(shape.within(stray), shape.lines, strict=True):
        far = Polygon(made).exterior.hausdorff_distance(Polygon(whole).exterior)
        assert (made is whole) if stray < SEEN[0] else (far <= stray and len(made) < len(whole))
    over = shape.mirrored
    assert over is shape.mirrored
    for made, whole in zip(over.within(stray), shape.within(stray), strict=True):
        assert Polygon(made * (-1, 1)).equals(Polygon(whole))


def test_holes_are_not_cut_and_islands_that_are_near_are_one() -> None:
    ring = np.where(disc(20, 20, 6) > 0, 255 - disc(20, 20, 4), 0)
    far_off, near = disc(45, 20, 5), disc(28.5, 20, 2)
    three = Art(np.maximum.reduce([ring, far_off, near]))
    lines = artwork_lines(JOB, file(), three, 1.0, whole=False)  # type: ignore[arg-type]
    assert len(lines) == 2
    assert sorted(Polygon(line).contains(Point(-10, 0)) for line in lines) == [False, True]
    (one,) = artwork_lines(JOB, file(), three, 1.0)  # type: ignore[arg-type]
    parts = [Polygon(line) for line in lines]
    assert all(Polygon(one).buffer(0.1).contains(part) for part in parts)
    assert Polygon(one).area < unary_union(parts).convex_hull.area
    assert artwork_lines(JOB, file(), Art(np.zeros_like(ring)), 1.0) == ()  # type: ignore[arg-type]


@pytest.mark.long
@pytest.mark.parametrize("gap", [3.0, 9.0, 20.0])
def test_gaps_are_bridged_in_cells_as_along_lines(
    gap: float, monkeypatch: pytest.MonkeyPatch
) -> None:
    """With no room to grow in cells all of the way is that of exact lines, which takes longer."""
    two = Art(np.maximum(disc(15, 18, 6), disc(21 + gap + 5, 24, 5)))
    (found,) = artwork_lines(JOB, file(), two, 2.0)  # type: ignore[arg-type]
    monkeypatch.setattr(cutlines, "GROWN", 0)
    (exact,) = artwork_lines(JOB, file(), two, 2.0)  # type: ignore[arg-type]
    assert Polygon(found).hausdorff_distance(Polygon(exact)) < 0.3


def test_a_soft_shadow_is_not_cut_off() -> None:
    far = np.hypot((X + 0.5) / 10 - 30, (Y + 0.5) / 10 - 20)
    soft = np.clip(255 * (1 - (far - 5) / 10), 0, 255).astype(np.uint8)
    (line,) = artwork_lines(JOB, file(), Art(soft), 1.0)  # type: ignore[arg-type]
    # Less than 4 of 255 is nothing: that is 0.16 mm of the slope.
    assert np.allclose(np.hypot(*line.T), 15 - 0.16 + 1.0, atol=0.15)


@pytest.mark.long
def test_specks_by_the_thousand_are_all_inside() -> None:
    rng = np.random.default_rng(3)
    specks = np.where(rng.random(X.shape) > 0.99, 255, 0).astype(np.uint8)
    specks[:, 300:] = 0
    (line,) = artwork_lines(JOB, file(), Art(specks), 1.0)  # type: ignore[arg-type]
    rows, columns = np.nonzero(specks)
    places = points(np.stack([(columns + 0.5) / 10 - 30, 20 - (rows + 0.5) / 10], axis=1))
    assert len(places) > 1000 and contains(Polygon(line), places).all()
    assert distance(Polygon(line).exterior, places).min() > 0.85


def test_a_drawn_cut_line_is_cut_along_its_middle_whatever_it_is_called() -> None:
    drawn = np.where(disc(30, 20, 15.4) > 0, 255 - disc(30, 20, 14.6), 0)
    wanted, filled = Art(disc(30, 20, 9), Knife=drawn), Art(disc(30, 20, 9), Knife=disc(30, 20, 15))
    for sources in (wanted, filled):
        (line,) = artwork_lines(JOB, file("Knife"), sources, 3.0)  # type: ignore[arg-type]
        assert np.allclose(np.hypot(*line.T), 15.0, atol=0.1)
    (line,) = artwork_lines(JOB, file(), wanted, 3.0)  # type: ignore[arg-type]
    assert np.allclose(np.hypot(*line.T), 12.0, atol=0.12)


@pytest.fixture
def film(job: Faced, store: ArtStore, tmp_path: Path) -> Faced:
    """Flags, unlike their mirror, on film: one upright, one a quarter turned."""
    alpha = np.zeros((100, 200), np.uint8)
    alpha[:, :12] = alpha[:50, :150] = 255
    Image.fromarray(np.dstack([np.full_like(alpha, 40)] * 3 + [alpha])).save(
        tmp_path / "flag.png", dpi=(127, 127)
    )
    art = store.add_artwork(tmp_path / "flag.png").replace(quantity=2)
    lain = (
        FilmPlace(artwork=art.digest, x=40, y=40),
        FilmPlace(artwork=art.digest, x=90, y=50, turned=90),
    )
    roll = Roll(width=140, cut=Cut.SHAPES, beyond=1.0, packing=Packing.HAND, places=lain)
    printer = job.printer.replace(dpi_x=127, dpi_y=127)
    return job.replace(
        artworks=(art,), reader=Reader.TRANSFER, medium=roll, printer=printer, bleed=0
    )


def lines_of(path: Path, height: float) -> dict[str, Polygon]:
    found = {}
    for element in ElementTree.parse(path).getroot().iter():
        if element.get("id", "").startswith("piece"):
            points = [p.split() for p in element.get("d", "").strip("MZ").split("L")]
            found[element.get("id", "")] = Polygon(
                [(float(x), height - float(y)) for x, y in points]
            )
    return found


@pytest.mark.parametrize("reader", [Reader.TRANSFER, Reader.FACE])
def test_the_cutting_file_goes_around_what_is_printed(
    film: Faced, store: ArtStore, tmp_path: Path, reader: Reader
) -> None:
    job = film.replace(reader=reader)
    hand_off(job.job, store, tmp_path / "out")
    bed = job_bed(job, store)
    rows_ = bed.rows(0, bed.size[1])
    assert rows_ is not None
    printed = rows_.max(axis=2)
    cuts = lines_of(tmp_path / "out" / "guide.svg", bed.frame.height)
    assert sorted(cuts) == ["piece-1", "piece-2"]
    rows, columns = np.nonzero(printed)
    places = np.stack([(columns + 0.5) / 5, bed.frame.height - (rows + 0.5) / 5], axis=1)
    for x, y in places[:: max(1, len(places) // 400)]:
        around = [cut for cut in cuts.values() if cut.contains(Point(x, y))]
        assert len(around) == 1
        assert around[0].exterior.distance(Point(x, y)) > 0.8
    flag = Polygon([(0, 0), (2.4, 0), (2.4, 10), (30, 10), (30, 20), (0, 20)])
    for cut in cuts.values():
        assert cut.area == pytest.approx(flag.buffer(1.0).area, rel=0.01)


def test_cuts_that_cross_are_said_and_mended(film: Faced, store: ArtStore) -> None:
    roll = film.roll
    assert roll is not None

    def codes(job: Faced) -> list[str]:
        return [check.code for check in run_checks(Facts(job, store))]

    assert "cuts-cross" not in codes(film)
    near = film.replace(medium=roll.replace(packing=Packing.SHAPES, gap=1, beyond=6))
    laid = ganged(near, store)
    (check,) = [c for c in run_checks(Facts(laid, store)) if c.code == "cuts-cross"]
    assert check.fix is not None
    assert "cuts-cross" not in codes(check.fix.mend(laid))
    boxes = laid.replace(medium=laid.roll.replace(cut=Cut.BOXES))  # type: ignore[union-attr]
    assert "cuts-cross" not in codes(boxes) and cut_lines(boxes, store) == {}
    # A bar of one flag reaches into the empty corner of the other: only shapes part them.
    first, second = lain_of(boxes)[0], lain_of(boxes)[0]
    locked = (first, second.replace(x=first.x + 32, y=first.y - 11))
    by_hand = boxes.replace(medium=boxes.roll.replace(places=locked, packing=Packing.HAND))  # type: ignore[union-attr]
    (check,) = [c for c in run_checks(Facts(by_hand, store)) if c.code == "cuts-cross"]
    assert "interlock" in check.text and check.fix is not None
    mended = check.fix.mend(by_hand).roll
    assert mended is not None and mended.cut is Cut.SHAPES


def lain_of(job: Faced) -> tuple[FilmPlace, ...]:
    assert job.roll is not None
    return job.roll.places


def test_film_on_which_nothing_lies_is_checked(film: Faced, store: ArtStore) -> None:
    """Nothing laid, and cut along shapes: what is missing is said, and no check fails."""
    for cut in Cut:
        empty = film.replace(
            medium=Roll(width=120, side=5, lead=8, trail=8, gap=3, cut=cut), artworks=()
        )
        for of in (empty, empty.replace(artworks=film.artworks)):
            codes = {check.code for check in run_checks(Facts(of, store))}
            assert "check-failed" not in codes
            assert "no-pockets" in codes
