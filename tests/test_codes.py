"""Codes, serials and loads: what each pocket says, read back by an independent reader."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import zxingcpp

from conftest import small_art
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.files.store import ArtStore
from farbe.layout.codes import QUIET, code_size, modules
from farbe.layout.faced import Faced
from farbe.layout.laid import allotted
from farbe.layout.loads import count_loads, load_words, loads_of, with_load
from farbe.model.base import BadInput
from farbe.model.jig import Place
from farbe.model.piece import Rectangle
from farbe.model.text import CodeKind, Serial, Table, TextBox
from farbe.plan.readers import with_two_readers
from farbe.render.bed import job_bed

SAYS = {
    CodeKind.QR: "https://kiln.example/ä?n=1",
    CodeKind.CODE_128: "KILN-0042b",
    CodeKind.CODE_39: "KILN 42",
    CodeKind.EAN_13: "4006381333931",
    CodeKind.EAN_8: "96385074",
    CodeKind.ITF: "00123456",
}


def read(grey: np.ndarray) -> list[str]:
    """What an independent reader finds in a picture, from left to right."""
    wide = np.pad(np.ascontiguousarray(grey), 40, constant_values=255)
    found = zxingcpp.read_barcodes(wide, try_invert=False)
    return [one.text for one in sorted(found, key=lambda one: one.position.top_left.x)]


def coded(job: Faced, *places: tuple[float, float, float], **box: object) -> Faced:
    fields = {"text": "{serial}", "width": 26, "height": 16, "code": CodeKind.QR} | box
    return job.replace(
        piece=job.piece.replace(shape=Rectangle(width=30, height=20)),
        artworks=(),
        jig=job.jig.replace(
            places=tuple(Place(x=x, y=y, turn=turn) for x, y, turn in places),
            board=job.jig.board.replace(width=160, height=90),
        ),
        texts=(TextBox(**fields),),
        printer=job.printer.replace(bed_width=200, bed_height=120),
    )


def black_of(job: Faced, store: ArtStore) -> np.ndarray:
    """The bed as a light picture with what process black prints on it."""
    bed = job_bed(job, store)
    rows = bed.rows(0, bed.size[1])
    assert rows is not None
    at = [c.name for c in bed.channels].index("Black")
    tall = round(bed.size[1] * bed.grid.dpi_x / bed.grid.dpi_y)
    grey = 255 - rows[..., at]
    picked = np.linspace(0, bed.size[1] - 1, tall).round().astype(int)
    return np.asarray(grey[picked])


@pytest.mark.parametrize("kind", list(CodeKind))
def test_every_kind_of_code_is_read_back_from_the_plates(
    job: Faced, store: ArtStore, kind: CodeKind
) -> None:
    made = coded(job, (50, 40, 0), (130, 45, 90), text=SAYS[kind], code=kind, width=70)
    made = made.replace(piece=made.piece.replace(shape=Rectangle(width=76, height=20)))
    assert set(read(black_of(made, store))) == {SAYS[kind]}
    size = code_size(made.texts[0])
    left, right, *_ = QUIET[kind]
    wide = size.module * (modules(kind, SAYS[kind]).shape[1] + left + right)
    assert wide <= 70 + 1e-9


def test_light_modules_are_the_rest_of_the_code(job: Faced, store: ArtStore) -> None:
    made = coded(job, (40, 40, 0), text="kiln", light=True)
    grey = black_of(made, store)
    assert read(grey) == []
    assert read(255 - grey) == ["kiln"]


@pytest.mark.parametrize(
    ("kind", "text"),
    [(CodeKind.EAN_13, "4006381333932"), (CodeKind.EAN_13, "12"), (CodeKind.EAN_8, "1234567x"),
     (CodeKind.CODE_39, "ä"), (CodeKind.ITF, "123"), (CodeKind.CODE_128, "日本"),
     (CodeKind.QR, "x" * 4000)],
)  # fmt: skip
def test_what_no_code_can_say_is_a_stop(
    job: Faced, store: ArtStore, kind: CodeKind, text: str
) -> None:
    with pytest.raises(BadInput, match="cannot be told by"):
        modules(kind, text)
    if len(text) <= 500:
        made = coded(job, (40, 40, 0), text=text, code=kind)
        assert "code-words" in {check.code for check in run_checks(Facts(made, store))}


def test_small_modules_and_crowded_quiet_zones_are_said(job: Faced, store: ArtStore) -> None:
    def codes(made: Faced) -> set[str]:
        found = {check.code for check in run_checks(Facts(made, store))}
        return found & {"code-fine", "code-quiet"}

    good = coded(job, (40, 40, 0))
    assert codes(good) == set()
    assert codes(coded(job, (40, 40, 0), width=6, height=6)) == {"code-fine"}
    assert codes(coded(job, (40, 40, 0), x=8)) == {"code-quiet"}
    note = TextBox(text="kiln", width=8, height=3, size=2, y=6)
    assert codes(good.replace(texts=(*good.texts, note))) == {"code-quiet"}


def test_rows_and_serials_go_on_from_load_to_load(job: Faced) -> None:
    rows = tuple((f"Name {n}",) for n in range(30))
    made = job.replace(
        texts=(TextBox(text="{name} {serial}", width=9, height=4),),
        table=Table(file_name="names.csv", columns=("name",), rows=rows),
        serial=Serial(prefix="K", start=5, step=3, digits=3),
        jig=job.jig.replace(off=frozenset({2})),
    )
    assert count_loads(made) == 3

    def words(one: Faced) -> list[str]:
        return [what.texts[0].text for what in allotted(one).prints.values() if what.texts]

    told = [f"Name {n} K{5 + 3 * n:03d}" for n in range(30)]
    loads = [Faced(one) for one in loads_of(made)]
    assert [text for one in loads for text in words(one)] == told
    assert [text for at in range(3) for text in words(with_load(made, at))][:30] == told
    assert "rows 12 to 22" in load_words(with_load(made, 1))
    last = loads[-1]
    assert len(allotted(last).prints) == 8 and 2 in last.jig.off
    assert [one.name for one in loads] == [f"Tokens {n}/3" for n in (1, 2, 3)]
    with pytest.raises(BadInput, match="loads 1 to 3"):
        with_load(made, 3)


def test_a_column_names_the_picture_of_each_row(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    names = ("Ada.png", "bo.png", "cy.png")
    arts = tuple(
        store.add_artwork(small_art(tmp_path / name, 40 + 9 * at)).replace(quantity=1)
        for at, name in enumerate(names)
    )
    rows = tuple((name,) for name in ("bo.png", "x\\ada.PNG", "", "cy.png", "bo.png", "lost.png"))
    made = job.replace(
        artworks=arts, table=Table(file_name="p.csv", columns=("picture",), rows=rows * 3),
        artwork_column="picture",
    )  # fmt: skip
    printed = {n: what.artwork.file_name for n, what in allotted(made).prints.items()
               if what.artwork is not None}  # fmt: skip
    assert [printed.get(n) for n in range(1, 7)] == [
        "bo.png", "Ada.png", None, "cy.png", "bo.png", None
    ]  # fmt: skip
    assert count_loads(made) == 2
    second = Faced(loads_of(made)[1])
    assert [what.artwork.file_name for what in allotted(second).prints.values()
            if what.artwork is not None] == ["bo.png", "Ada.png", "cy.png", "bo.png"]  # fmt: skip
    found = {check.code: check.text for check in run_checks(Facts(made, store))}
    assert "lost.png" in found["rows-without-artwork"]


def test_a_second_reader_has_the_same_words(job: Faced) -> None:
    table = Table(file_name="p.csv", columns=("picture",), rows=(("a.png",),))
    clear = job.replace(artworks=(), serial=Serial(start=40), table=table, artwork_column="picture",
                        texts=(TextBox(text="{serial}", width=9, height=4),))  # fmt: skip
    other = with_two_readers(clear).other
    assert other is not None
    assert (other.serial, other.artwork_column) == (clear.serial, "picture")
    assert [t.text for t in allotted(other.first).prints[1].texts] == ["0040"]
