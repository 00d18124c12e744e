"""Files on their way in: pictures of all kinds, many at once, folders, the clipboard, a command."""

from __future__ import annotations

import io
import re
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
import resvg_py
import tifffile
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from PIL import Image, ImageOps, features
from PySide6.QtCore import QMimeData, QUrl
from PySide6.QtGui import QImage
from typer.testing import CliRunner

from conftest import small_art
from farbe.art.artwork import Artwork, Space
from farbe.art.profiles import shipped_profile, srgb_profile
from farbe.art.read import read_artwork
from farbe.art.svgpaths import broken_off
from farbe.art.wanted import Wanted
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.cli import app
from farbe.desk.app import settle
from farbe.desk.stations.layers.artwork import ArtworkForm
from farbe.desk.window import MainWindow
from farbe.edits.artwork import once_more, replaced, with_only
from farbe.edits.document import Document
from farbe.files.drawnlines import read_lines
from farbe.files.jobfile import open_job
from farbe.files.outlinefile import read_outline
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.edit import Clear
from farbe.model.job import Guess
from farbe.model.layer import COLOUR
from farbe.model.piece import Circle, Rectangle
from farbe.model.placing import PocketChange
from farbe.plan.order import channels
from farbe.plan.stations import Station
from farbe.render.piece import piece_separation
from farbe.separate.edit import edited, trim_of
from farbe.separate.grid import Grid
from test_pages import layered


@pytest.mark.parametrize("turn", range(1, 9))
def test_pictures_are_upright_as_another_program_has_them(tmp_path: Path, turn: int) -> None:
    rng = np.random.default_rng(turn)
    pixels = np.kron(rng.integers(0, 255, (6, 9, 3)), np.ones((8, 8, 1))).astype(np.uint8)
    exif = Image.Exif()
    exif[274] = turn
    picture = Image.fromarray(pixels)
    picture.save(tmp_path / "a.png", exif=exif, dpi=(300, 150))
    picture.save(tmp_path / "a.webp", exif=exif, lossless=True)
    picture.save(tmp_path / "a.jfif", "JPEG", exif=exif, dpi=(300, 150))
    extra = [(274, "H", 1, turn, True)]
    tifffile.imwrite(tmp_path / "a.tif", pixels, extratags=extra, resolution=(300, 150))
    for name in ("a.png", "a.webp", "a.jfif", "a.tif"):
        with Image.open(tmp_path / name) as file:
            wanted = np.asarray(ImageOps.exif_transpose(file).convert("RGB"))
        found = read_artwork(tmp_path / name)
        assert np.array_equal(found.pixels, wanted)
        if name != "a.webp":
            assert found.dpi == pytest.approx((300, 150) if turn < 5 else (150, 300), rel=1e-3)


def test_files_are_told_by_their_content(tmp_path: Path) -> None:
    small_art(tmp_path / "art.png").rename(tmp_path / "art.doc")
    assert read_artwork(tmp_path / "art.doc").space is Space.RGB
    for suffix in (".bmp", ".gif", *((".avif",) if features.check("avif") else ())):
        Image.new("RGB", (20, 10), "#884422").save(tmp_path / f"a{suffix}")
        assert read_artwork(tmp_path / f"a{suffix}").width == 20
    with tifffile.TiffWriter(tmp_path / "pages.tif") as file:
        for page in range(3):
            file.write(np.full((10, 10 + page, 3), 50 * page, np.uint8))
    last = read_artwork(tmp_path / "pages.tif", Wanted(page=3))
    assert last.pages == 3 and last.width == 12 and last.pixels[0, 0, 0] == 100
    with pytest.raises(BadInput, match="there is no page 4"):
        read_artwork(tmp_path / "pages.tif", Wanted(page=4))


