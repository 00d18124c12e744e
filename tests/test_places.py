"""Pockets that are told one by one: where they lie, how they are turned, who uses them."""

from __future__ import annotations

import math
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from shapely import affinity
from shapely.geometry import Polygon, box

from conftest import some
from farbe.checks.check import Facts
from farbe.checks.placerules import LEAST_OVERLAP, pockets_keep_apart
from farbe.checks.rules import pockets_inside, run_checks
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.layout.beside import beside
from farbe.layout.cutfile import cut_page
from farbe.layout.faced import Faced
from farbe.layout.guide import guide_reach, jig_code
from farbe.layout.laid import laid, places
from farbe.layout.outline import mirrored_across
from farbe.layout.placing import largest_inside
from farbe.model.base import BadInput
from farbe.model.face import Face, Turn, Turning
from farbe.model.jig import CircleKeepOut, Place, PocketKind
from farbe.model.piece import Circle, Outline, Rectangle
from farbe.render.bed import job_bed
from farbe.render.guide import guide_bed

#: A piece that is unlike its mirror image and unlike itself turned.
HOOK = Outline(rings=(((-9, -6), (9, -6), (9, -1), (-2, -1), (-2, 6), (-9, 6)),))


def at_places(job: Faced, *places_: tuple[float, float, float], **fields: object) -> Faced:
    made = tuple(Place(x=x, y=y, turn=turn) for x, y, turn in places_)
    return job.replace(jig=job.jig.replace(places=made, **fields))


def bed_of(job: Faced, store: ArtStore) -> np.ndarray:
    bed = job_bed(job, store)
    rows = bed.rows(0, bed.size[1])
    assert rows is not None
    return rows


def test_places_of_a_grid_print_what_the_grid_prints(job: Faced, store: ArtStore) -> None:
    grid = places(job)
    told = at_places(job, *((p.x, p.y, 0.0) for p in grid))
    assert np.array_equal(bed_of(told, store), bed_of(job, store))
    assert jig_code(told) == jig_code(job)
    one, two = guide_bed(told), guide_bed(job)
    assert np.array_equal(one.rows(0, one.size[1]), two.rows(0, two.size[1]))
    assert [(n, line.tolist()) for n, line in cut_page(told).lines] == [
        (n, line.tolist()) for n, line in cut_page(job).lines
    ]


@pytest.mark.parametrize("turn", some([90.0, 37.0, 301.5], 37.0))
def test_a_turned_piece_prints_what_a_straight_one_does(
    job: Faced, store: ArtStore, turn: float
) -> None:
    """Against the straight print, turned by an independent resampler."""
    even = job.printer.replace(dpi_x=200, dpi_y=200)
    piece = job.piece.replace(shape=HOOK)
    straight = at_places(job.replace(printer=even, piece=piece), (39, 28, 0))
    turned = at_places(job.replace(printer=even, piece=piece), (39, 28, turn))
    one, two = bed_of(straight, store), bed_of(turned, store)
    high = one.shape[0]
    middle = 39 * 200 / 25.4, high - 28 * 200 / 25.4
    oracle = np.dstack(
        [
            np.asarray(Image.fromarray(plate).rotate(turn, Image.Resampling.BICUBIC, center=middle))
            for plate in np.moveaxis(one, 2, 0)
        ]
    ).astype(int)
    off = {
        (x, y): np.abs(oracle - np.roll(two, (y, x), (0, 1))).sum() / oracle.sum()
        for x in range(-4, 5)
        for y in range(-4, 5)
    }
    # A tile lies on whole pixels: half a pixel off at the most, and edges differ by as much.
    best = min(off, key=lambda by: off[by])
    assert max(map(abs, best)) <= 1 and off[best] < 0.1, (best, off[best])
    assert off[4, 0] > 0.2


