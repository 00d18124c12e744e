"""PDF and SVG with inks of their own, TIFF with further channels: read back as they were made."""

from __future__ import annotations

import io
import shutil
from pathlib import Path

import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image
from reportlab.lib.colors import CMYKColor, CMYKColorSep, Color
from reportlab.pdfgen.canvas import Canvas as Page

from farbe.art.artwork import Space
from farbe.art.read import read_artwork
from farbe.art.wanted import Wanted
from farbe.edits.artwork import with_only
from farbe.files.pdf import write_pdf
from farbe.files.store import ArtStore
from farbe.files.tiff import write_tiff
from farbe.layout.faced import Faced
from farbe.layout.placing import artwork_box
from farbe.model.artwork import PageBox
from farbe.model.base import BadInput
from farbe.model.meaning import Meaning
from farbe.model.placing import Fit
from farbe.model.receiver import Compression
from farbe.model.source import FilePlate
from farbe.plan.spots import uses_of
from farbe.render.bed import job_bed
from farbe.render.piece import piece_separation
from farbe.separate.grid import Grid
from farbe.separate.ownplates import settled

MM = 72 / 25.4


def spot_page(path: Path) -> Path:
    """40 × 20 mm: a CMYK square, white ink under it and beyond, a varnish dot, a cut line."""
    page = Page(str(path), pagesize=(40 * MM, 20 * MM), pageCompression=0)
    white = CMYKColorSep(0.2, 0, 0, 0, spotName="White", density=1)
    varnish = CMYKColorSep(0, 0, 0.3, 0, spotName="Raised varnish", density=1)
    cut = CMYKColorSep(0, 1, 0, 0, spotName="CutLine", density=1)
    page.setFillColor(white)
    page.rect(2 * MM, 2 * MM, 16 * MM, 16 * MM, stroke=0, fill=1)
    page.setFillOverprint(True)
    page.setFillColor(CMYKColor(0.8, 0.1, 0.4, 0.2))
    page.rect(5 * MM, 5 * MM, 10 * MM, 10 * MM, stroke=0, fill=1)
    page.setFillColor(varnish)
    page.circle(30 * MM, 10 * MM, 5 * MM, stroke=0, fill=1)
    page.setStrokeColor(cut)
    page.rect(1 * MM, 1 * MM, 38 * MM, 18 * MM, stroke=1, fill=0)
    page.showPage()
    page.setFillColor(Color(1, 0, 0))
    page.rect(0, 0, 20 * MM, 20 * MM, stroke=0, fill=1)
    page.showPage()
    page.save()
    return path


def at(plane: np.ndarray, x: float, y: float) -> object:
    """The value at a place in mm from the lower left corner, at 600 dpi."""
    row, column = plane.shape[0] - round(y * 600 / 25.4), round(x * 600 / 25.4)
    return plane[row, column].tolist()


def test_spots_of_a_pdf_are_plates_and_cmyk_stays(tmp_path: Path) -> None:
    art = read_artwork(spot_page(tmp_path / "label.pdf"))
    assert art.space is Space.CMYK and art.size_mm() == pytest.approx((40, 20), abs=0.1)
    assert set(art.plates) == {"White", "Raised varnish", "CutLine"}
    assert art.pages == 2 and art.remark == ""
    square = at(art.pixels, 10, 10)
    assert square == pytest.approx([204, 26, 102, 51, 255], abs=1)
    # Where only inks lie that are no part of the picture, there is none.
    picture = settled(art, uses_of(art)).pixels
    assert at(picture, 3, 3)[4] == 0  # type: ignore[index]
    assert at(art.plates["White"], 3, 3) == 255 and at(art.plates["White"], 10, 10) == 255
    assert at(art.plates["Raised varnish"], 30, 10) == 255
    assert at(art.plates["Raised varnish"], 10, 10) == 0
    area = (art.plates["White"] / 255).sum() / (600 / 25.4) ** 2
    assert area == pytest.approx(256, rel=0.005)
    second = read_artwork(tmp_path / "label.pdf", Wanted(page=2))
    assert second.space is Space.RGB and not second.plates
    assert at(second.pixels, 10, 10) == [255, 0, 0, 255] and at(second.pixels, 30, 10)[3] == 0  # type: ignore[index]
    with pytest.raises(BadInput, match="no page 3"):
        read_artwork(tmp_path / "label.pdf", Wanted(page=3))


