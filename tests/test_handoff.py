"""What a receiver gets: every way of a TIFF, PDF/X-4, whole hand-offs, what goes with them."""

from __future__ import annotations

import errno
import json
import subprocess
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pikepdf
import pypdfium2
import pytest
import tifffile
from PIL import Image

from conftest import behind, sided, small_art, some
from farbe.art.profiles import shipped_profile
from farbe.estimate.runs import runs
from farbe.files import placed
from farbe.files.handoff import hand_off, planned_files
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.layout.again import only_again
from farbe.layout.beside import beside
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.base import BadInput
from farbe.model.layer import BLACKOUT, COLOUR, WHITE_UNDER
from farbe.model.piece import Material, Surface
from farbe.model.placing import Placing
from farbe.model.receiver import FileFormat, Inks, PdfWays, Receiver, Screen, Split, TiffWays
from farbe.model.roll import Cut, Roll
from farbe.model.text import TextBox
from farbe.plan.order import channels
from farbe.press.machine import TestPress
from farbe.render.footprints import ganged

TIFF = (FileFormat.TIFF,)
PDF = (FileFormat.PDF,)


def pressed(folder: Path) -> np.ndarray:
    press = TestPress()
    ticket = press.take(folder)
    for run in ticket.runs:
        press.print_run(run.name, lambda *_: None)
        if run.what == "guide":
            press.place()
    return press.picture().astype(int)


def with_receiver(job: Faced, **fields: object) -> Faced:
    return job.replace(receiver=job.receiver.replace(**fields))


#: Ways to write a TIFF.
WAYS: dict[str, dict[str, object]] = {
    "cmyk": {"tiff": TiffWays(inks=Inks.CMYK, profile=True)},
    "planar": {"tiff": TiffWays(planar=True)},
    "planar-inverted": {"tiff": TiffWays(planar=True, inks=Inks.CMYK), "inverted": True},
    "channels": {"split": Split.CHANNEL},
    "grey": {"split": Split.CHANNEL, "tiff": TiffWays(inks=Inks.CMYK)},
    "grey-inverted": {
        "split": Split.CHANNEL, "tiff": TiffWays(inks=Inks.CMYK), "inverted": True,
    },
}  # fmt: skip


@pytest.mark.parametrize("name", some(WAYS, "cmyk", "planar-inverted", "channels"))
def test_every_way_of_a_tiff_holds_the_same_plates(
    job: Faced, store: ArtStore, tmp_path: Path, name: str
) -> None:
    """libtiff reads them without a word, tifffile gives the same pixels, the press the same bed."""
    hand_off(with_receiver(job, formats=TIFF).job, store, tmp_path / "plain")
    ticket = hand_off(with_receiver(job, formats=TIFF, **WAYS[name]).job, store, tmp_path / "own")
    plain = tifffile.imread(tmp_path / "plain" / "artwork.tif")
    names = read_ticket(tmp_path / "plain").run("artwork").files[0].channels
    for file in ticket.run("artwork").files:
        path = tmp_path / "own" / file.name
        told = subprocess.run(["tiffinfo", path], capture_output=True, text=True, check=True)
        assert not told.stderr
        again = tmp_path / "again.tif"
        subprocess.run(["tiffcp", "-c", "none", path, again], capture_output=True, check=True)
        pixels = tifffile.imread(path)
        assert np.array_equal(tifffile.imread(again), pixels)
        with tifffile.TiffFile(path) as opened:
            page = opened.pages[0]
            assert isinstance(page, tifffile.TiffPage)
            assert (page.iccprofile is not None) == (name == "cmyk")
            planar = page.planarconfig == tifffile.PLANARCONFIG.SEPARATE
            dark_is_ink = page.photometric == tifffile.PHOTOMETRIC.MINISWHITE
        pixels = np.moveaxis(pixels, 0, -1) if planar else pixels
        pixels = pixels.reshape(*pixels.shape[:2], -1)
        # A reader of grey pictures gives light; the others give ink.
        pixels = 255 - pixels if "inverted" in name and not dark_is_ink else pixels
        for at, channel in enumerate(file.channels):
            assert np.array_equal(pixels[..., at], plain[..., names.index(channel)]), channel
    assert np.abs(pressed(tmp_path / "own") - pressed(tmp_path / "plain")).max() <= 1
    if name == "cmyk":
        assert ticket.run("artwork").files[0].channels[:4] == ("Cyan", "Magenta", "Yellow", "Black")


