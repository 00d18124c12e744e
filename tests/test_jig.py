"""Jigs: what must hold for every grid, guide and cutting file."""

from __future__ import annotations

import subprocess
from itertools import combinations, pairwise, product
from pathlib import Path
from xml.etree import ElementTree

import ezdxf
import numpy as np
import pikepdf
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import STRtree, affinity
from shapely.geometry import Point, Polygon, box
from shapely.ops import unary_union

from farbe.art.profiles import shipped_profile
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.files.cutting import write_cutting_file
from farbe.files.dxf import COLOURS
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.layout.bedframe import board_on_bed, from_bed, keep_out_polygon, to_bed
from farbe.layout.cutfile import crossing, cut_page
from farbe.layout.faced import Faced
from farbe.layout.fill import choices, fullest
from farbe.layout.guide import guide_ink, guide_shape, jig_code
from farbe.layout.laid import laid, places
from farbe.layout.pocketcuts import cut_of, notch_at, opening_for, pocket_cuts
from farbe.layout.pockets import Pocket, footprint, lying, pockets
from farbe.model.base import BadInput
from farbe.model.jig import (
    Board,
    CircleKeepOut,
    Corner,
    Datum,
    GuideStyle,
    Jig,
    NotchShape,
    Numbering,
    Pattern,
    RectangleKeepOut,
    Side,
)
from farbe.model.medium import Bed
from farbe.model.piece import Circle, Ellipse, Rectangle, Shape
from farbe.model.printer import Printer
from farbe.press.machine import SCALE, TestPress
from farbe.render.bed import job_bed
from farbe.render.guide import guide_bed
from farbe.samples.jobs import SAMPLES

PROFILE = shipped_profile()
PRINTER = Printer(name="Bed", bed_width=400, bed_height=300, max_piece_height=50)

shapes = st.one_of(
    st.builds(Circle, diameter=st.floats(15, 90)),
    st.builds(Ellipse, width=st.floats(15, 90), height=st.floats(15, 90)),
    st.builds(Rectangle, width=st.floats(15, 90), height=st.floats(15, 90)),
)
keep_outs = st.lists(
    st.one_of(
        st.builds(CircleKeepOut, x=st.floats(0, 300), y=st.floats(0, 200),
                  diameter=st.floats(1, 40)),
        st.builds(RectangleKeepOut, x=st.floats(0, 300), y=st.floats(0, 200),
                  width=st.floats(1, 60), height=st.floats(1, 60)),
    ),
    max_size=3,
)  # fmt: skip
boards = st.builds(
    Board, x=st.floats(0, 40), y=st.floats(0, 40), width=st.floats(90, 300),
    height=st.floats(90, 240),
)  # fmt: skip


def pieces(jig: Jig, shape: Shape, found: tuple[Pocket, ...]) -> list[Polygon]:
    """Every piece as it lies on the bed."""
    return [affinity.translate(lying(jig, shape), p.x, p.y) for p in found]


@settings(max_examples=30)
@given(shapes, boards, keep_outs, st.floats(0, 12), st.floats(0, 12), st.floats(0, 5))
def test_a_filled_board_never_overlaps_leaves_or_hits(
    shape: Shape, board: Board, zones: list, gap_x: float, gap_y: float, margin: float
) -> None:
    jig = Jig(name="x", board=board, first_x=0, first_y=0, gap_x=gap_x, gap_y=gap_y,
              keep_outs=tuple(zones))  # fmt: skip
    inner = box(
        board.x + margin, board.y + margin,
        board.x + board.width - margin, board.y + board.height - margin,
    ).buffer(1e-6)  # fmt: skip
    found = choices(jig, shape, PRINTER, margin)
    counts = [one.count for one in found]
    assert counts == sorted(counts, reverse=True)
    for one in found:
        laid = pieces(one.jig, shape, pockets(one.jig, shape, PRINTER))
        assert len(laid) == one.count
        for piece in laid:
            assert inner.contains(piece)
            for zone in zones:
                assert piece.intersection(keep_out_polygon(zone)).area < 1e-6
        least = min(gap_x, gap_y) - 1e-6
        if not laid:
            continue
        tree = STRtree(laid)
        one_of, other_of = tree.query(laid, predicate="dwithin", distance=max(least, 0.0))
        for index, other in zip(one_of.tolist(), other_of.tolist(), strict=True):
            if index < other:
                assert isinstance(shape, Ellipse) or laid[index].distance(laid[other]) >= least
                assert laid[index].intersection(laid[other]).area < 1e-6