@pytest.mark.usefixtures("read_here")
def test_boxes_and_rotation_of_a_page(tmp_path: Path) -> None:
    with pikepdf.open(spot_page(tmp_path / "label.pdf")) as pdf:
        pdf.pages[1].trimbox = [5 * MM, 5 * MM, 35 * MM, 15 * MM]
        pdf.pages[1].Rotate = 90
        pdf.save(tmp_path / "boxed.pdf")
    trimmed = read_artwork(tmp_path / "boxed.pdf", Wanted(page=2))
    assert trimmed.size_mm() == pytest.approx((10, 30), abs=0.1)
    whole = read_artwork(tmp_path / "boxed.pdf", Wanted(page=2, box=PageBox.MEDIA))
    assert whole.size_mm() == pytest.approx((20, 40), abs=0.1)


@pytest.mark.usefixtures("read_here")
def test_without_a_separator_it_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = spot_page(tmp_path / "label.pdf")
    monkeypatch.setenv("PATH", str(tmp_path))
    assert shutil.which("gs") is None
    art = read_artwork(path)
    assert art.space is Space.RGB and not art.plates and "Ghostscript" in art.remark


@pytest.mark.long
def test_our_own_plates_come_back(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """What the writers wrote is read with the same coverage and names."""
    of = job.replace(printer=job.printer.replace(dpi_x=600, dpi_y=600))
    bed = job_bed(of, store)
    wanted = np.concatenate(
        [
            rows if (rows := bed.rows(a, min(a + 64, bed.size[1]))) is not None
            else np.zeros((min(64, bed.size[1] - a), bed.size[0], 6), np.uint8)
            for a in range(0, bed.size[1], 64)
        ]
    )  # fmt: skip
    write_tiff(bed, tmp_path / "plates.tif", compression=Compression.LZW)
    tiff = read_artwork(tmp_path / "plates.tif")
    assert tiff.space is Space.CMYK and list(tiff.plates) == ["White", "Varnish"]
    assert np.array_equal(tiff.pixels, wanted[..., :4])
    assert np.array_equal(tiff.plates["White"], wanted[..., 4])
    write_pdf(bed, tmp_path / "plates.pdf")
    pdf = read_artwork(tmp_path / "plates.pdf")
    assert list(pdf.plates) == ["Varnish", "White"]
    assert np.array_equal(pdf.pixels[..., :4], wanted[..., :4])
    assert np.array_equal(pdf.plates["White"], wanted[..., 4])


def test_channels_of_a_tiff_keep_their_names(tmp_path: Path) -> None:
    planes = np.dstack([np.full((9, 7), 30 * i, np.uint8) for i in range(6)])
    body = b"".join(bytes([len(n)]) + n for n in (b"Transparency", b"Spot gloss"))
    block = b"8BIM" + (1006).to_bytes(2, "big") + b"\0\0" + len(body).to_bytes(4, "big") + body
    tifffile.imwrite(
        tmp_path / "named.tif", planes[..., :5], photometric="rgb", extrasamples=[2, 0],
        extratags=[(34377, 7, len(block), block, True)],
    )  # fmt: skip
    art = read_artwork(tmp_path / "named.tif")
    assert art.pixels.shape == (9, 7, 4) and list(art.plates) == ["Spot gloss"]
    assert (art.plates["Spot gloss"] == 120).all() and (art.pixels[..., 3] == 90).all()
    tifffile.imwrite(tmp_path / "bare.tif", planes, photometric="separated", extrasamples=[0, 0])
    assert list(read_artwork(tmp_path / "bare.tif").plates) == ["Channel 1", "Channel 2"]


SVG = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="urn:names" width="30mm" height="20mm"
 viewBox="0 0 30 20"><g transform="translate(5 0)"><rect width="10" height="20" fill="#20a040"/>
 <g id="layer7" x:label="White"><circle cx="5" cy="10" r="4" fill="#888"/></g></g>
 <g id="varnish"><rect x="20" width="10" height="20" fill="#000" fill-opacity="0.5"/></g></svg>"""


def test_groups_of_an_svg_are_plates(tmp_path: Path) -> None:
    (tmp_path / "art.svg").write_text(SVG)
    art = read_artwork(tmp_path / "art.svg")
    assert art.size_mm() == pytest.approx((30, 20), abs=0.1) and art.space is Space.RGB
    assert set(art.plates) == {"White", "varnish"}
    assert at(art.pixels, 7, 10) == [0x20, 0xA0, 0x40, 255]
    assert at(art.pixels, 25, 10)[3] == 0  # type: ignore[index]
    area = (art.plates["White"] / 255).sum() / (600 / 25.4) ** 2
    assert area == pytest.approx(np.pi * 16, rel=0.005)
    assert at(art.plates["White"], 10, 10) == 255 and at(art.plates["White"], 2, 10) == 0
    assert at(art.plates["varnish"], 25, 5) == pytest.approx(128, abs=1)


def test_chosen_groups_of_an_svg_are_plates(tmp_path: Path) -> None:
    """By label or id, inside other groups, with the place that their holders give them."""
    (tmp_path / "art.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="urn:x" width="20mm" height="20mm"'
        ' viewBox="0 0 20 20"><g id="all" transform="translate(4 0)"><rect width="4" height="20"'
        ' fill="#204060"/><g id="g7" x:label="Foil stars"><rect x="6" y="6" width="5" height="8"/>'
        '</g></g><g id="White"><rect width="2" height="2"/></g></svg>'
    )
    art = read_artwork(tmp_path / "art.svg")
    assert set(art.plates) == {"White"} and art.groups == ("all", "Foil stars")
    for name in ("Foil stars", "g7"):
        chosen = read_artwork(tmp_path / "art.svg", Wanted(groups=(name,)))
        assert set(chosen.plates) == {"White", name} and chosen.groups == ("all",)
        assert at(chosen.plates[name], 12, 10) == 255 and at(chosen.plates[name], 8, 10) == 0
        assert at(chosen.pixels, 12, 10)[3] == 0 and at(art.pixels, 12, 10)[3] == 255  # type: ignore[index]


@pytest.mark.long
@pytest.mark.usefixtures("read_here")
def test_spots_become_layers(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    file = store.add_artwork(spot_page(tmp_path / "label.pdf"))
    meanings = {use.name: use.meaning for use in file.plates}
    assert meanings == {
        "White": Meaning.WHITE, "Raised varnish": Meaning.VARNISH, "CutLine": Meaning.CUT,
    }  # fmt: skip
    made = with_only(job, file)
    made = made.replace(placing=made.placing.replace(fit=Fit.FIT))
    white, _, varnish = made.stack
    assert white.source == FilePlate(meaning=Meaning.WHITE) and white.treatments
    assert varnish.source == FilePlate(meaning=Meaning.VARNISH)
    grid = Grid(300, 300)
    found = piece_separation(made, store, grid)
    planes = found.plates(0, found.size[1])
    cover = planes[0].sum() / 255 / (300 / 25.4) ** 2
    # The whole page is fitted into the piece, and cut off by its round edge nowhere.
    lies = artwork_box(made)
    assert lies is not None
    scale = lies.width / 40
    assert cover == pytest.approx(256 * scale**2, rel=0.02)


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("cut.pdf", b"%PDF-1.7\n1 0 obj << /Type /Catalog"),
        ("empty.svg", b"<svg xmlns='http://www.w3.org/2000/svg'></svg>"),
        ("bad.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='9'"),
        ("huge.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='90m' height='9'/>"),
        ("wide.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='99999mm' height='9999mm'/>"),
        ("bomb.svg", b"<!DOCTYPE s [<!ENTITY a 'aaaaaaaaaa'>" + b"".join(
            b"<!ENTITY %c '%s'>" % (98 + i, b"&%c;" % (97 + i) * 60) for i in range(12))
            + b"]><svg xmlns='http://www.w3.org/2000/svg' width='9'><text>&m;</text></svg>"),
    ],
)  # fmt: skip
@pytest.mark.usefixtures("read_here")
def test_bad_drawings_end_in_one_sentence(tmp_path: Path, name: str, data: bytes) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(BadInput, match=name.split(".")[0] + r"|drawing") as told:
        read_artwork(tmp_path / name)
    assert "\n" not in str(told.value)


def test_a_locked_pdf_is_said(tmp_path: Path) -> None:
    with pikepdf.open(spot_page(tmp_path / "label.pdf")) as pdf:
        pdf.save(tmp_path / "locked.pdf", encryption=pikepdf.Encryption(user="u", owner="o"))
    with pytest.raises(BadInput, match="password"):
        read_artwork(tmp_path / "locked.pdf")


def test_a_picture_inside_an_svg_stays_inside(tmp_path: Path) -> None:
    """Files beside a drawing may be shown; a missing one is left out."""
    buffer = io.BytesIO()
    Image.new("RGB", (4, 4), (0, 0, 255)).save(buffer, "PNG")
    (tmp_path / "blue.png").write_bytes(buffer.getvalue())
    (tmp_path / "art.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm">'
        '<image href="/etc/none.png" width="9" height="9"/><rect width="9" height="9"/></svg>'
    )
    assert read_artwork(tmp_path / "art.svg").pixels.any()