def test_an_svg_reads_nothing_but_itself_and_says_what_it_lacks(tmp_path: Path) -> None:
    picture = small_art(tmp_path / "secret.png")
    (tmp_path / "art.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">'
        "<style>.shown{display:inline} .hidden{display:none} .t{font-family:'Nonesuch Sans',serif}"
        f'</style><image href="{picture}" width="10" height="10"/>'
        f'<image href="file://{picture}" y="10" width="10" height="10"/>'
        '<rect class="shown" style="display:inline" x="10" width="10" height="20" fill="#f00"/>'
        '<g id="Weiß"><rect x="20" width="5" height="20"/>'
        '<rect class="hidden" x="25" width="5" height="20"/></g>'
        '<text class="t" x="31" y="12" font-size="6">Ab</text></svg>'
    )
    art = read_artwork(tmp_path / "art.svg")
    said = " ".join(art.lost)
    assert "Nonesuch Sans" in said and "Inter" in said and "secret.png" in said
    middle, scale = art.height // 2, art.width / 40

    def row(plane: np.ndarray) -> list[int]:
        return [int(plane[middle, int(x * scale)]) for x in (5, 15, 22, 27)]

    assert row(art.pixels[..., 3]) == [0, 255, 0, 0] and row(art.plates["Weiß"]) == [0, 0, 255, 0]
    assert art.pixels[:, int(31 * scale) :, 3].any()


#: A square in the corner, which is drawn if all before it is sound.
CORNER = "M90 90h10v10h-10z"
PATHS = (
    "M0 0L9 9", "m1,1-2-1.5.5.5h5v-5H.5e1V1E0z", "M0 0C1 2 3 4 5 6 7 8 9 10 11 12S1,2,3,4",
    "M5 5Q1 2 3 4T5 5t.5-.5Z", "M9 9a1 1 0 01.5.5A1,1 0 1,0 3,3Zm1 1 2 2", " ",
)  # fmt: skip


@pytest.mark.long
@settings(max_examples=300)
@given(
    st.sampled_from(PATHS), st.integers(0, 60), st.integers(0, 2),
    st.text("MLHVCSQTAZmlhvcsqtaz01259.,-+eE x#\n", max_size=3), st.booleans(),
)  # fmt: skip
def test_paths_break_off_where_what_draws_them_gives_up(
    path: str, at: int, gone: int, put: str, apart: bool
) -> None:
    """Whatever is damaged in their data; what is drawn after it tells."""
    at = min(at, len(path))
    data = path[:at] + put + path[at + gone :] + (" " + CORNER if apart else CORNER)
    # Of places that are thousands of times as far as the picture reaches, nothing is drawn.
    assume(not re.search(r"[eE]\+?([2-9]|\d\d)", data))
    root = ElementTree.Element("svg", xmlns="http://www.w3.org/2000/svg", viewBox="0 0 100 100")
    ElementTree.SubElement(root, "path", d=data, id="Ring")
    picture = resvg_py.svg_to_bytes(
        svg_string=ElementTree.tostring(root, encoding="unicode"), width=100, height=100
    )
    with Image.open(io.BytesIO(bytes(picture))) as image:
        corner = image.convert("RGBA").getpixel((95, 95))[3]
    assert (broken_off(root) == []) is (corner > 0)


@pytest.mark.long
def test_a_path_that_breaks_off_is_said(tmp_path: Path) -> None:
    """Of artwork what is sound is drawn; what is to be cut is refused."""
    path = tmp_path / "art.svg"
    whole = ('<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm"'
             ' viewBox="0 0 40 40"><path id="Ring" d="M0 0h20v20L5 5Z"/>'
             '<path d="M30 30h9v9Z"/><polygon points="0,0 9,0 9,9"/></svg>')  # fmt: skip
    path.write_text(whole)
    assert not read_artwork(path).lost and len(read_lines(path)) == 3
    for sound, broken, name in (
        ("L5 5Z", "L5Z", "Ring"), ("h9v9", "h9v", "path 2"), ("9,0 9,9", "9,0 9,", "path 3"),
    ):  # fmt: skip
        path.write_text(whole.replace(sound, broken))
        art = read_artwork(path)
        assert art.pixels[..., 3].any() and len(art.lost) == 1 and f": {name}." in art.lost[0]
        with pytest.raises(BadInput, match=f"breaks off: {name};"):
            read_lines(path)


