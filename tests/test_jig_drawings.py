"""Jigs from drawings: board, pockets of several shapes, pins, and what does not close."""

from __future__ import annotations

import math
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Polygon

from farbe.files.jigdrawing import read_jig_drawing
from farbe.layout.alike import lies_as
from farbe.layout.bedframe import from_bed
from farbe.layout.drawnjig import (
    DrawnPocket,
    Use,
    kinds_of,
    pocket_of,
    proposed,
    told_apart,
    with_drawn,
)
from farbe.layout.faced import Faced
from farbe.layout.laid import places
from farbe.layout.outline import outline
from farbe.model.base import BadInput
from farbe.model.jig import Corner, RectangleKeepOut
from farbe.model.piece import Circle, Ellipse, Outline, Rectangle

HOOK = [(-9, -6), (9, -6), (9, -1), (-2, -1), (-2, 6), (-9, 6)]
#: Kind, x, y and turn of every pocket that is drawn.
SPOTS = [
    (("tag", "hook", "coin")[n % 3], 22.0 + 33 * (n % 8), 22.0 + 36 * (n // 8), float(17 * n % 360))
    for n in range(40)
]


def draw(path: Path, *, gap: float = 0.0, hook: list[tuple[float, float]] = HOOK) -> Path:
    """A board of 300 × 200 with 40 pockets, mostly blocks, and two pins; moved off the zero."""
    drawing = ezdxf.new(units=ezdxf.units.MM)
    space = drawing.modelspace()
    for layer in ("board", "pockets", "pins"):
        drawing.layers.add(layer)
    space.add_lwpolyline(
        [(500, 100), (800, 100), (800, 300), (500, 300)], close=True, dxfattribs={"layer": "board"}
    )
    tag = drawing.blocks.new("TAG")
    bulge = math.tan(math.pi / 8)
    corners = [(-9, -7.5, 0), (9, -7.5, bulge), (12, -4.5, 0), (12, 4.5, bulge),
               (9, 7.5, 0), (-9, 7.5, bulge), (-12, 4.5, 0), (-12, -4.5, bulge)]  # fmt: skip
    tag.add_lwpolyline(corners, format="xyb", close=True)
    block = drawing.blocks.new("HOOK")
    for one, other in zip(hook, hook[1:] + hook[:1], strict=True):
        # Single lines in any order and direction, which meet but for the gap.
        way = np.subtract(other, one) / math.dist(one, other)
        start, end = np.add(one, way * gap / 2), np.subtract(other, way * gap / 2)
        block.add_line(*((start, end) if one[0] < other[0] else (end, start)))
    for kind, x, y, turn in SPOTS:
        at = (500 + x, 100 + y)
        if kind == "coin":
            space.add_circle(at, 10, dxfattribs={"layer": "pockets"})
        else:
            space.add_blockref(kind.upper(), at, dxfattribs={"rotation": turn, "layer": "pockets"})
    for x in (508, 792):
        space.add_circle((x, 292), 4, dxfattribs={"layer": "pins"})
    drawing.saveas(path)
    return path


def test_a_drawn_jig_is_what_was_drawn(job: Faced, tmp_path: Path) -> None:
    drawn = read_jig_drawing(draw(tmp_path / "jig.dxf"))
    assert drawn.board is not None and drawn.open == ()
    kinds = kinds_of(drawn)
    assert sorted(len(kind.lies) for kind in kinds) == [2, 13, 13, 14]
    assert proposed(kinds, Circle(diameter=20)).count(Use.PIN) == 1
    coin = next(kind for kind in kinds if kind.shape == Circle(diameter=20.0))
    tag = next(kind for kind in kinds if isinstance(kind.shape, Rectangle))
    assert tag.shape == Rectangle(width=24, height=15, corner_radius=3)
    assert len(coin.lies) == 13
    uses = tuple(
        Use.PIN if kind.shape == Circle(diameter=8.0) else Use.PIECE if kind is tag else Use.OTHER
        for kind in kinds
    )
    wide = job.replace(printer=job.printer.replace(bed_width=400, bed_height=300))
    made = with_drawn(wide, drawn, kinds, uses, clearance=0.25)
    assert made.piece.shape == Rectangle(width=23.5, height=14.5, corner_radius=2.75)
    assert (made.jig.board.width, made.jig.board.height) == (300, 200)
    assert [zone.diameter for zone in made.jig.keep_outs] == [8, 8]
    seen = {
        (kind.name, round(p.x, 2), round(p.y, 2), round(p.turn) % 360)
        for number, kind in enumerate(made.jig.kinds)
        for p in places(
            made.replace(
                jig=made.jig.replace(kind=number), piece=made.piece.replace(shape=kind.shape)
            )
        )
    }
    board = made.jig.board
    names = {"tag": made.piece.name, "coin": "round 20 mm", "hook": "outline 18 × 12 mm"}
    assert seen == {
        (names[kind], round(board.x + x, 2), round(board.y + y, 2), turn if kind != "coin" else 0)
        for kind, x, y, turn in SPOTS
    }


def test_pockets_of_the_stated_piece_keep_it_and_clamps_stay(job: Faced) -> None:
    """The pocket of an oval is drawn larger than it; the piece stays what was stated."""
    oval = Ellipse(width=30, height=18)
    clamp = RectangleKeepOut(x=0, y=0, width=5, height=5)
    there = job.replace(
        piece=job.piece.replace(shape=oval), jig=job.jig.replace(keep_outs=(clamp,))
    )
    pocket = outline(oval, grow=0.4)
    lines = [
        DrawnPocket(affinity.translate(affinity.rotate(pocket, turn, origin=(0, 0)), x, 15))
        for x, turn in ((20, 0), (55, 40))
    ]
    known = pocket_of(oval, 0.4)
    kinds = kinds_of(told_apart(lines), known)
    assert len(kinds) == 1 and proposed(kinds, known) == (Use.PIECE,)
    made = with_drawn(there, told_apart(lines), kinds, (Use.PIECE,), 0.4)
    assert made.piece.shape == oval and made.jig.keep_outs == (clamp,)
    assert [round(p.turn) % 180 for p in places(made)] == [0, 40]


@pytest.mark.parametrize("corner", list(Corner))
def test_a_drawing_lies_as_drawn_from_any_datum(job: Faced, tmp_path: Path, corner: Corner) -> None:
    path = tmp_path / "jig.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
        '<rect x="0" y="0" width="60" height="40"/>'
        '<path d="M5 25 h20 v5 h-12 v6 h-8 z"/>'
        '<path d="M5 25 h20 v5 h-12 v6 h-8 z" transform="translate(30 -15)"/>'
        "</svg>"
    )
    drawn = read_jig_drawing(path)
    datum = job.jig.datum.replace(corner=corner, x=3, y=4)
    there = job.replace(jig=job.jig.replace(datum=datum))
    kinds = kinds_of(drawn)
    made = with_drawn(there, drawn, kinds, (Use.PIECE,), 0.0)
    low, high = sorted(places(made), key=lambda one: one.x)
    # SVG counts down, the bed away from the operator.
    assert high.x - low.x == pytest.approx(30) and high.y - low.y == pytest.approx(15)
    assert isinstance(made.piece.shape, Outline) and not low.turn
    x, y = from_bed(datum, job.printer, low.x, low.y)
    assert any((x, y) == pytest.approx((one.x, one.y)) for one in made.jig.places)


def test_gaps_are_closed_up_to_a_stated_size_and_told_where(tmp_path: Path) -> None:
    path = draw(tmp_path / "open.dxf", gap=0.4)
    assert len(read_jig_drawing(path, 0.5).pockets) == 42
    drawn = read_jig_drawing(path, 0.1)
    assert len(drawn.open) == 6 * 13 and len(drawn.pockets) == 29
    hooks = [(500 + x, 100 + y) for kind, x, y, _ in SPOTS if kind == "hook"]
    for one in drawn.open:
        assert min(math.dist(hook, (one.x, one.y)) for hook in hooks) < 11
    with pytest.raises(BadInput, match="between 0 and 5"):
        read_jig_drawing(path, 0)


@given(
    corners=st.lists(st.tuples(st.floats(4, 20), st.floats(0.2, 1.0)), min_size=4, max_size=12),
    turn=st.floats(0, 359.9),
    x=st.floats(-300, 300),
    y=st.floats(-300, 300),
    first=st.integers(0, 11),
)
@settings(max_examples=15)
@pytest.mark.long
def test_any_outline_is_known_again_whatever_its_turn(
    corners: list[tuple[float, float]], turn: float, x: float, y: float, first: int
) -> None:
    angles = np.cumsum([share for _, share in corners])
    angles *= math.tau / angles[-1]
    ring = [(r * math.cos(a), r * math.sin(a)) for (r, _), a in zip(corners, angles, strict=True)]
    known = Polygon(ring)
    moved = affinity.translate(affinity.rotate(known, turn, origin=(0, 0)), x, y)
    other = Polygon(np.roll(np.asarray(moved.exterior.coords)[:-1], first, axis=0))
    for found in (other, other.segmentize(2.0)):
        lies = lies_as(found, known)
        assert lies is not None
        back = affinity.translate(affinity.rotate(known, lies.turn, origin=(0, 0)), lies.x, lies.y)
        assert back.hausdorff_distance(moved) < 0.5
        assert back.symmetric_difference(moved).area < 0.1 * moved.length