def test_all_that_belongs_to_a_piece_turns_with_it(job: Faced) -> None:
    turned = at_places(job.replace(piece=job.piece.replace(shape=HOOK)), (30, 30, 0), (60, 30, 33))
    turned = turned.replace(cutting=turned.cutting.replace(notch=0.0))
    straight, askew = laid(turned)
    expected = affinity.rotate(straight.outline, 33, origin=(0, 0))
    assert askew.outline.symmetric_difference(expected).area < 1e-6
    lines = dict(cut_page(turned).lines)
    back = lines["pocket-2"] - (60, 30)
    c, s = math.cos(math.radians(33)), math.sin(math.radians(33))
    back = Polygon(back @ [[c, -s], [s, c]])
    assert back.symmetric_difference(Polygon(lines["pocket-1"] - (30, 30))).area < 1e-6
    assert jig_code(turned) != jig_code(at_places(turned, (30, 30, 0), (60, 30, 34)))


@pytest.mark.parametrize("turn", list(Turn))
@pytest.mark.parametrize("board", [True, False])
def test_side_b_of_a_turned_piece_lies_on_its_side_a(job: Faced, turn: Turn, board: bool) -> None:
    """The board turned over as a stiff body, or each piece in a pocket of its own shape."""
    made = at_places(job.replace(piece=job.piece.replace(shape=HOOK)), (30, 20, 25), (60, 33, 200))
    two = Faced(
        made.job.replace(
            faces=(made.face, Face(stack=made.stack, artworks=made.artworks)),
            comes_up=Turning(turn=turn, board=board),
        )
    )
    other = two.other
    assert other is not None
    plate = two.jig.board
    for front, back in zip(laid(two), laid(other), strict=True):
        if not board:
            # In its pocket, about the pocket's own axis.
            upright = affinity.rotate(front.outline, -front.turn, origin=(0, 0))
            over = mirrored_across(upright)
            over = over if turn is Turn.SIDEWAYS else affinity.rotate(over, 180, origin=(0, 0))
            expected = affinity.rotate(over, front.turn, origin=(0, 0))
            assert (back.x, back.y) == (front.x, front.y)
        else:
            across = (-1, 1) if turn is Turn.SIDEWAYS else (1, -1)
            expected = affinity.scale(front.outline, *across, origin=(0, 0))
            about = plate.x + plate.width / 2, plate.y + plate.height / 2
            assert back.x == pytest.approx(
                2 * about[0] - front.x if across[0] < 0 else front.x
            ) and back.y == pytest.approx(2 * about[1] - front.y if across[1] < 0 else front.y)
        assert back.outline.symmetric_difference(expected).area < 1e-6


def test_pieces_over_each_other_or_on_a_clamp_are_stops(job: Faced, store: ArtStore) -> None:
    square = job.replace(piece=job.piece.replace(shape=Rectangle(width=20, height=10)))
    free = at_places(square, (20, 20, 0), (20, 31, 0))
    codes = {check.code for check in run_checks(Facts(free, store))}
    assert not codes & {"pockets-overlap", "pocket-in-keep-out"}
    askew = at_places(square, (20, 20, 0), (20, 31, 30))
    pin = CircleKeepOut(x=36, y=26, diameter=8)
    found = {c.code: c.text for c in run_checks(Facts(askew, store))}
    assert "1" in found["pockets-overlap"] and "2" in found["pockets-overlap"]
    under = at_places(square, (20, 20, 0), (20, 31, 0), keep_outs=(pin.replace(x=33, y=31),))
    found = {c.code: c.text for c in run_checks(Facts(under, store))}
    assert "pocket 2" in found["pocket-in-keep-out"]
    assert len(laid(under)) == 2