@pytest.mark.parametrize(
    ("shape", "size"),
    [
        ('<rect width="40" height="80" transform="rotate(15)"/>', (59.34, 87.63)),
        ('<rect width="40" height="80" rx="5" transform="rotate(15)"/>', (57.10, 85.38)),
        ('<ellipse rx="20" ry="40" transform="rotate(30)"/>', (52.92, 72.11)),
        ('<g transform="scale(2 1) rotate(10)"><circle r="10"/></g>', (40, 20)),
        ('<circle r="10" transform="skewX(30)"/>', (23.09, 20)),
    ],
)
def test_turned_and_sheared_shapes_are_outlines_of_the_right_size(
    tmp_path: Path, shape: str, size: tuple[float, float]
) -> None:
    path = tmp_path / "piece.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="200mm"'
        f' viewBox="-100 -100 200 200">{shape}</svg>'
    )
    found = read_outline(path)
    assert (found.width, found.height) == pytest.approx(size, abs=0.03)


@settings(max_examples=12)
@given(
    st.tuples(*[st.integers(0, 255)] * 3), st.tuples(*[st.integers(0, 255)] * 3),
    st.floats(0.4, 1.2), st.floats(30, 45),
)  # fmt: skip
def test_cleared_edges_lose_the_backgrounds_colour(
    drawn: tuple[int, ...], behind: tuple[int, ...], soft: float, radius: float
) -> None:
    """A disc that was mixed with its background comes out as it was drawn, within 3 levels."""
    front, back = np.array(drawn, float), np.array(behind, float)
    if np.abs(front - back).max() < 120:
        return
    y, x = np.mgrid[0:120, 0:120] + 0.5
    cover = np.clip((radius - np.hypot(x - 60, y - 60)) / soft / 2 + 0.5, 0, 1)
    mixed = np.rint(front * cover[..., None] + back * (1 - cover[..., None])).astype(np.uint8)
    clear = Clear(colours=("#{:02x}{:02x}{:02x}".format(*behind),))
    file = ArtworkFile(digest="0" * 64, file_name="a", width=10, height=10, edits=(clear,))
    art = edited(Artwork(mixed, Space.RGB, None, None), file, shipped_profile())
    assert np.abs(art.pixels[..., 3] - 255 * cover).max() <= 3
    seen = art.pixels[..., 3] > 16
    assert np.abs(art.pixels[..., :3].astype(float) - front)[seen].max() <= 3
    crop = trim_of(art, file)
    assert crop is not None and crop.left == pytest.approx((60 - radius - soft) / 12, abs=0.15)