@settings(max_examples=25)
@given(st.floats(12, 30), st.floats(12, 30), st.floats(30, 90), st.floats(30, 90))
def test_no_grid_on_a_small_board_holds_more(
    width: float, height: float, board_w: float, board_h: float
) -> None:
    """Against trying every number of columns and rows, upright and turned."""
    jig = Jig(name="x", board=Board(width=board_w, height=board_h), first_x=0, first_y=0,
              gap_x=2, gap_y=3)  # fmt: skip
    best = 0
    for w, h in ((width, height), (height, width)):
        for columns in range(1, 9):
            for rows in range(1, 9):
                if columns * (w + 2) - 2 <= board_w and rows * (h + 3) - 3 <= board_h:
                    best = max(best, columns * rows)
    shape = Rectangle(width=width, height=height)
    if best:
        assert fullest(jig, shape, PRINTER, 0.0).count >= best
    else:
        with pytest.raises(BadInput, match="Not one piece"):
            fullest(jig, shape, PRINTER, 0.0)


def test_staggered_circles_touch_at_the_gap_and_hold_more() -> None:
    jig = Jig(name="x", board=Board(width=400, height=300), first_x=0, first_y=0, gap_x=4, gap_y=4)
    ways = {one.jig.pattern: one for one in choices(jig, Circle(diameter=50), PRINTER, 0)}
    assert ways[Pattern.STAGGERED].count > ways[Pattern.SQUARE].count
    laid = pockets(ways[Pattern.STAGGERED].jig, Circle(diameter=50), PRINTER)
    apart = min(
        np.hypot(a.x - b.x, a.y - b.y) for i, a in enumerate(laid) for b in laid[i + 1 :]
    )  # fmt: skip
    assert apart == pytest.approx(54)


def test_numbers_follow_their_order() -> None:
    jig = Jig(name="x", board=Board(width=400, height=300), first_x=0, first_y=0, columns=3, rows=2)
    shape = Circle(diameter=20)

    def places(numbering: Numbering) -> list[tuple[int, int]]:
        found = pockets(jig.replace(numbering=numbering), shape, PRINTER)
        assert [p.number for p in found] == list(range(1, 7))
        return [(p.column, p.row) for p in found]

    assert places(Numbering.ROWS) == [(0, 0), (1, 0), (2, 0), (0, 1), (1, 1), (2, 1)]
    assert places(Numbering.COLUMNS) == [(0, 0), (0, 1), (1, 0), (1, 1), (2, 0), (2, 1)]
    assert places(Numbering.BACK_AND_FORTH) == [(0, 0), (1, 0), (2, 0), (2, 1), (1, 1), (0, 1)]
    few = pockets(jig.replace(first_only=4, off=frozenset({2})), shape, PRINTER)
    assert [p.number for p in few if p.on] == [1, 3, 4]


@pytest.mark.parametrize("corner", list(Corner))
def test_a_datum_measures_into_the_bed(corner: Corner) -> None:
    datum = Datum(corner=corner, x=7, y=11)
    x, y = to_bed(datum, PRINTER, 30, 40)
    assert from_bed(datum, PRINTER, x, y) == pytest.approx((30, 40))
    assert x == (37 if "left" in corner.value else 400 - 37)
    assert y == (51 if "near" in corner.value else 300 - 51)
    jig = Jig(name="x", board=Board(x=5, y=5, width=200, height=100), datum=datum,
              first_x=10, first_y=10, columns=3, rows=2)  # fmt: skip
    laid = pockets(jig, Rectangle(width=20, height=10), PRINTER)
    board = box(*board_on_bed(jig.board, datum, PRINTER))
    assert all(board.contains(piece) for piece in pieces(jig, Rectangle(width=20, height=10), laid))
    steps = {round(b.x - a.x, 6) for a, b in pairwise(laid) if a.row == b.row}
    assert steps == {25.0 if "left" in corner.value else -25.0}


