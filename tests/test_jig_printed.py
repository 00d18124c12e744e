"""A drawn jig from the drawing to the printed board: names and codes of three jobs on one bed."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
import zxingcpp
from PIL import Image
from shapely import affinity
from shapely.geometry import Point

from farbe.files.handoff import hand_off
from farbe.files.jigdrawing import read_jig_drawing
from farbe.files.jiglibrary import kept_from, with_kept
from farbe.files.store import ArtStore
from farbe.layout.beside import beside
from farbe.layout.drawnjig import Use, kinds_of, with_drawn
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.piece import Circle, Surface
from farbe.model.text import CodeKind, Table, TextBox
from farbe.press.client import Press, print_hand_off
from test_jig_drawings import SPOTS, draw

#: Wide arms, so that a code and a name go onto it.
HOOK = [(-14, -13), (14, -13), (14, -1), (-1, -1), (-1, 13), (-14, 13)]
#: Where code and name lie on each shape, in mm around its middle: x, y, side; x, y, width.
WHERE = {
    "tag": ((-5.2, 0, 12), (6, 0, 9)),
    "hook": ((-7.4, 6.4, 12), (0, -7, 20)),
    "coin": ((0, 2.2, 12), (0, -6.2, 9)),
}


def lettered(job: Faced, kind: str, first: int) -> Faced:
    """A job that prints a code and a name into each pocket of its kind."""
    (cx, cy, side), (nx, ny, wide) = WHERE[kind]
    words = tuple((f"{kind}-{n:02d}", f"{kind} {n}") for n in range(first, first + len(laid(job))))
    return job.replace(
        name=kind, artworks=(), bleed=0.0,
        texts=(
            TextBox(text="{code}", x=cx, y=cy, width=side, height=side, code=CodeKind.QR),
            TextBox(text="{name}", x=nx, y=ny, width=wide, height=2.4, size=2.2),
        ),
        table=Table(file_name="names.csv", columns=("code", "name"), rows=words),
        piece=job.piece.replace(name=kind, surface=Surface(colour="#f4f1ea")),
    )  # fmt: skip


@pytest.mark.long
def test_a_drawn_jig_is_printed_and_every_code_is_read_back(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    drawn = read_jig_drawing(draw(tmp_path / "jig.dxf", hook=HOOK))
    kinds = kinds_of(drawn)
    names = {Circle(diameter=8): "pin", Circle(diameter=20): "coin"}
    kind_of = [names.get(k.shape) or ("tag" if k.shape.width == 24 else "hook") for k in kinds]  # type: ignore[call-overload]
    uses = tuple({"pin": Use.PIN, "tag": Use.PIECE}.get(name, Use.OTHER) for name in kind_of)
    printer = job.printer.replace(bed_width=330, bed_height=230, dpi_x=300, dpi_y=300)
    made = with_drawn(job.replace(printer=printer), drawn, kinds, uses, clearance=0.2)
    shapes = [name for name in kind_of if name != "pin"]
    board = kept_from(made)
    jobs = [
        lettered(
            with_kept(made.replace(piece=made.piece.replace(shape=made.jig.kinds[n].shape)), board),
            name, 100 * n,
        )
        for n, name in enumerate(shapes)
    ]  # fmt: skip
    assert [len(laid(one)) for one in jobs] == [len(kinds[kind_of.index(n)].lies) for n in shapes]
    first, *others = beside(tuple(one.job for one in jobs))
    ticket = hand_off(first, store, tmp_path / "out", others=tuple(others))
    assert sorted(pocket.number for pocket in ticket.pockets) == list(range(1, 41))
    with Press() as press:
        list(print_hand_off(press, tmp_path / "out", tmp_path / "bed.png"))
        picture = np.asarray(Image.open(tmp_path / "bed.png").convert("L"))
    per_mm = picture.shape[1] / 330
    base = made.jig.board
    assert picture.shape[0] == pytest.approx(230 * per_mm, abs=1)
    said = {text[0]: text[1] for one in jobs for text in one.table.rows}  # type: ignore[union-attr]
    found: dict[str, tuple[float, float]] = {}
    wide = Image.fromarray(picture)
    for kind, x, y, turn in SPOTS:
        at = base.x + x, base.y + y
        # A piece by itself, as a hand-held reader would take it.
        reach = 21 * per_mm
        middle = at[0] * per_mm, picture.shape[0] - at[1] * per_mm
        crop = wide.crop(
            tuple(
                round(v)
                for v in (
                    middle[0] - reach,
                    middle[1] - reach,
                    middle[0] + reach,
                    middle[1] + reach,
                )
            )
        )
        codes = zxingcpp.read_barcodes(crop.resize((crop.width * 3, crop.height * 3)))
        inside = (1.5 * crop.width, 1.5 * crop.height)
        near = min(codes, key=lambda c: math.dist(_middle(c), inside), default=None)
        assert near is not None, (kind, x, y, turn)
        assert near.text in said and near.text.startswith(kind)
        (cx, cy, _), _ = WHERE[kind]
        goal = affinity.rotate(Point(cx, cy), 0 if kind == "coin" else turn, origin=(0, 0))
        px, py = (v / 3 - reach for v in _middle(near))
        # Right to a press pixel, and half a module for where the reader sets its corners.
        assert math.dist((px, -py), (goal.x * per_mm, goal.y * per_mm)) < 1 + 0.25 * per_mm
        found[near.text] = at
    assert len(found) == 40


def _middle(code: zxingcpp.Barcode) -> tuple[float, float]:
    place = code.position
    corners = (place.top_left, place.top_right, place.bottom_left, place.bottom_right)
    return sum(c.x for c in corners) / 4, sum(c.y for c in corners) / 4