def test_many_files_are_one_edit_in_the_order_of_their_names(
    window: MainWindow, tmp_path: Path
) -> None:
    folder = tmp_path / "labels"
    folder.mkdir()
    names = [f"label {number}.png" for number in range(1, 25)]
    for index, name in enumerate(reversed(names)):
        small_art(folder / name, 40 + index, 30)
    (folder / "notes.txt").write_text("none of these")
    (folder / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\nnothing")
    before, heard = window.session.job, list[str]()
    window.session.said.connect(heard.append)
    window.intake.drop([QUrl.fromLocalFile(str(folder))])
    # A second drop does not end the first.
    window.intake.drop([QUrl.fromLocalFile(str(small_art(tmp_path / "one more.png", 33, 33)))])
    settle(window)
    added = [art.file_name for art in window.session.job.artworks[1:]]  # type: ignore[union-attr]
    assert sorted(added) == sorted([*names, "one more.png"])
    assert [name for name in added if name in names] == names
    assert any("broken.png" in words for words in heard)
    window.session.undo()
    window.session.undo()
    assert window.session.job == before


def test_pictures_files_and_addresses_are_pasted(window: MainWindow, tmp_path: Path) -> None:
    picture = QImage(40, 20, QImage.Format.Format_RGB32)
    picture.fill("#336699")
    data = QMimeData()
    data.setImageData(picture)
    window.intake.paste(data)
    settle(window)
    art = window.session.job.artworks[-1]  # type: ignore[union-attr]
    assert art.file_name == "Pasted picture.png"
    assert window.session.store.artwork(art).dpi is None
    data = QMimeData()
    data.setUrls([QUrl("https://example.org/picture.png")])
    kept = window.session.job
    window.intake.paste(data)
    assert "not fetched" in window.check_bar.shown_text and window.session.job == kept


def test_a_new_job_is_named_after_its_file_and_says_what_it_guesses(
    window: MainWindow, tmp_path: Path
) -> None:
    window.session.take(None)
    window.intake.add([small_art(tmp_path / "Lime honey.png", 80, 60)])
    settle(window)
    job = window.session.job
    assert job is not None and job.name == "Lime honey" and len(laid(job)) == 1
    shape = job.piece.shape
    assert (shape.width, shape.height) == pytest.approx(
        (80 / 150 * 25.4, 60 / 150 * 25.4), rel=1e-3
    )
    assert set(job.guesses) == set(Guess)
    window.session.edit("Width", lambda j: j.replace(piece=j.piece.replace(
        shape=Rectangle(width=20, height=10))))  # fmt: skip
    assert Guess.PIECE not in window.session.job.guesses  # type: ignore[union-attr]
    check = next(c for c in window.results.findings.checks if c.code == "facts-guessed")  # type: ignore[union-attr]
    assert check.fix is not None
    window.session.edit(check.fix.words, check.fix.mend)
    assert window.session.job.guesses == ()  # type: ignore[union-attr]


def test_one_file_at_two_sizes(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    document = Document()
    document.take(job.job)
    document.edit("Once more", lambda j: once_more(j, 0, width=4.0, height=3.0))
    first, second = document.job.artworks  # type: ignore[union-attr]
    assert first.digest == second.digest and first.key != second.key
    assert second.width == 4.0 and second.quantity == 1


def test_jobs_are_made_from_the_command_line(tmp_path: Path) -> None:
    run = CliRunner()
    for name in ("b 10.png", "b 9.png"):
        small_art(tmp_path / name, 60 + len(name), 40)
    out = tmp_path / "made.farbe"
    words = ["new", str(tmp_path), "-o", str(out), "--piece", "round 60", "--count", "5"]
    more = ["--surface", "#102030", "--printer", "wide flatbed 1600 × 1000"]
    done = run.invoke(app, [*words, *more])
    assert done.exit_code == 0, done.output
    job = Faced(open_job(out, ArtStore(tmp_path / "store")))
    assert job.piece.shape == Circle(diameter=60) and len(laid(job)) == 5 and not job.guesses
    assert [(a.file_name, a.quantity) for a in job.artworks] == [("b 9.png", 3), ("b 10.png", None)]
    assert job.piece.surface.colour == "#102030" and job.printer.bed_width == 1600
    plain = run.invoke(app, ["new", str(tmp_path / "b 9.png"), "-o", str(out)])
    assert "Guessed" in plain.output
    refused = run.invoke(app, ["new", str(out), "-o", str(out), "--piece", "12 elbows"])
    assert "12 elbows" in str(refused.exception)


def test_what_a_picture_leaves_open_is_asked(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """Channels without a name, and a size that nobody stated."""
    pixels = np.full((40, 60, 5), 90, np.uint8)
    tifffile.imwrite(tmp_path / "a.tif", pixels, photometric="separated", extrasamples=[0])
    file = store.add_artwork(tmp_path / "a.tif")
    made = with_only(job, file)
    codes = {check.code for check in run_checks(Facts(made, store))}
    assert {"plate-unknown", "size-not-stated"} <= codes
    sized = made.replace(artworks=(file.replace(width=7.0, height=5.0),))
    assert "size-not-stated" not in {check.code for check in run_checks(Facts(sized, store))}


def test_one_artwork_is_replaced_where_it_is(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    first = job.artworks[0].replace(quantity=5)
    other = store.add_artwork(small_art(tmp_path / "other.png", 40, 30))
    third = store.add_artwork(small_art(tmp_path / "third.png", 44, 30))
    changes = (PocketChange(pocket=3, artwork=first.key),)
    two = job.replace(artworks=(first, other), changes=changes)
    made = replaced(two, first, third)
    assert [art.key for art in made.artworks] == [third.key, other.key]
    assert made.artworks[0].quantity == 5 and made.changes[0].artwork == third.key
    with pytest.raises(BadInput, match="in the tray already"):
        replaced(two, first, other)
    # It is told by what it is, wherever it lies by now.
    assert replaced(two.replace(artworks=(other, first)), first, third).artworks[0] == other
    with pytest.raises(BadInput, match="was taken out"):
        replaced(two.replace(artworks=(other,), changes=()), first, third)


@pytest.mark.long
def test_all_pages_and_layers_from_the_window(
    window: MainWindow, tmp_path: Path, read_here: None
) -> None:
    with tifffile.TiffWriter(tmp_path / "pages.tif") as file:
        for page in range(3):
            file.write(np.full((30, 40 + page, 3), 60 * page, np.uint8), resolution=(300, 300))
    window.intake.replace_all([tmp_path / "pages.tif"])
    settle(window)
    window.intake.all_pages(window.session.job.artworks[0].key, 3)  # type: ignore[union-attr]
    settle(window)
    arts = window.session.job.artworks  # type: ignore[union-attr]
    assert [art.page for art in arts] == [1, 2, 3] and len({art.key for art in arts}) == 3
    assert arts[2].width == pytest.approx(42 / 300 * 25.4)


@pytest.mark.long
def test_layers_of_a_page_are_switched_from_the_window(
    window: MainWindow, tmp_path: Path, read_here: None
) -> None:
    window.intake.replace_all([layered(tmp_path / "layers.pdf")])
    settle(window)
    form = window.bench.views[Station.LAYERS].inspector.findChild(ArtworkForm)  # type: ignore[union-attr]
    assert window.results.preview.offers.layers[1] == ("Old motif", False)  # type: ignore[union-attr]
    form.switch_layer("Old motif", True, False)
    settle(window)
    (layer,) = window.session.job.artworks[0].layers  # type: ignore[union-attr]
    assert layer.on and window.session.undo_name == "Show the layer Old motif"
    form.switch_layer("Old motif", False, False)
    assert window.session.job.artworks[0].layers == ()  # type: ignore[union-attr]
    form.take_group("Motif", True)
    settle(window)
    art = window.session.store.artwork(window.session.job.artworks[0])  # type: ignore[union-attr]
    assert list(art.plates) == ["Motif"]


def test_colour_twice_is_seen_by_day_and_lit(job: Faced, store: ArtStore) -> None:
    """The one behind the white has channels of its own, and is no colour that is hidden."""
    under = COLOUR.replace(name="Colour lit")
    twice = job.replace(stack=(under, *job.stack))
    names = [channel.name for channel in channels(twice)]
    assert {"Cyan", "Cyan 2", "Black 2"} <= set(names)
    codes = {check.code for check in run_checks(Facts(twice, store))}
    assert "white-hides-colour" not in codes
    made = piece_separation(twice, store, Grid(150, 150))
    plates = made.plates(0, made.size[1])
    assert all(np.array_equal(plates[i], plates[5 + i]) for i in range(4))
    with pytest.raises(BadInput, match="two colour layers at the most"):
        twice.replace(stack=(COLOUR.replace(name="Third"), *twice.stack))


def test_a_profile_is_taken_for_an_artwork_that_it_fits(window: MainWindow, tmp_path: Path) -> None:
    """Its pixels are looked at for that, where they were read."""
    form = window.bench.views[Station.LAYERS].inspector.findChild(ArtworkForm)  # type: ignore[union-attr]
    before = window.session.job
    (tmp_path / "press.icc").write_bytes(shipped_profile())
    form.take_profile(tmp_path / "press.icc")
    settle(window)
    assert "profile" in window.check_bar.shown_text and window.session.job is before
    (tmp_path / "screen.icc").write_bytes(srgb_profile())
    form.take_profile(tmp_path / "screen.icc")
    settle(window)
    job, store = window.session.job, window.session.store
    assert job is not None and job.artworks[0].profile is not None
    assert store.artwork(job.artworks[0]).icc == srgb_profile()
    assert window.session.undo_name == "Profile of the artwork"