def test_turning_the_board_turns_guide_and_artwork_alike(job: Faced, store: ArtStore) -> None:
    """Each pocket's guide and print is what it was, in reverse order, to a pixel of its place."""
    # The printed code tells a turned board apart, so it is left out here.
    job = job.replace(guide=job.guide.replace(numbers=False))
    for of in (lambda j: job_bed(j, store), guide_bed):
        straight, turned = of(job), of(job.replace(medium=Bed(turned=True)))
        height, grid = straight.size[1], straight.grid
        whole, over = straight.rows(0, height), turned.rows(0, height)[::-1, ::-1]
        wide, high = (round(13 * per_mm / 2) for per_mm in (grid.per_mm_x, grid.per_mm_y))
        for piece in laid(job):
            row = round((straight.frame.height - piece.y) * grid.per_mm_y)
            column = round(piece.x * grid.per_mm_x)
            rows, columns = slice(row - high, row + high), slice(column - wide, column + wide)
            assert whole[rows, columns].any()
            assert any(
                np.array_equal(whole[rows, columns], np.roll(over, by, (0, 1))[rows, columns])
                for by in product((-1, 0, 1), repeat=2)
            )
        assert np.array_equal(turned.rows(40, 90), turned.rows(0, height)[40:90])


def test_turned_pieces_are_the_same_print_turned(job: Faced, store: ArtStore) -> None:
    piece = job.piece.replace(shape=Rectangle(width=14, height=8))
    upright = job.replace(
        piece=piece, printer=job.printer.replace(dpi_x=200, dpi_y=200),
        jig=job.jig.replace(columns=1, rows=1, first_x=20, first_y=20),
    )  # fmt: skip
    turned = upright.replace(jig=upright.jig.replace(turned=True))
    one = job_bed(upright, store).laid[0].tile
    other = job_bed(turned, store).laid[0].tile
    assert np.array_equal(np.rot90(one.rows(0, one.size[1])), other.rows(0, other.size[1]))
    assert footprint(turned.jig, piece.shape) == (8, 14)


@pytest.mark.parametrize("style", list(GuideStyle))
def test_guides_keep_their_distance(style: GuideStyle, job: Faced) -> None:
    guide = job.guide.replace(style=style, distance=0.7)
    for shape in (Circle(diameter=40), Rectangle(width=50, height=30, corner_radius=6)):
        piece = lying(job.jig, shape)
        printed = guide_shape(guide, piece)
        assert printed.area > 0
        assert printed.distance(piece) >= 0.7 - 1e-3
        if style is not GuideStyle.TICKS:
            assert printed.distance(piece) == pytest.approx(0.7, abs=5e-3)
        if style is GuideStyle.KERB:
            assert not printed.intersects(box(-0.1, -100, 0.1, 100))
            assert len(printed.geoms) == 4


def test_the_guide_can_be_seen_on_its_board(job: Faced) -> None:
    def ink(colour: str, **guide: object) -> str:
        board = job.jig.board.replace(colour=colour)
        return guide_ink(
            job.replace(jig=job.jig.replace(board=board), guide=job.guide.replace(**guide))
        ).name

    assert ink("#202020") == "White" and ink("#f0ead8") == "Black"
    assert ink("#202020", ink="Black") == "Black"
    assert ink("#202020", style=GuideStyle.KERB) == "Varnish"


def test_the_code_tells_jigs_apart(job: Faced) -> None:
    code = jig_code(job)
    assert len(code) == 7 and code == jig_code(job.replace(name="Other", stack=job.stack[:1]))
    moved = job.replace(jig=job.jig.replace(first_x=job.jig.first_x + 0.01))
    wider = job.replace(piece=job.piece.replace(shape=Circle(diameter=11.4)))
    other = {jig_code(j) for j in (moved, wider, job.replace(medium=Bed(turned=True)))}
    assert len(other | {code}) == 4