@pytest.mark.long
def test_screened_plates_are_bits_that_cover_what_the_tones_do(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    fine = job.replace(printer=job.printer.replace(dpi_x=720, dpi_y=600))
    plain = hand_off(with_receiver(fine, formats=TIFF).job, store, tmp_path / "plain")
    ways = TiffWays(screen=Screen(ruling=50))
    ticket = hand_off(with_receiver(fine, formats=TIFF, tiff=ways).job, store, tmp_path / "bits")
    path = tmp_path / "bits" / "artwork.tif"
    told = subprocess.run(["tiffinfo", path], capture_output=True, text=True, check=True)
    assert not told.stderr and "Bits/Sample: 1\n" in told.stdout
    tones = tifffile.imread(tmp_path / "plain" / "artwork.tif")
    bits = np.moveaxis(tifffile.imread(path), 0, -1)
    assert bits.shape == tones.shape and set(np.unique(bits)) <= {0, 1}
    for channel, ml in plain.run("artwork").ink_ml.items():
        assert ticket.run("artwork").ink_ml[channel] == pytest.approx(ml, rel=0.02, abs=2e-4)
    # Over a few dots, as much is covered; the screens of the inks lie at different angles.
    side = 60
    high, wide = (length // side * side for length in tones.shape[:2])

    def means(plates: np.ndarray) -> np.ndarray:
        cut = plates[:high, :wide].astype(float)
        return cut.reshape(high // side, side, wide // side, side, -1).mean(axis=(1, 3))

    assert np.abs(means(bits) - means(tones) / 255).max() < 0.06
    both = bits[..., 0].astype(bool), bits[..., 1].astype(bool)
    assert (both[0] != both[1])[tones[..., 0] == tones[..., 1]].any()
    assert np.abs(pressed(tmp_path / "bits") - pressed(tmp_path / "plain")).mean() < 6


def test_files_and_channels_are_told_apart(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """Layers whose names make one file name, an ink that prints two things, and nested jobs."""
    stack = (
        WHITE_UNDER.replace(name="White!"), COLOUR, BLACKOUT.replace(name="Blackout"),
        WHITE_UNDER.replace(name="White?"),
    )  # fmt: skip
    made = with_receiver(job.replace(stack=stack), formats=TIFF, split=Split.LAYER)
    names = [file.name for file in planned_files(runs(made)[1])]
    assert names == ["artwork white.tif", "artwork colour.tif", "artwork blackout.tif",
                     "artwork white 2.tif"]  # fmt: skip
    assert [c.name for c in channels(made)] == [
        "Cyan", "Magenta", "Yellow", "Black", "Blackout", "White", "White?",
    ]  # fmt: skip
    ticket = hand_off(made.job, store, tmp_path)
    assert len({file.name for run in ticket.runs for file in run.files}) == 5
    room = job.replace(printer=job.printer.replace(bed_height=200))
    nested = beside((room.job, room.job))
    both = hand_off(nested[0], store, tmp_path / "nest", others=nested[1:])
    assert [pocket.number for pocket in both.pockets] == list(range(1, 25))
    cut = (tmp_path / "nest" / "guide.svg").read_text()
    assert cut.count('id="pocket-13') == 1 and 'aria-label="24"' in cut


def test_what_goes_with_the_files(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    made = job.replace(order="K-1042", texts=(TextBox(text="lid {#}", width=8, y=-2, height=2),))
    ticket = hand_off(with_receiver(made, previews=True, exchange=True).job, store, tmp_path)
    assert ticket.order == "K-1042"
    assert [p.words for p in ticket.pockets[:2]] == [("lid 1",), ("lid 2",)]
    assert {p.artwork for p in ticket.pockets} == {"art.png"}
    names = {Path(name).name for name in ticket.previews}
    assert names == {"Cyan.png", "Magenta.png", "Yellow.png", "Black.png", "White.png",
                     "Varnish.png", "look.png"}  # fmt: skip
    white = np.asarray(Image.open(tmp_path / "previews" / "White.png"))
    assert (
        0 < (white < 128).mean() < 0.6 and Image.open(tmp_path / ticket.previews[-1]).mode == "RGB"
    )
    root = ElementTree.parse(tmp_path / "job.xjdf").getroot()
    space = {"x": "http://www.CIP4.org/JDFSchema_2_0"}
    assert root.tag == f"{{{space['x']}}}XJDF" and root.get("JobID") == "K-1042"
    files = [f.get("URL") for f in root.findall(".//x:RunList/x:FileSpec", space)]
    assert files == [f.name for run in ticket.runs for f in run.files]
    assert root.find(".//x:Product", space).get("Amount") == "12"  # type: ignore[union-attr]
    sets = {(one.get("Name"), one.get("Usage")) for one in root.findall("x:ResourceSet", space)}
    assert sets == {("RunList", "Input"), ("Media", "Input"), ("Component", "Output")}


def test_a_hand_off_is_replaced_as_a_whole(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is not of the hand-off stays; where folders cannot be exchanged, no ticket is old."""
    out = tmp_path / "out"
    hand_off(with_receiver(job, split=Split.LAYER).job, store, out)
    (out / "notes").mkdir(), (out / "notes" / "a.txt").write_text("mine")
    (out / "proof.png").write_bytes(b"mine")
    out.chmod(0o750)
    ticket = hand_off(with_receiver(job, formats=TIFF).job, store, out)
    own = {f.name for run in ticket.runs for f in run.files} | {"ticket.json", "guide.svg"}
    assert {path.name for path in out.iterdir()} == own | {"notes", "proof.png"}
    assert (out / "notes" / "a.txt").read_text() == "mine" and out.stat().st_mode & 0o777 == 0o750
    assert [path.name for path in tmp_path.iterdir() if path.name.startswith(".")] == []
    # Killed between two files, where it cannot be done at once.
    monkeypatch.setattr(placed, "exchange", lambda *_: False)
    count = 0
    real = placed.os.replace

    def dies(source: object, target: object) -> None:
        nonlocal count
        count += Path(str(target)).parent == out
        if count == 2:
            raise OSError(errno.ENOSPC, "full")
        real(source, target)  # type: ignore[arg-type]

    monkeypatch.setattr(placed.os, "replace", dies)
    with pytest.raises(BadInput, match="is full"):
        hand_off(job.job, store, out)
    with pytest.raises(BadInput, match="no ticket in it"):
        read_ticket(out)
    count = 10
    hand_off(job.job, store, out)
    assert read_ticket(out).job == "Tokens"


def test_the_press_refuses_files_that_are_not_the_tickets(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    hand_off(job.job, store, tmp_path)
    TestPress().take(tmp_path)
    path = tmp_path / "artwork.tif"
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 1
    path.write_bytes(data)
    with pytest.raises(BadInput, match=r"artwork\.tif is not the file"):
        TestPress().take(tmp_path)
    path.unlink()
    with pytest.raises(BadInput, match="is not there"):
        TestPress().take(tmp_path)


# PDF


def test_a_pdf_is_x4_and_shows_the_work_without_overprint(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    hand_off(with_receiver(job, formats=PDF).job, store, tmp_path)
    path = tmp_path / "artwork.pdf"
    with pikepdf.open(path) as pdf:
        assert pdf.pdf_version == "1.6"
        meta = pdf.open_metadata()
        assert meta["{http://www.npes.org/pdfx/ns/id/}GTS_PDFXVersion"] == "PDF/X-4"
        assert meta["dc:title"] == "Tokens, artwork" and meta["pdf:Trapped"] == "False"
        (intent,) = pdf.Root.OutputIntents
        assert intent.S == pikepdf.Name.GTS_PDFX and intent.DestOutputProfile.N == 4
        assert intent.DestOutputProfile.read_bytes() == shipped_profile()
        assert str(pdf.docinfo["/Trapped"]) == "/False" and "/ID" in pdf.trailer
        assert pdf.Root.OCProperties.D.Name == "Layers"
        (page,) = pdf.pages
        assert all(name in page.obj for name in ("/MediaBox", "/TrimBox", "/BleedBox"))
    # No overprint here: the colours are seen, on white.
    shown = pypdfium2.PdfDocument(path)[0].render(scale=2).to_pil().convert("RGB")
    seen = np.asarray(shown).astype(int)
    wide = np.ptp(seen, axis=2)
    assert (wide > 60).mean() > 0.05 and (seen.min(axis=2) > 240).mean() > 0.3


def test_pages_are_pieces_with_trim_bleed_and_cut(
    store: ArtStore, tmp_path: Path, job: Faced
) -> None:
    """A page a piece: trim and bleed lie where the piece is, and the plates are the bed's."""
    made = with_receiver(job.replace(bleed=0.8), formats=PDF, pdf=PdfWays(pieces=True))
    ticket = hand_off(made.job, store, tmp_path / "pieces")
    plain = hand_off(
        with_receiver(job.replace(bleed=0.8), formats=TIFF).job, store, tmp_path / "bed"
    )
    for channel, ml in plain.run("artwork").ink_ml.items():
        assert ticket.run("artwork").ink_ml[channel] == pytest.approx(ml, rel=0.02)
    with pikepdf.open(tmp_path / "pieces" / "artwork.pdf") as pdf:
        assert len(pdf.pages) == 12
        assert len({page.Resources.XObject["/P0"].objgen for page in pdf.pages}) == 1
        for page in pdf.pages:
            left, bottom, right, top = (float(v) / 72 * 25.4 for v in page.TrimBox)
            assert (right - left, top - bottom) == pytest.approx((11.3, 11.3), abs=0.01)
            grown = [float(v) / 72 * 25.4 for v in page.BleedBox]
            assert grown == pytest.approx(
                [left - 0.8, bottom - 0.8, right + 0.8, top + 0.8], abs=0.01
            )
    dpi = "-r150x210"
    subprocess.run(
        ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=tiffsep", dpi, "-dLastPage=1",
         f"-sOutputFile={tmp_path}/sep.tif", str(tmp_path / "pieces" / "artwork.pdf")],
        check=True, capture_output=True,
    )  # fmt: skip
    bed = tifffile.imread(tmp_path / "bed" / "artwork.tif")
    first = laid(made)[0]
    page = 255 - np.asarray(Image.open(tmp_path / "sep(White).tif"))
    left, high = (
        (first.x - 11.3 / 2 - 1.8) / 25.4 * 150,
        (60 - first.y - 11.3 / 2 - 1.8) / 25.4 * 210,
    )
    top, start = int(np.floor(high)), int(np.floor(left))
    whole = np.pad(bed[..., 4], 60)[60 + top : 60 + top + page.shape[0], 60 + start :][
        :, : page.shape[1]
    ]
    assert min(np.abs(np.roll(whole.astype(int), by, 0) - page).mean() for by in (-1, 0, 1)) < 1.0


def film(job: Faced, store: ArtStore, tmp_path: Path, **roll: object) -> Faced:
    art = store.add_artwork(small_art(tmp_path / "f.png")).replace(width=40, height=26, quantity=3)
    made = job.replace(
        piece=job.piece.replace(surface=Surface(material=Material.TEXTILE), height=0.0),
        artworks=(art,), placing=Placing(), bleed=0.0, stack=(WHITE_UNDER, COLOUR), texts=(),
        table=None, medium=Roll(**({"width": 120, "side": 5} | roll)),
    )  # fmt: skip
    return ganged(made, store)


def test_cut_lines_are_a_processing_step_with_marks_for_the_cutter(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    made = with_receiver(
        film(job, store, tmp_path, cut=Cut.SHAPES), formats=PDF,
        pdf=PdfWays(cut=True, cutter_marks=True),
    )  # fmt: skip
    hand_off(made.job, store, tmp_path / "out")
    with pikepdf.open(tmp_path / "out" / "artwork.pdf") as pdf:
        groups = {str(g.Name): g for g in pdf.Root.OCProperties.OCGs}
        step = groups["Cutting"].GTS_Metadata
        assert (step.GTS_ProcStepsGroup, step.GTS_ProcStepsType) == (
            pikepdf.Name.Structural, pikepdf.Name.Cutting,
        )  # fmt: skip
        content = pdf.pages[0].Contents.read_bytes().decode()
        assert content.count(" h S") == 3 and content.count(" f\n") + content.endswith(" f") >= 5
    subprocess.run(
        ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=tiffsep", "-r150x210",
         f"-sOutputFile={tmp_path}/sep.tif", str(tmp_path / "out" / "artwork.pdf")],
        check=True, capture_output=True,
    )  # fmt: skip
    lines = 255 - np.asarray(Image.open(tmp_path / "sep(Cutting).tif")).astype(int)
    white = 255 - np.asarray(Image.open(tmp_path / "sep(White).tif")).astype(int)
    # The line runs around what is printed, not over it.
    assert lines.max() > 100 and (lines[white > 200] > 50).sum() == 0
    black = 255 - np.asarray(Image.open(tmp_path / "sep(Black).tif")).astype(int)
    assert (black > 200).sum() > 5 * 0.8 * np.pi * 2.5**2 / (25.4 / 150 * 25.4 / 210)


def test_a_film_of_twenty_metres_opens_at_its_length(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    art = store.add_artwork(small_art(tmp_path / "f.png")).replace(width=90, height=60, quantity=1)
    long = film(job, store, tmp_path, longest=20_000).replace(artworks=(art,))
    far = ganged(long, store)
    roll = far.roll
    assert roll is not None
    low = far.printer.replace(dpi_x=20, dpi_y=20, bed_height=20_000)
    places = (roll.places[0], roll.places[0].replace(y=19_900.0))
    both = far.replace(
        artworks=(art.replace(quantity=2),), printer=low, medium=roll.replace(places=places)
    )
    hand_off(with_receiver(both, formats=PDF).job, store, tmp_path / "out")
    path = tmp_path / "out" / "artwork.pdf"
    with pikepdf.open(path) as pdf:
        page = pdf.pages[0]
        unit = float(page.obj.UserUnit)
        assert max(float(v) for v in page.MediaBox) <= 14_400 and unit > 1
        assert float(page.MediaBox[3]) * unit / 72 * 25.4 == pytest.approx(19_940, abs=5)
    told = subprocess.run(
        ["gs", "-q", "-dSAFER", "-dBATCH", "-dNODISPLAY", "-dPDFINFO", str(path)],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert "UserUnit" in told.stdout + told.stderr


def test_side_b_alone_is_handed_off_for_one_pair(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:

    art = store.add_artwork(small_art(tmp_path / "f.png")).replace(width=40, height=26, quantity=2)
    two = film(job, store, tmp_path).replace(artworks=(art,))
    two = ganged(sided(two, stack=(WHITE_UNDER, COLOUR), artworks=(art,)), store)
    assert behind(two).roll is not None
    again = only_again(two.job, (2,), second_only=True)
    ticket = hand_off(again, store, tmp_path / "b")
    assert [run.what for run in ticket.runs] == ["artwork-back"]
    assert ticket.back is not None and [p.number for p in ticket.back.pockets] == [2]
    pair = only_again(two.job, (2,))
    assert len(laid(Faced(pair))) == 1 and pair.again is None
    with pytest.raises(BadInput, match="side B"):
        only_again(job.job, (2,), second_only=True)
    assert json.loads(Receiver(name="x").model_dump_json())["tiff"]["screen"] is None
