"""Where things lie, measured in millimetres on the finished plates."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from shapely import affinity

from conftest import behind, sided
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.layout.bedframe import from_bed, keep_out_on_bed, to_bed
from farbe.layout.correction import by_datum
from farbe.layout.faced import Faced
from farbe.layout.guide import jig_code
from farbe.layout.laid import laid, printed
from farbe.layout.pockets import lying, pockets
from farbe.model.artwork import ArtworkFile
from farbe.model.correction import Correction, Measured
from farbe.model.face import Turning
from farbe.model.jig import CircleKeepOut, Corner, Datum, Jig, Numbering
from farbe.model.layer import COLOUR, Layer
from farbe.model.marks import Marks
from farbe.model.medium import Bed
from farbe.model.piece import Material, Outline, Reader, Rectangle, Surface
from farbe.model.placing import Placing
from farbe.model.printer import LayerKind, Printer
from farbe.model.source import ArtworkShape, OppositeShape
from farbe.plan.recipes import recipe, with_recipe
from farbe.render.bed import job_bed

SHAPE = (Layer(kind=LayerKind.WHITE, name="White", source=ArtworkShape()),)
#: An L that is unlike its mirror image.
ELL = Outline(rings=(((-10, -6), (10, -6), (10, -2), (-4, -2), (-4, 6), (-10, 6)),))
PRINTER = Printer(name="Bed", bed_width=200, bed_height=150, max_piece_height=50)


def solid(store: ArtStore, folder: Path, name: str = "solid.png") -> ArtworkFile:
    """Artwork that covers all of its 7.3 × 4.1 mm."""
    colour = (10, 90, 40) if name == "solid.png" else (150, 20, 20)
    Image.new("RGB", (73, 41), colour).save(folder / name)
    return store.add_artwork(folder / name).replace(width=7.3, height=4.1)


def box_of(plate: np.ndarray, frame: object, x: float, y: float, reach: float) -> np.ndarray:
    """Left, right, bottom, top in mm of the ink near a place of the bed."""
    grid, height = frame.grid, frame.height  # type: ignore[attr-defined]
    left = max(0, int((x - reach) * grid.per_mm_x))
    top = max(0, int((height - y - reach) * grid.per_mm_y))
    part = plate[
        top : int((height - y + reach) * grid.per_mm_y),
        left : int((x + reach) * grid.per_mm_x),
    ]
    rows, columns = np.nonzero(part >= 128)
    return np.array([
        (columns.min() + left) / grid.per_mm_x, (columns.max() + 1 + left) / grid.per_mm_x,
        height - (rows.max() + 1 + top) / grid.per_mm_y,
        height - (rows.min() + top) / grid.per_mm_y,
    ])  # fmt: skip


def white_of(job: Faced, store: ArtStore) -> tuple[np.ndarray, object]:
    bed = job_bed(job, store)
    rows = bed.rows(0, bed.size[1])
    assert rows is not None
    names = [channel.name for channel in bed.channels]
    return rows[..., names.index("White")], bed.frame


def off_by(job: Faced, store: ArtStore, at: list[tuple[float, float]], reach: float) -> float:
    """How many pixels any edge of the artworks is off from where its millimetres say."""
    plate, frame = white_of(job, store)
    grid, worst = frame.grid, 0.0  # type: ignore[attr-defined]
    for x, y in at:
        found = box_of(plate, frame, x, y, reach)
        should = np.array([x - 3.65, x + 3.65, y - 2.05, y + 2.05])
        pixels = np.abs(found - should) * ([grid.per_mm_x] * 2 + [grid.per_mm_y] * 2)
        worst = max(worst, float(pixels.max()))
    return worst


@pytest.fixture
def plain(job: Faced, store: ArtStore, tmp_path: Path) -> Faced:
    """Four rectangles of white alone, where no edge falls on a pixel."""
    return job.replace(
        artworks=(solid(store, tmp_path),), stack=SHAPE, placing=Placing(),
        piece=job.piece.replace(shape=Rectangle(width=9.7, height=6.1)),
        jig=job.jig.replace(first_x=6.31, first_y=7.17, columns=2, rows=2, gap_x=11.3, gap_y=9.1),
    )  # fmt: skip


@given(
    st.floats(2, 9), st.floats(2, 9), st.floats(3, 9), st.floats(110, 300), st.floats(110, 300),
    st.floats(-1, 1), st.sampled_from((0, 90, 180, 270)),
)  # fmt: skip
@settings(max_examples=40)
def test_positions_are_rounded_once(
    x: float, y: float, gap: float, dpi_x: float, dpi_y: float, offset: float, turned: int
) -> None:
    """Half a pixel for the place and a quarter for the size: no edge is more off than that."""
    job, store = PLAIN[0]
    of = job.replace(
        jig=job.jig.replace(first_x=x, first_y=y, gap_x=gap, gap_y=gap + 1, turned=turned),
        printer=job.printer.replace(dpi_x=dpi_x, dpi_y=dpi_y),
        placing=Placing(offset_x=offset, offset_y=-offset / 2),
    )
    moved = [
        {0: (offset, -offset / 2), 90: (offset / 2, offset), 180: (-offset, offset / 2),
         270: (-offset / 2, -offset)}[turned]
    ] * 4  # fmt: skip
    at = [(p.x + dx, p.y + dy) for p, (dx, dy) in zip(laid(of), moved, strict=True)]
    if turned in (0, 180):
        assert off_by(of, store, at, 5.0) <= 0.75 + 1e-6
    else:
        plate, frame = white_of(of, store)
        for px, py in at:
            found = box_of(plate, frame, px, py, 5.0)
            should = np.array([px - 2.05, px + 2.05, py - 3.65, py + 3.65])
            grid = frame.grid  # type: ignore[attr-defined]
            pixels = np.abs(found - should) * ([grid.per_mm_x] * 2 + [grid.per_mm_y] * 2)
            assert pixels.max() <= 0.75 + 1e-6


PLAIN: list[tuple[Faced, ArtStore]] = []


@pytest.fixture(autouse=True)
def _plain(plain: Faced, store: ArtStore) -> None:
    PLAIN[:] = [(plain, store)]


@pytest.mark.parametrize("dpi", [(150.0, 210.0), (151.3, 149.7)])
def test_a_board_loaded_turned_lies_where_the_ticket_says(
    plain: Faced, store: ArtStore, tmp_path: Path, dpi: tuple[float, float]
) -> None:
    of = plain.replace(
        medium=Bed(turned=True), printer=plain.printer.replace(dpi_x=dpi[0], dpi_y=dpi[1])
    )
    ticket = hand_off(of.job, store, tmp_path / "out")
    assert off_by(of, store, [(p.x, p.y) for p in ticket.pockets], 5.0) <= 0.75 + 1e-6


def test_a_receiver_that_mirrors_gets_what_it_turns_back(plain: Faced, store: ArtStore) -> None:
    through = plain.replace(
        reader=Reader.THROUGH, receiver=plain.receiver.replace(mirrors=True),
        printer=plain.printer.replace(dpi_x=151.3),
    )  # fmt: skip
    width = through.printer.bed_width
    there = [(width - p.x, p.y) for p in laid(through)]
    assert off_by(through, store, there, 5.0) <= 0.75 + 1e-6


def test_a_layer_of_the_other_ones_shape_lies_on_it(
    plain: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """White of the face's reader from the shape of the one who looks through: a pixel at most."""
    two = with_recipe(plain, recipe("clear, read from both sides"))
    two = two.replace(piece=two.piece.replace(surface=Surface(material=Material.CLEAR)))
    two = behind(two, artworks=(solid(store, tmp_path, "other.png"),), placing=Placing())
    colours = tuple(la for la in two.stack if la.kind is LayerKind.COLOUR)
    white = Layer(
        kind=LayerKind.WHITE, name="White", source=OppositeShape(), reader=Reader.FACE
    )  # fmt: skip
    for shift in (0.0, 0.13, 0.29):
        of = two.replace(
            stack=(colours[0], white, colours[1]), placing=Placing(offset_x=shift, offset_y=0.11)
        )
        at = [(p.x - shift, p.y + 0.11) for p in laid(of)]
        assert off_by(of, store, at, 5.0) <= 1.0 + 1e-6