@pytest.mark.parametrize("style", list(GuideStyle))
@pytest.mark.parametrize("turned", [False, True])
def test_the_press_finds_every_kind_of_guide(
    job: Faced, store: ArtStore, tmp_path: Path, style: GuideStyle, turned: bool
) -> None:
    guide = job.guide.replace(style=style, tick_length=2.0, kerb_width=1.0, finger_gap=3.0,
                              kerb_hits=2)  # fmt: skip
    of = job.replace(guide=guide, medium=Bed(turned=turned))
    hand_off(of.job, store, tmp_path)
    press = TestPress()
    ticket = press.take(tmp_path)
    press.print_run("guide", lambda *_: None)
    assert press.place() == 12
    for pocket in ticket.pockets:
        near = min(
            np.hypot(x - pocket.x, y - pocket.y) for x, y in ((p.x, p.y) for p in press.bed.pieces)
        )
        assert near <= 1.5 / SCALE
    press.print_run("artwork", lambda *_: None)


def test_the_press_stops_when_guide_and_artwork_disagree(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    moved = job.replace(jig=job.jig.replace(first_x=job.jig.first_x + 2))
    for name, of in (("one", job), ("moved", moved)):
        hand_off(of.job, store, tmp_path / name)
    press = TestPress()
    press.take(tmp_path / "one")
    press.print_run("guide", lambda *_: None)
    press.take(tmp_path / "moved", keep_board=True)
    press.place()
    with pytest.raises(BadInput, match=jig_code(job)):
        press.print_run("artwork", lambda *_: None)
    press.take(tmp_path / "one", keep_board=True)
    press.place()
    press.print_run("artwork", lambda *_: None)


def test_bleed_is_held_against_the_nearest_neighbour(job: Faced, store: ArtStore) -> None:
    """Staggered circles are nearest on the slant; the gap there is the gap along."""
    jig = job.jig.replace(pattern=Pattern.STAGGERED, gap_x=4, gap_y=2)

    def codes(bleed: float) -> set[str]:
        of = job.replace(jig=jig, bleed=bleed)
        return {c.code for c in run_checks(Facts(of, store))}

    assert "bleed-overlaps" not in codes(0.99)
    assert "bleed-overlaps" in codes(1.01)


def test_a_kerb_without_varnish_stops(job: Faced, store: ArtStore) -> None:
    inks = tuple(ink for ink in job.printer.inks if ink.name != "Varnish")
    of = job.replace(
        printer=job.printer.replace(inks=inks),
        stack=job.stack[:2],
        guide=job.guide.replace(style=GuideStyle.KERB),
    )
    found = run_checks(Facts(of, store))
    assert found[0].code == "kerb-without-varnish" and found[0].fix is not None
    assert found[0].fix.mend(of).guide.style is GuideStyle.OUTLINE


def test_nothing_crosses_in_a_board_of_coasters(store: ArtStore) -> None:
    """Notches go where there is room; all material between two cuts is a millimetre wide."""
    job = Faced(SAMPLES["jar-lids"](store))
    for gap, notch in ((5.0, 18.0), (2.0, 18.0), (12.0, 30.0), (30.0, 18.0)):
        jig = job.jig.replace(columns=3, rows=2, gap_x=gap, gap_y=gap, off=frozenset(),
                              first_only=None, keep_outs=())  # fmt: skip
        made = job.replace(jig=jig, cutting=job.cutting.replace(notch=notch))
        cuts = pocket_cuts(made)
        assert len(cuts) == 6 and crossing(cut_page(made)) is None
        for one, other in combinations(cuts, 2):
            assert one.opening.distance(other.opening) > min(0.99, gap - 0.61)
        if gap == 30.0:
            assert all(cut.sides == (Side.LEFT, Side.RIGHT) for cut in cuts)
        elif gap == 5.0:
            # Each has one that lets a finger in, toward the board's edge if not beside it.
            assert sum(bool(cut.sides) for cut in cuts) >= 5
    close = job.jig.replace(columns=3, rows=2, gap_x=5.0, gap_y=5.0, keep_outs=())
    touching = job.replace(jig=close, cutting=job.cutting.replace(clearance=4.0))
    with pytest.raises(BadInput, match=r"Cut lines of pocket \d+ and pocket \d+ cross at"):
        write_cutting_file(touching, store, Path("never.svg"))


def test_a_round_tool_gets_into_the_corners(job: Faced) -> None:
    piece = lying(job.jig, Rectangle(width=50, height=30))
    opening = opening_for(job.cutting.replace(tool=6.0), piece)
    # What a tool of 6 mm can clear of it still lets the piece in.
    cleared = opening.buffer(-3.0, quad_segs=64).buffer(3.0 + 1e-3, quad_segs=64)
    assert cleared.contains(piece)
    sharp = opening_for(job.cutting, piece)
    assert not sharp.buffer(-3.0, quad_segs=64).buffer(3.001, quad_segs=64).contains(piece)
    round_ = lying(job.jig, Circle(diameter=40))
    assert opening_for(job.cutting.replace(tool=6.0), round_).equals(
        opening_for(job.cutting, round_)
    )


@pytest.fixture
def cut(job: Faced) -> Faced:
    jig = job.jig.replace(keep_outs=(CircleKeepOut(x=15, y=13, diameter=4),))
    return job.replace(jig=jig, cutting=job.cutting.replace(notch=2.0))


def wanted_lines(job: Faced) -> list[np.ndarray]:
    """Piece, clearance and a half round notch left and right, less half the kerf."""
    opening = lying(job.jig, job.piece.shape).buffer(job.cutting.clearance, quad_segs=64)
    left, _, right, _ = opening.bounds
    ends = [Point(x, 0).buffer(job.cutting.notch / 2, quad_segs=64) for x in (left, right)]
    line = unary_union([opening, *ends]).buffer(-job.cutting.kerf / 2)
    return [
        np.array(affinity.translate(line, p.x, p.y).bounds) for p in laid(job)
    ]  # fmt: skip


def test_the_cut_opening_lets_the_piece_in(job: Faced) -> None:
    plain = job.cutting.replace(notch=0.0)
    for shape in (Circle(diameter=40), Rectangle(width=50, height=30)):
        piece = lying(job.jig, shape)
        line = cut_of(opening_for(plain, piece), plain.kerf)
        opening = line.buffer(plain.kerf / 2, join_style="mitre")
        grown = opening.buffer(-plain.clearance + 2e-3, join_style="mitre")
        assert grown.contains(piece)
        left, bottom, right, top = line.bounds
        assert right - left == pytest.approx(shape.width + 2 * 0.3 - 0.15, abs=2e-3)
        assert top - bottom == pytest.approx(shape.height + 2 * 0.3 - 0.15, abs=2e-3)
        notched = plain.replace(notch=10.0)
        for deep in (2.0, 5.0, 8.0):
            for kind in NotchShape:
                notch = notch_at(
                    notched.replace(notch_shape=kind), opening_for(plain, piece), Side.RIGHT, deep
                )
                reach = notch.bounds[2] - opening.bounds[2]
                assert reach == pytest.approx(deep, abs=0.01)
                assert notch.bounds[3] - notch.bounds[1] == pytest.approx(10, abs=0.01)


def test_svg_measures_right(cut: Faced, store: ArtStore, tmp_path: Path) -> None:
    write_cutting_file(cut, store, tmp_path / "jig.svg")
    tree = ElementTree.parse(tmp_path / "jig.svg").getroot()
    assert (tree.get("width"), tree.get("viewBox")) == ("80mm", "0 0 80 60")
    found = []
    for path in (e for e in tree.iter() if e.get("id", "").startswith("pocket")):
        points = np.array(
            [[float(v) for v in p.split()] for p in path.get("d", "").strip("MZ").split("L")]
        )
        points[:, 1] = 60 - points[:, 1]
        found.append(np.r_[points.min(axis=0), points.max(axis=0)])
    assert np.allclose(found, wanted_lines(cut), atol=1e-3)
    assert len(found) == len(places(cut)) < 12


def test_dxf_passes_its_audit_and_measures_right(
    cut: Faced, store: ArtStore, tmp_path: Path
) -> None:
    write_cutting_file(cut, store, tmp_path / "jig.dxf")
    drawing = ezdxf.readfile(tmp_path / "jig.dxf")
    assert not drawing.audit().has_errors and drawing.units == 4
    space = drawing.modelspace()
    layers = {layer: space.query(f'LWPOLYLINE[layer=="{layer}"]') for layer in COLOURS}
    lines = [np.array(e.get_points("xy")) for e in layers["POCKETS"]]
    assert all(e.closed for e in drawing.modelspace().query("LWPOLYLINE"))
    found = [np.r_[p.min(axis=0), p.max(axis=0)] for p in lines]
    assert np.allclose(found, wanted_lines(cut), atol=2e-3)
    (board,), (pin,) = (
        [np.array(e.get_points("xy")) for e in layers[layer]] for layer in ("BOARD", "PINS")
    )
    kerf, plate = cut.cutting.kerf, cut.jig.board
    assert np.ptp(board, axis=0) == pytest.approx((plate.width + kerf, plate.height + kerf))
    assert np.ptp(pin, axis=0) == pytest.approx((4 - kerf, 4 - kerf), abs=1e-2)
    # Figures are outlines: the number of the first pocket is as high as it is said to be.
    figure = np.array(layers["FIGURES"][0].get_points("xy"))
    assert np.ptp(figure, axis=0)[1] in (pytest.approx(4.0, abs=0.1), pytest.approx(2.4, abs=0.1))
    assert not space.query("TEXT")


def test_pdf_measures_right(cut: Faced, store: ArtStore, tmp_path: Path) -> None:
    path = tmp_path / "jig.pdf"
    write_cutting_file(cut, store, path)
    with pikepdf.open(path) as pdf:
        group = pdf.Root.OCProperties.OCGs[0]
        assert group.GTS_Metadata.GTS_ProcStepsType == pikepdf.Name.Cutting
    box_ = subprocess.run(
        ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=tiffsep", "-r508",
         f"-sOutputFile={tmp_path}/s.tif", str(path)], check=True, capture_output=True,
    )  # fmt: skip
    assert box_.returncode == 0
    from PIL import Image

    plate = 255 - np.asarray(Image.open(tmp_path / "s(Cut).tif"))
    per_mm = 20.0
    for left, bottom, right, top in wanted_lines(cut):
        rows = slice(round((60 - top - 1) * per_mm), round((60 - bottom + 1) * per_mm))
        part = plate[rows, round((left - 1) * per_mm) : round((right + 1) * per_mm)] > 60
        columns = np.flatnonzero(part.any(axis=0))
        width = (columns[-1] - columns[0] + 1) / per_mm
        assert width == pytest.approx(right - left + 0.1, abs=0.11)


def test_too_many_pockets_are_refused(job: Faced) -> None:
    with pytest.raises(BadInput, match="too many"):
        job.jig.replace(columns=1000, rows=1000)


def test_a_kerb_along_some_sides(job: Faced) -> None:
    """What is left out lies on that side; together the sides make the whole kerb."""
    piece = lying(job.jig, Rectangle(width=30, height=20))
    guide = job.guide.replace(style=GuideStyle.KERB, finger_gap=4)
    whole = guide_shape(guide, piece)
    sides = {s: guide_shape(guide.replace(kerb_sides=(s,)), piece) for s in Side}
    assert sum(part.area for part in sides.values()) == pytest.approx(whole.area)
    _, bottom, _, top = sides[Side.FAR].bounds
    assert bottom > 0 and top == pytest.approx(whole.bounds[3])
    assert sides[Side.LEFT].bounds[2] < 0