def shared(job: Faced) -> tuple[Faced, Faced]:
    """Two jobs on one board with pockets of two kinds."""
    kinds = (
        PocketKind(name="tag", shape=Rectangle(width=20, height=10), height=3),
        PocketKind(name="hook", shape=HOOK, height=3),
    )
    spread = tuple(
        Place(x=15 + 24 * (n % 3), y=10 + 16 * (n // 3), turn=20 * n, kind=n % 2) for n in range(6)
    )
    one, two = (
        job.replace(
            name=kind.name,
            piece=job.piece.replace(name=kind.name, shape=kind.shape),
            jig=job.jig.replace(places=spread, kinds=kinds, kind=number),
        )
        for number, kind in enumerate(kinds)
    )
    return one, two


def test_jobs_share_a_board_with_several_kinds_of_pockets(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    one, two = shared(job)
    assert [p.shown for p in laid(one)] == [1, 3, 5] and [p.shown for p in laid(two)] == [2, 4, 6]
    assert jig_code(one) == jig_code(two)
    both = tuple(Faced(made) for made in beside((one.job, two.job)))
    assert [(p.x, p.y) for p in laid(both[1])] == [(p.x, p.y) for p in laid(two)]
    done = hand_off(both[0].job, store, tmp_path / "out", others=(both[1].job,))
    assert sorted(pocket.number for pocket in done.pockets) == [1, 2, 3, 4, 5, 6]
    with pytest.raises(BadInput, match="both print into pocket 1"):
        beside((one.job, one.job))


@given(
    st.lists(
        st.tuples(st.floats(-5, 85), st.floats(-5, 60), st.floats(0, 359)), min_size=1, max_size=9
    )
)
@settings(max_examples=40)
def test_nothing_overlaps_or_lies_outside_unless_it_is_said(
    job: Faced, store: ArtStore, spots: list[tuple[float, float, float]]
) -> None:
    """Against every pair and every corner by brute force."""
    made = at_places(job.replace(bleed=0.0, piece=job.piece.replace(shape=HOOK)), *spots)
    outlines = [
        affinity.translate(affinity.rotate(Polygon(HOOK.rings[0]), turn, origin=(0, 0)), x, y)
        for x, y, turn in spots
    ]
    facts = Facts(made, store, exact=False)
    said = {check.code for rule in (pockets_keep_apart, pockets_inside) for check in rule(facts)}
    shared = max((a.intersection(b).area for a, b in combinations(outlines, 2)), default=0.0)
    if abs(shared - LEAST_OVERLAP) > 1e-6:
        assert ("pockets-overlap" in said) is (shared > LEAST_OVERLAP)
    reach = guide_reach(made.guide)
    bed = box(0, 0, made.printer.bed_width, made.printer.bed_height)
    if any(not bed.contains(one) for one in outlines):
        assert "outside-bed" in said
    if all(bed.contains(one.envelope.buffer(3 * reach + 20)) for one in outlines):
        assert "outside-bed" not in said


@pytest.mark.parametrize("turned", [0.0, 30.0])
def test_inside_the_outline_is_as_large_as_goes(job: Faced, turned: float) -> None:
    """Against a fine search of all middles by brute force."""
    shape = HOOK.replace(rings=(tuple((x * 2, y * 2) for x, y in HOOK.rings[0]),))
    x, y, scale = largest_inside(shape, 0.5, 12.0, 5.0, turned)
    room = Polygon(shape.rings[0]).buffer(-0.5)
    placed = affinity.rotate(box(-6, -2.5, 6, 2.5), turned, origin=(0, 0))

    def fits(at_x: float, at_y: float, by: float) -> bool:
        return room.contains(affinity.affine_transform(placed, (by, 0, 0, by, at_x, at_y)))

    assert fits(x, y, scale - 1e-3)
    beaten = [
        (a, b) for a in np.arange(-18, 18, 0.5) for b in np.arange(-12, 12, 0.5)
        if fits(a, b, scale * 1.03)
    ]  # fmt: skip
    assert not beaten
    # In a circle the diagonal counts, and not its box.
    assert largest_inside(Circle(diameter=50), 0.0, 30, 40, 0.0)[2] == pytest.approx(1, abs=2e-3)