@pytest.mark.parametrize("corner", Corner)
@pytest.mark.parametrize("turned", [0, 90])
def test_keep_outs_and_pieces_are_told_in_one_frame(corner: Corner, turned: int) -> None:
    """Brute force: a pocket is free exactly where its piece touches no pin on the bed."""
    datum = Datum(corner=corner)
    plain = Jig(
        name="x", board={"width": 200, "height": 150}, datum=datum, first_x=10, first_y=10,
        columns=4, rows=3, gap_x=8, gap_y=8, turned=turned,
    )  # fmt: skip
    every = pockets(plain, ELL, PRINTER)
    piece = lying(plain, ELL)
    for which, aside in enumerate(((7.0, 3.0), (-7.0, -4.0), (7.0, -4.0), (-7.0, 3.0))):
        at = every[5]
        x, y = from_bed(datum, PRINTER, at.x + aside[0], at.y + aside[1])
        pin = CircleKeepOut(x=x, y=y, diameter=3)
        free = pockets(plain.replace(keep_outs=(pin,)), ELL, PRINTER)
        zone = keep_out_on_bed(pin, datum, PRINTER)
        should = {
            (round(p.x, 6), round(p.y, 6))
            for p in every
            if not affinity.translate(piece, p.x, p.y).intersects(zone)
        }
        assert {(round(p.x, 6), round(p.y, 6)) for p in free} == should, which
        assert to_bed(datum, PRINTER, x, y) == pytest.approx((at.x + aside[0], at.y + aside[1]))


