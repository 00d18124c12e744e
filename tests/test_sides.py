"""Pieces printed on both sides, and artwork that follows measured pockets."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import behind, sided
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.layout.correction import by_datum, fit, fitted_correction
from farbe.layout.faced import Faced
from farbe.layout.laid import laid, places
from farbe.layout.sides import needs_own_guide
from farbe.model.base import BadInput
from farbe.model.correction import Correction, Measured, Terms
from farbe.model.face import Turn, Turning
from farbe.model.layer import Layer
from farbe.model.piece import Outline, Reader
from farbe.model.printer import LayerKind
from farbe.model.source import WholePiece
from farbe.press.machine import SCALE, TestPress
from farbe.render.bed import job_bed

#: A flag: no axis of it is its own mirror image.
FLAG = Outline(rings=(((-6, -4), (6, -4), (6, 1), (-1, 1), (-1, 4), (-6, 4)),))
FLOOD = (Layer(kind=LayerKind.WHITE, name="White", source=WholePiece()),)


def both_sides(job: Faced, turning: Turning, **jig: object) -> Faced:
    """A job of flags that are flooded with white on both sides."""
    made = job.replace(
        piece=job.piece.replace(shape=FLAG),
        jig=job.jig.replace(first_x=6, first_y=7, gap_x=5, gap_y=5, **jig),
        stack=FLOOD,
        artworks=(),
    )
    return sided(made, turning, stack=FLOOD)


turnings = st.builds(Turning, turn=st.sampled_from(Turn), board=st.booleans())


@given(turnings, st.sampled_from((0, 90, 180, 270)))
@settings(max_examples=40)
def test_turning_twice_gives_the_job_again(turning: Turning, turned: int) -> None:
    job = both_sides(SMALL, turning, turned=turned, columns=2, rows=2)
    assert job.other.other == job
    assert job.other != job


SMALL: Faced


@pytest.fixture(autouse=True)
def small(job: Faced) -> None:
    """The small job for tests that hypothesis calls many times."""
    global SMALL
    SMALL = job


@pytest.mark.parametrize("turn", list(Turn))
@pytest.mark.parametrize("board", [False, True])
@pytest.mark.parametrize("turned", [0, 90])
def test_what_the_press_turns_lies_back_to_back(
    job: Faced, store: ArtStore, tmp_path: Path, turn: Turn, board: bool, turned: int
) -> None:
    """Ink of both sides over the whole of an uneven piece: turned back, it covers itself."""
    of = both_sides(job, Turning(turn=turn, board=board), turned=turned, columns=3, rows=2)
    assert needs_own_guide(of) is not board
    hand_off(of.job, store, tmp_path)
    press = TestPress()
    press.take(tmp_path)
    press.print_run("guide", lambda *_: None)
    assert press.place() == 6
    press.print_run("artwork", lambda *_: None)
    with pytest.raises(BadInput, match="not turned over"):
        press.print_run("artwork-back", lambda *_: None)
    places = list(press.bed.pieces)
    press.turn_over()
    if not board:
        press.print_run("guide-back", lambda *_: None)
        assert press.place() == 6
    press.print_run("artwork-back", lambda *_: None)
    assert press.bed.behind is not None
    front = press.bed.behind[0].coverage["white"].astype(float)
    back = press.bed.on_pieces[0].coverage["white"].astype(float)
    height, half = front.shape[0], round(8 * SCALE)
    axis = 1 if turn is Turn.SIDEWAYS else 0
    after = press.bed.pieces
    for i, (x, y) in enumerate((p.x, p.y) for p in places):
        # Pieces keep their order in a turned board; in their pockets they keep their places.
        there = after[i] if board else min(after, key=lambda p: np.hypot(p.x - x, p.y - y))
        one = crop(front, x, height / SCALE - y, half)
        other = crop(back, there.x, height / SCALE - there.y, half)
        differ = np.abs(one - np.flip(other, axis))
        rim = 12 * 2 + 8 * 2
        assert one.sum() > 0.9 * 66 * SCALE**2
        # At most a press pixel along the outline.
        assert differ.sum() < rim * SCALE * 1.0, (i, differ.sum())


def crop(plate: np.ndarray, x: float, y: float, half: int) -> np.ndarray:
    """Pixels around a place in mm, y down."""
    column, row = round(x * SCALE), round(y * SCALE)
    return plate[row - half : row + half, column - half : column + half]


def test_pieces_that_mirror_themselves_stay_on_their_guide(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    of = sided(job, stack=job.stack, artworks=job.artworks)
    assert not needs_own_guide(of)
    ticket = hand_off(of.job, store, tmp_path)
    assert [run.what for run in ticket.runs] == ["guide", "artwork", "artwork-back"]
    assert len({run.jig_code for run in ticket.runs}) == 1
    with pytest.raises(BadInput, match="read from its faces"):
        of.replace(reader=Reader.THROUGH)
    # A fix that is found on the other side mends the other side.
    bare = behind(of, stack=of.stack[1:])
    check = next(c for c in run_checks(Facts(bare, store)) if c.code == "white-not-printed")
    assert check.text.startswith("Other side:") and check.fix is not None
    mended = check.fix.mend(bare)
    assert mended.stack == bare.stack and mended.two_sided
    assert "white-not-printed" not in {c.code for c in run_checks(Facts(mended, store))}


# measured correction


@given(
    st.floats(-3, 3), st.floats(-3, 3), st.floats(-1, 1), st.floats(0.98, 1.02),
    st.floats(0.98, 1.02), st.floats(-0.02, 0.02),
)  # fmt: skip
@settings(max_examples=100)
def test_any_affine_error_is_found(
    x: float, y: float, degrees: float, wide: float, high: float, skew: float
) -> None:
    turn = np.radians(degrees)
    rotation = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    matrix = rotation @ np.array([[wide, skew], [0, high]])
    should = np.array([(0, 0), (200, 0), (0, 150), (200, 150), (90, 70)], float)
    found = should @ matrix.T + (x, y)
    got = fit(should, found, (1, 2, 3, 4, 5), None)
    assert got.terms is Terms.ALL and not got.wild
    assert max(got.residuals.values()) < 1e-6
    assert got.rotation == pytest.approx(degrees, abs=1e-6)
    assert got.scales == pytest.approx((wide, high), abs=1e-6)
    for place, wanted in zip(should, found, strict=True):
        assert got.moved(*place) == pytest.approx(tuple(wanted), abs=1e-6)


def test_a_wild_point_is_named_and_few_points_bear_little() -> None:
    rng = np.random.default_rng(4)
    should = np.array([(x, y) for x in (0, 100, 200) for y in (0, 100, 200)], float)
    found = should + np.array([1.0, -0.5]) + rng.normal(0, 0.02, should.shape)
    found[4] += (0.9, 0.4)
    got = fit(should, found, tuple(range(1, 10)), None)
    assert got.wild == (5,)
    straight = fit(should[:3], found[:3], (1, 2, 3), None)
    assert straight.terms is Terms.TURN and straight.scales == pytest.approx((1, 1))
    one = fit(should[:1], found[:1], (1,), None)
    assert one.terms is Terms.SHIFT and one.offset == pytest.approx(tuple(found[0] - should[0]))
    with pytest.raises(BadInput, match="measure more"):
        fit(should[:3], found[:3], (1, 2, 3), Terms.ALL)


def test_artwork_follows_measured_pockets_and_the_guide_does_not(
    job: Faced, store: ArtStore
) -> None:
    """The ink's middle at each pocket lies where the pocket was measured, to half a pixel."""
    stack = FLOOD
    of = job.replace(stack=stack, artworks=())
    pockets = {p.number: p for p in laid(of)}
    points = []
    for number in (1, 4, 6, 9, 12):
        x, y = by_datum(of, pockets[number].x, pockets[number].y)
        points.append(Measured(pocket=number, x=0.4 + x * 1.004 - y * 0.01, y=y + x * 0.01 - 0.3))
    moved = of.replace(correction=Correction(points=tuple(points)))
    fitted = fitted_correction(moved, moved.correction or Correction(points=tuple(points)))
    bed = job_bed(moved, store)
    pixels = bed.rows(0, bed.size[1])
    assert pixels is not None
    ink = pixels[..., 0].astype(float)
    per_x, per_y = bed.grid.per_mm_x, bed.grid.per_mm_y
    for pocket in places(moved):
        x, y = fitted.moved(pocket.x, pocket.y)
        assert x == pytest.approx(0.4 + pocket.x * 1.004 - pocket.y * 0.01, abs=1e-3)
        left, top = round((x - 7) * per_x), round((60 - y - 7) * per_y)
        part = ink[top : top + round(14 * per_y), max(0, left) : left + round(14 * per_x)]
        rows, columns = np.indices(part.shape)
        middle = (
            (max(0, left) + (columns * part).sum() / part.sum() + 0.5) / per_x,
            60 - (top + (rows * part).sum() / part.sum() + 0.5) / per_y,
        )
        assert middle == pytest.approx((x, y), abs=0.1)
    codes = {check.code for check in run_checks(Facts(moved, store))}
    assert "corrected" in codes
    off = moved.replace(correction=moved.correction and moved.correction.replace(on=False))
    plain, bare = job_bed(off, store), job_bed(of, store)
    assert np.array_equal(plain.rows(0, 200), bare.rows(0, 200))
    gone = moved.replace(jig=moved.jig.replace(columns=1, rows=1))
    assert "correction-unclear" in {c.code for c in run_checks(Facts(gone, store))}
