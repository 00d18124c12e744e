"""Outlines from drawings: measured, holed, turned face down, and refused when wrong."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from shapely.geometry import Polygon

from farbe.files.jigdrawing import read_jig_drawing
from farbe.files.jobfile import open_job, save_job
from farbe.files.outlinefile import read_outline
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import places
from farbe.layout.outline import outline
from farbe.layout.pockets import piece_on_bed
from farbe.model.base import BadInput
from farbe.model.layer import Layer
from farbe.model.piece import Outline, Reader
from farbe.model.printer import LayerKind
from farbe.model.source import WholePiece
from farbe.render.bed import job_bed
from farbe.render.guide import guide_bed

#: A flag with a slanted edge and a round hole: unlike its mirror and its quarter turns.
FLAG = """<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">
<g transform="translate(5 5)"><path d="M0 0H11V4L8 9.5H0Z"/>
<circle cx="3" cy="6" r="1.5"/></g></svg>"""


def svg(tmp_path: Path, text: str, name: str = "piece.svg") -> Path:
    path = tmp_path / name
    path.write_text(text)
    return path


@pytest.fixture
def flag(tmp_path: Path) -> Outline:
    return read_outline(svg(tmp_path, FLAG))


def test_svg_is_read_in_millimetres_with_holes(flag: Outline) -> None:
    assert (flag.width, flag.height) == pytest.approx((11, 9.5))
    shape = outline(flag)
    wanted = 11 * 9.5 - 3 * 5.5 / 2 - np.pi * 1.5**2
    assert shape.area == pytest.approx(wanted, rel=2e-3)
    # y runs up here: the slanted corner is at the lower right.
    assert not shape.contains(Polygon([(5.2, -4.5), (5.4, -4.5), (5.4, -4.3)]))


def test_curves_keep_to_their_shape(tmp_path: Path) -> None:
    drawn = '<svg xmlns="http://www.w3.org/2000/svg" width="2in" viewBox="0 0 200 200">'
    egg = read_outline(svg(tmp_path, drawn + '<ellipse cx="90" cy="80" rx="60" ry="40"/></svg>'))
    assert (egg.width, egg.height) == pytest.approx((120 * 0.254, 80 * 0.254), abs=0.02)
    assert outline(egg).area == pytest.approx(np.pi * 60 * 40 * 0.254**2, rel=1e-3)


def test_dxf_lines_are_joined_and_units_kept(tmp_path: Path) -> None:
    drawing = ezdxf.new(units=1)
    space = drawing.modelspace()
    corners = [(0, 0), (2, 0), (2, 1), (0, 1)]
    for start, end in zip(corners, [*corners[1:], corners[0]], strict=True):
        space.add_line(end, start) if start[0] else space.add_line(start, end)
    space.add_circle((1, 0.5), 0.25)
    drawing.saveas(tmp_path / "plate.dxf")
    plate = read_outline(tmp_path / "plate.dxf")
    assert (plate.width, plate.height) == pytest.approx((50.8, 25.4))
    assert outline(plate).area == pytest.approx((2 - np.pi / 16) * 25.4**2, rel=1e-3)


BAD = {
    "not closed": '<path d="M0 0H30V20H0L0 5"/>',
    "crosses itself": '<path d="M0 0L30 20H0L30 0Z"/>',
    "more than one outer": '<rect width="9" height="9"/><rect x="20" width="9" height="9"/>',
    "no closed line": "<text>piece</text>",
}


@pytest.mark.parametrize("words", list(BAD))
def test_what_is_no_outline_is_said(tmp_path: Path, words: str) -> None:
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" viewBox="0 0 60 60">'
    with pytest.raises(BadInput, match=words) as told:
        read_outline(svg(tmp_path, head + BAD[words] + "</svg>"))
    assert "\n" not in str(told.value) and "piece.svg" in str(told.value)


def test_hostile_drawings_are_refused(tmp_path: Path) -> None:
    bomb = '<!DOCTYPE s [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + FLAG
    with pytest.raises(BadInput, match="entities"):
        read_outline(svg(tmp_path, bomb))
    with pytest.raises(BadInput, match="neither SVG nor DXF"):
        read_outline(svg(tmp_path, FLAG, "piece.txt"))
    chance = random.Random(3)
    drawing = ezdxf.new()
    drawing.modelspace().add_circle((0, 0), 10)
    drawing.saveas(tmp_path / "good.dxf")
    for name, data in (("a.svg", FLAG.encode()), ("a.dxf", (tmp_path / "good.dxf").read_bytes())):
        for round_ in range(4):
            broken = bytearray(data)
            if round_ % 2:
                del broken[chance.randrange(len(data)) :]
            for _ in range(3 if broken else 0):
                broken[chance.randrange(len(broken))] = chance.randrange(256)
            (tmp_path / name).write_bytes(broken)
            try:
                read_outline(tmp_path / name)
            except BadInput as told:
                assert "\n" not in str(told)


@pytest.mark.long
@pytest.mark.parametrize("read", [read_outline, read_jig_drawing])
def test_a_damaged_figure_is_not_guessed(tmp_path: Path, read: Callable[[Path], object]) -> None:
    """A jig that is cut by a guess is scrap; so is one in another unit."""
    drawing = ezdxf.new(units=4)
    drawing.modelspace().add_circle((1234.25, 10), 12.5)
    drawing.saveas(tmp_path / "good.dxf")
    read(tmp_path / "good.dxf")
    whole = (tmp_path / "good.dxf").read_bytes()
    for was, now, said in (
        (b"1234.25", b"1234..25", "none"), (b"1234.25", b"nan", "none"), (b"12.5", b"12,5", "none"),
        (b"12.5", b"1.25e7", "large"), (b"12.5", b"inf", "none|damaged"),
    ):  # fmt: skip
        assert was in whole
        (tmp_path / "bad.dxf").write_bytes(whole.replace(was, now))
        with pytest.raises(BadInput, match=said) as told:
            read(tmp_path / "bad.dxf")
        assert "bad.dxf" in str(told.value) and "\n" not in str(told.value)
    with pytest.raises(BadInput, match="large"):
        read(svg(tmp_path, FLAG.replace("0mm", "0000000mm")))


@pytest.mark.parametrize("reader", [Reader.FACE, Reader.THROUGH])
@pytest.mark.parametrize("turned", [False, True])
def test_print_and_guide_agree_on_how_an_odd_piece_lies(
    job: Faced, store: ArtStore, flag: Outline, reader: Reader, turned: bool
) -> None:
    whole = Layer(kind=LayerKind.WHITE, name="White", source=WholePiece())
    of = job.replace(
        piece=job.piece.replace(shape=flag),
        reader=reader,
        stack=(whole,),
        jig=job.jig.replace(turned=turned, columns=3),
        guide=job.guide.replace(numbers=False, distance=0.3),
    )
    bed, guide = job_bed(of, store), guide_bed(of)
    print_, lines = bed.rows(0, bed.size[1]), guide.rows(0, guide.size[1])
    assert print_ is not None and lines is not None
    covered, line = print_[..., 0] >= 128, lines[..., 0] > 0
    assert not (covered & line).any()
    per_mm = bed.grid.per_mm_x * bed.grid.per_mm_y
    ink = print_[..., 0].sum(dtype=np.int64) / 255
    assert ink / per_mm == pytest.approx(9 * outline(flag).area, rel=0.01)
    for pocket in places(of):
        for ring_x, ring_y in piece_on_bed(of).exterior.coords:
            # Just beyond each corner of the piece there is a line within a millimetre.
            x = (pocket.x + ring_x) * bed.grid.per_mm_x
            y = (60 - pocket.y - ring_y) * bed.grid.per_mm_y
            near = line[int(y) - 8 : int(y) + 9, int(x) - 6 : int(x) + 7]
            assert near.any()


def test_a_drawn_piece_is_saved_whole(
    job: Faced, store: ArtStore, flag: Outline, tmp_path: Path
) -> None:
    of = job.replace(piece=job.piece.replace(shape=flag))
    save_job(of.job, store, tmp_path / "job.farbe")
    assert open_job(tmp_path / "job.farbe", ArtStore(tmp_path / "other")) == of.job