def test_the_code_covers_numbers_and_their_order(plain: Faced) -> None:
    by = {
        numbering: jig_code(plain.replace(jig=plain.jig.replace(numbering=numbering)))
        for numbering in Numbering
    }
    assert len(set(by.values())) == 3
    # The same board serves both sides of pieces that are turned in their pockets.
    two = sided(plain, Turning(), stack=SHAPE)
    assert two.other is not None and jig_code(two) == jig_code(two.other)


def test_marks_follow_what_was_measured(plain: Faced, store: ArtStore) -> None:
    """Trim marks and frame are moved and turned with the artwork; the guide's places stay."""
    marks = Marks(frame=True, line=0.3)
    turn, shift = math.radians(2.0), (0.9, -0.6)
    points = []
    for piece in laid(plain):
        x, y = by_datum(plain, piece.x, piece.y)
        points.append(
            Measured(
                pocket=piece.number,
                x=round(x * math.cos(turn) - y * math.sin(turn) + shift[0], 4),
                y=round(x * math.sin(turn) + y * math.cos(turn) + shift[1], 4),
            )
        )
    of = plain.replace(
        marks=marks, stack=(COLOUR,), correction=Correction(points=tuple(points)),
        artworks=(), printer=plain.printer.replace(dpi_x=300, dpi_y=300),
    )  # fmt: skip
    bed = job_bed(of, store)
    rows = bed.rows(0, bed.size[1])
    assert rows is not None
    black = rows[..., [c.name for c in bed.channels].index("Black")]
    for piece, stated in zip(printed(of), laid(of), strict=True):
        assert math.hypot(
            piece.x - stated.x, piece.y - stated.y
        ) > 0.2 and piece.turn == pytest.approx(2.0, abs=0.01)
        found = box_of(black, bed.frame, piece.x, piece.y, 6.5)
        wide, high = 9.7 + 0.3, 6.1 + 0.3
        c, s = math.cos(turn), math.sin(turn)
        half = (wide * c + high * s) / 2, (wide * s + high * c) / 2
        should = [piece.x - half[0], piece.x + half[0], piece.y - half[1], piece.y + half[1]]
        assert np.abs(found - should).max() <= 1.5 / bed.grid.per_mm_x
