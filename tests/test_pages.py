"""Pages of PDF files against Ghostscript, LittleCMS and what was drawn on purpose."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pikepdf
import pytest
import tifffile
from pikepdf import Array, Dictionary, Name, Stream, String
from PIL import Image
from reportlab.lib.colors import CMYKColorSep
from reportlab.pdfgen.canvas import Canvas
from typer.testing import CliRunner

from conftest import some
from farbe.art.artwork import Artwork, Space
from farbe.art.profiles import shipped_profile
from farbe.art.read import read_artwork
from farbe.art.wanted import InkWork, Wanted
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.cli import app
from farbe.edits.artwork import with_added, with_only
from farbe.files.jobfile import open_job
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.laid import allotted
from farbe.layout.prints import one_print
from farbe.model.artwork import PageBox
from farbe.model.inkwords import told_by
from farbe.model.job import Conversion, Intent, Numbers
from farbe.model.meaning import Meaning
from farbe.model.source import FilePlate, PlateNamed
from farbe.plan.spots import uses_of
from farbe.render.piece import piece_separation
from farbe.separate.colour import Converter
from farbe.separate.grid import Grid
from farbe.separate.ownplates import settled

pytestmark = pytest.mark.usefixtures("read_here")
#: Points along the sides of the pages drawn here.
WIDE, HIGH = 220, 40


def at(plane: np.ndarray, x: float, y: float = 20) -> list[int]:
    """The pixel at a place in points from the lower left corner."""
    high, wide = plane.shape[:2]
    found = plane[int((HIGH - y) * high / HIGH), int(x * wide / WIDE)]
    return [int(level) for level in np.atleast_1d(found)]


def page(
    path: Path, content: bytes, resources: Callable[[pikepdf.Pdf], Dictionary] | None = None
) -> Path:
    """A page with contents of its own."""
    pdf = pikepdf.new()
    made = pdf.add_blank_page(page_size=(WIDE, HIGH))
    made.obj.Resources = Dictionary() if resources is None else resources(pdf)
    made.obj.Contents = Stream(pdf, content)
    pdf.save(path)
    return path


def separation(name: str, *alternate: float) -> Array:
    tint = Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=list(alternate), N=1)
    return Array([Name.Separation, Name(f"/{name}"), Name.DeviceCMYK, tint])


def printed(art: Artwork) -> np.ndarray:
    """Process inks as they come out on an empty piece: colour times coverage."""
    shown = settled(art, uses_of(art)).pixels.astype(float)
    return np.asarray(np.rint(shown[..., :4] * shown[..., 4:] / 255))


@pytest.fixture(scope="module")
def other_profile() -> bytes:
    """A CMYK profile that is not the printer's: Ghostscript's own."""
    places = Path("/usr/share").glob("**/ghostscript/**/default_cmyk.icc")
    found = next(places).read_bytes()
    assert found[36:40] == b"acsp" and found[16:20] == b"CMYK"
    return found


@pytest.mark.long
@pytest.mark.parametrize("kind", ["process", "spot"])
def test_half_transparent_inks_are_not_made_less_twice(tmp_path: Path, kind: str) -> None:
    def resources(pdf: pikepdf.Pdf) -> Dictionary:
        ink = pdf.make_indirect(separation("House black", 0, 0, 0, 1))
        states = Dictionary({f"/A{step}": Dictionary(ca=step / 10) for step in range(11)})
        return Dictionary(ExtGState=states, ColorSpace=Dictionary(Spot=ink))

    colour = b"0 0 0 1 k" if kind == "process" else b"/Spot cs 1 scn"
    steps = (b"/A%d gs %d 0 20 40 re f" % (step, 20 * step) for step in range(11))
    path = page(tmp_path / "steps.pdf", b"\n".join((colour, *steps)), resources)
    found = printed(read_artwork(path))
    for step in range(11):
        assert at(found, 20 * step + 10)[3] == pytest.approx(255 * step / 10, abs=2)


@pytest.mark.long
@pytest.mark.parametrize("intent", some([Intent.RELATIVE, Intent.PERCEPTUAL], Intent.RELATIVE))
def test_colours_with_a_profile_become_ink_as_the_job_says(tmp_path: Path, intent: Intent) -> None:
    """Beside a spot, as without one."""
    colours = [(0, 0, 255), (200, 30, 60), (90, 140, 40)]
    canvas = Canvas(str(tmp_path / "rgb.pdf"), pagesize=(WIDE, HIGH))
    for index, colour in enumerate(colours):
        canvas.setFillColorRGB(*(level / 255 for level in colour))
        canvas.rect(40 * index, 0, 40, HIGH, stroke=0, fill=1)
    canvas.setFillColor(CMYKColorSep(0.1, 0, 0, 0, spotName="White"))
    canvas.rect(180, 0, 20, HIGH, stroke=0, fill=1)
    canvas.save()
    how = Conversion(intent=intent)
    art = read_artwork(tmp_path / "rgb.pdf", Wanted(work=InkWork(shipped_profile(), how)))
    wanted = Converter(Space.RGB, None, shipped_profile(), intent=intent)(
        np.array([colours], np.uint8)
    )[0]
    for index, inks in enumerate(wanted):
        assert at(art.pixels, 40 * index + 20)[:4] == pytest.approx(inks.tolist(), abs=2)


@pytest.mark.parametrize("numbers", list(Numbers))
@pytest.mark.parametrize("form", some([False, True], True))
def test_cmyk_with_a_profile_keeps_its_numbers_or_is_converted(
    tmp_path: Path, other_profile: bytes, numbers: Numbers, form: bool
) -> None:
    """The space names no alternate; black alone stays so, in forms as well."""
    content = b"/Own cs 0 0 0 1 scn 0 0 40 40 re f 0.5 0.2 0 0 scn 40 0 40 40 re f"

    def resources(pdf: pikepdf.Pdf) -> Dictionary:
        profile = Stream(pdf, other_profile)
        profile.N = 4
        spaces = Dictionary(Own=Array([Name.ICCBased, pdf.make_indirect(profile)]))
        if not form:
            return Dictionary(ColorSpace=spaces)
        inner = Stream(pdf, content, Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, WIDE, HIGH],
                       Resources=Dictionary(ColorSpace=spaces))  # fmt: skip
        return Dictionary(XObject=Dictionary(Inner=pdf.make_indirect(inner)))

    path = page(tmp_path / "own.pdf", b"/Inner Do" if form else content, resources)
    work = InkWork(shipped_profile(), Conversion(numbers=numbers))
    art = read_artwork(path, Wanted(work=work))
    assert art.space is Space.CMYK and at(art.pixels, 20) == [0, 0, 0, 255, 255]
    mixed = at(art.pixels, 60)[:4]
    if numbers is Numbers.KEEP:
        assert mixed == pytest.approx([127, 51, 0, 0], abs=1)
    else:
        convert = Converter(Space.CMYK, other_profile, shipped_profile())
        wanted = convert(np.array([[[127, 51, 0, 0]]], np.uint8))[0, 0].tolist()
        assert mixed == pytest.approx(wanted, abs=3) and abs(mixed[0] - 127) > 8


def layered(path: Path) -> Path:
    """Three layers: one shown, one hidden, one that its maker does not print."""

    def resources(pdf: pikepdf.Pdf) -> Dictionary:
        groups = [
            pdf.make_indirect(Dictionary(Type=Name.OCG, Name=String(name)))
            for name in ("Motif", "Old motif", "Fold marks")
        ]
        groups[2].Usage = Dictionary(Print=Dictionary(PrintState=Name.OFF))
        event = Dictionary(Event=Name.Print, Category=Array([Name.Print]), OCGs=Array(groups[2:]))
        pdf.Root.OCProperties = Dictionary(
            OCGs=Array(groups), D=Dictionary(OFF=Array(groups[1:2]), AS=Array([event]))
        )
        return Dictionary(Properties=Dictionary(A=groups[0], B=groups[1], C=groups[2]))

    return page(
        path,
        b"0 0 0 1 k 0 0 20 40 re f /OC /A BDC 1 0 0 0 k 40 0 40 40 re f EMC"
        b" /OC /B BDC 0 1 0 0 k 90 0 40 40 re f EMC /OC /C BDC 0 0 1 0 k 150 0 40 40 re f EMC",
        resources,
    )


@pytest.mark.long
def test_layers_print_as_their_maker_has_them_or_as_they_are_switched(tmp_path: Path) -> None:
    path = layered(tmp_path / "layers.pdf")
    places = (10, 60, 110, 170)

    def covered(art: Artwork) -> list[bool]:
        return [at(art.pixels, x)[4] > 0 for x in places]

    art = read_artwork(path)
    assert art.layers == (("Motif", True), ("Old motif", False), ("Fold marks", False))
    assert covered(art) == [True, True, False, False]
    switched = read_artwork(path, Wanted(layers=(("Motif", False), ("Fold marks", True))))
    assert covered(switched) == [True, False, False, True]
    apart = read_artwork(path, Wanted(groups=("Motif", "Old motif")))
    assert covered(apart) == [True, False, False, False]
    assert [at(apart.plates["Old motif"], x)[0] for x in places] == [0, 0, 255, 0]


def test_boxes_units_and_turns_give_exact_sizes(tmp_path: Path) -> None:
    path = page(tmp_path / "boxes.pdf", b"0.2 g 0 0 50 20 re f")
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        made = pdf.pages[0].obj
        made.UserUnit, made.TrimBox, made.BleedBox = (
            2,
            Array([10, 5, 111, 36]),
            Array([5, 0, 116, 40]),
        )
        made.ArtBox = Array([20, 10, 60, 30])
        # Larger than the page: nothing is there.
        made.CropBox = Array([-50, -50, 400, 400])
        pdf.Root.Pages.Rotate = 90
        pdf.save()
    unit = 2 * 25.4 / 72
    wanted = {
        PageBox.TRIM: (31, 101), PageBox.BLEED: (40, 111), PageBox.ART: (20, 40),
        PageBox.MEDIA: (40, 220), PageBox.CROP: (40, 220),
    }  # fmt: skip
    for box, (wide, high) in wanted.items():
        art = read_artwork(path, Wanted(box=box))
        assert art.size_mm() == pytest.approx((wide * unit, high * unit), abs=1e-6)
    store = ArtStore(tmp_path / "store")
    file = store.add_artwork(path)
    half = file.replace(width=file.width / 2, height=file.height / 2)
    other = store.at_page(half, 1, PageBox.ART)
    assert (other.width, other.height) == pytest.approx((10 * unit, 20 * unit))


@pytest.mark.parametrize(
    ("name", "meaning"),
    [
        ("White", Meaning.WHITE), ("Weiß 2", Meaning.WHITE), ("spot_BLANC", Meaning.WHITE),
        ("WhiteInk", Meaning.WHITE), ("Bílá", Meaning.WHITE), ("Cut Line", Meaning.CUT),
        ("CutContour", Meaning.CUT), ("Découpe", Meaning.CUT), ("Stanze", Meaning.CUT),
        ("Executive", None), ("Goldfish red", None), ("Matthew", None), ("Lackawanna", None),
        ("Vernice lucida", Meaning.VARNISH), ("Barniz", Meaning.VARNISH),
        ("Gloss-UV", Meaning.VARNISH),
        ("Silber", Meaning.INK), ("Corporate Red", None), ("Off-cutter", None),
    ],
)  # fmt: skip
def test_names_are_told_by_whole_words(name: str, meaning: Meaning | None) -> None:
    assert told_by(name) is meaning


def spots(path: Path) -> Path:
    """White under a square that knocks it out, and a red of which the name says nothing."""
    return page(
        path,
        b"/W cs 1 scn 0 0 140 40 re f 1 0 0 0 k 40 0 60 40 re f /R cs 1 scn 160 0 40 40 re f",
        lambda pdf: Dictionary(ColorSpace=Dictionary(
            W=pdf.make_indirect(separation("White", 0.2, 0, 0, 0)),
            R=pdf.make_indirect(separation("Corporate Red", 0, 1, 0.9, 0)))),
    )  # fmt: skip


def test_what_a_spot_is_for_is_asked_and_not_guessed(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    file = store.add_artwork(spots(tmp_path / "label.pdf"))
    uses = {use.name: use for use in file.plates}
    assert uses["White"].guessed and uses["Corporate Red"].meaning is Meaning.UNKNOWN
    assert uses["Corporate Red"].inks == pytest.approx((0, 100, 90, 0), abs=0.5)
    made = with_only(job, file)

    def codes(of: Faced) -> set[str]:
        return {check.code for check in run_checks(Facts(of, store))}

    assert {"plate-unknown", "plate-guessed", "plate-knocked-out"} <= codes(made)
    # Until it is told, it is seen in its own colours, and white lies under it as under all colour.
    plates = piece_separation(made, store, Grid(100, 100)).plates(0, 45)
    assert plates[1].max() == 255 and plates[3].max() == 0
    told = made
    for code in ("plate-unknown", "plate-knocked-out"):
        (check,) = [one for one in run_checks(Facts(told, store)) if one.code == code]
        assert check.fix is not None
        told = check.fix.mend(told)
    assert not {"plate-unknown", "plate-knocked-out"} & codes(told)
    art = store.artwork(told.artworks[0], told)
    assert [at(art.plates["White"], x)[0] for x in (20, 70, 180)] == [255, 255, 0]
    whole = [at(store.artwork(file).plates["White"], x)[0] for x in (20, 70, 180)]
    assert whole == [255, 0, 0]
    ink = uses["Corporate Red"].replace(meaning=Meaning.INK)
    asked = made.replace(artworks=(file.replace(plates=(ink,)),))
    assert "plate-not-printed" in codes(asked)


def test_one_files_white_never_changes_anothers(
    job: Faced, store: ArtStore, art_file: Path, tmp_path: Path
) -> None:
    plain, brings = store.add_artwork(art_file), store.add_artwork(spots(tmp_path / "label.pdf"))
    made = with_added(with_only(job, plain), brings)
    white = [layer.name for layer in made.stack].index("White")

    def plate(of: Faced, index: int) -> np.ndarray:
        prints = allotted(of).prints.values()
        one = one_print(of, next(what for what in prints if what.artwork == of.artworks[index]))
        return piece_separation(one, store, Grid(150, 150)).plates(0, 80)[white]

    before = with_only(job, plain)
    assert np.array_equal(plate(made, 0), plate(before, 0)) and plate(made, 0).any()
    # The file's own plate has the edges that it has, unless it is to be treated as the shape is.
    layer = made.stack[white]
    named = layer.replace(source=PlateNamed(name="White"), treatments=())
    stack = list(made.stack)
    stack[white] = named
    own = plate(made, 1)
    assert layer.choke > 0 and own.any()
    assert np.array_equal(own, plate(made.replace(stack=tuple(stack)), 1))
    stack[white] = layer.replace(source=FilePlate(treated=True))
    choked = plate(made.replace(stack=tuple(stack)), 1)
    assert (choked <= own).all() and choked.sum() < own.sum()


@pytest.mark.long
def test_white_by_another_name_is_looked_after_too(store: ArtStore, tmp_path: Path) -> None:
    """Once it is said to be white, what lies above it is noticed."""
    path = page(
        tmp_path / "label.pdf",
        b"/W cs 1 scn 0 0 140 40 re f 1 0 0 0 k 40 0 60 40 re f",
        lambda pdf: Dictionary(ColorSpace=Dictionary(
            W=pdf.make_indirect(separation("Base 7", 0.2, 0, 0, 0)))),
    )  # fmt: skip
    file = store.add_artwork(path)
    assert store.artwork(file).knocked == {}
    told = file.replace(plates=(file.plates[0].replace(meaning=Meaning.WHITE),))
    area = 60 * 40 * (25.4 / 72) ** 2
    assert store.artwork(told).knocked["Base 7"] == pytest.approx(area, rel=0.02)


@pytest.mark.long
def test_a_single_separation_asks_by_its_status(tmp_path: Path) -> None:
    path, run = spots(tmp_path / "label.pdf"), CliRunner()
    found = run.invoke(app, ["separate", str(path), "-o", str(tmp_path / "a.tif")])
    assert found.exit_code == 1 and "Corporate Red" in found.output
    levels = tifffile.imread(tmp_path / "a.tif")
    assert at(levels, 180)[:4] == pytest.approx([0, 255, 230, 0], abs=2)
    said = ["--plate", "Corporate Red=ink", "--plate", "White=ignore"]
    found = run.invoke(app, ["separate", str(path), "-o", str(tmp_path / "b.tif"), *said])
    assert found.exit_code == 0 and "Corporate Red (named ink)" in found.output
    found = run.invoke(app, ["separate", str(path), "-o", "b.tif", "--plate", "Blue=ink"])
    assert isinstance(found.exception, Exception) and "no plate blue" in str(found.exception)


def test_what_a_page_lacks_is_named(tmp_path: Path) -> None:
    path = page(
        tmp_path / "lacks.pdf",
        b"BT /F 12 Tf 10 10 Td (Honey) Tj ET /Gone Do /Linked Do",
        lambda pdf: Dictionary(
            Font=Dictionary(F=Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Times)),
            XObject=Dictionary(Linked=Stream(
                pdf, b"", Subtype=Name.Image, Width=1, Height=1, ColorSpace=Name.DeviceGray,
                BitsPerComponent=8, F=String("bees.tif"))),
        ),
    )  # fmt: skip
    said = " ".join(read_artwork(path).lost)
    assert "Times" in said and "bees.tif" in said and "Gone" in said


def test_an_eps_is_a_page_of_its_size(tmp_path: Path) -> None:
    (tmp_path / "art.dat").write_text(
        "%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 220 40\n0 0 1 0 setcmykcolor\n"
        "0 0 100 40 rectfill\nshowpage\n"
    )
    art = read_artwork(tmp_path / "art.dat")
    assert art.size_mm() == pytest.approx((220 * 25.4 / 72, 40 * 25.4 / 72), abs=0.01)
    assert at(art.pixels, 50) == [0, 0, 255, 0, 255] and at(art.pixels, 150)[4] == 0


@pytest.mark.long
@pytest.mark.parametrize("packed", some(["flate", "jpeg"], "jpeg"))
def test_black_alone_in_pictures_stays_alone(
    tmp_path: Path, other_profile: bytes, packed: str
) -> None:
    """Pictures with a CMYK profile of their own, beside other inks that are converted."""
    patches = np.array([(0, 0, 0, 255), (0, 0, 0, 128), (160, 60, 20, 0)], np.uint8)
    pixels = np.repeat(np.repeat(patches[None], 16, axis=0), 16, axis=1)

    def resources(pdf: pikepdf.Pdf) -> Dictionary:
        profile = Stream(pdf, other_profile)
        profile.N = 4
        own = Dictionary(
            Subtype=Name.Image, Width=48, Height=16, BitsPerComponent=8,
            ColorSpace=Array([Name.ICCBased, pdf.make_indirect(profile)]),
        )  # fmt: skip
        if packed == "jpeg":
            file = io.BytesIO()
            Image.fromarray(pixels, "CMYK").save(file, "JPEG", quality=100, subsampling=0)
            own.Filter = Name.DCTDecode
            # Pillow writes such files inverted, as most programs do.
            own.Decode = Array([1, 0] * 4)
            picture = Stream(pdf, file.getvalue(), own)
        else:
            picture = Stream(pdf, pixels.tobytes(), own)
        return Dictionary(XObject=Dictionary(P=pdf.make_indirect(picture)))

    path = page(tmp_path / "picture.pdf", b"q 180 0 0 40 0 0 cm /P Do Q", resources)
    kept = read_artwork(path, Wanted(work=InkWork(shipped_profile(), Conversion(
        numbers=Numbers.KEEP))))  # fmt: skip
    for index, patch in enumerate(patches):
        assert at(kept.pixels, 30 + 60 * index)[:4] == pytest.approx(patch.tolist(), abs=3)
    art = read_artwork(path, Wanted(work=InkWork(shipped_profile())))
    assert at(art.pixels, 30)[:4] == pytest.approx([0, 0, 0, 255], abs=2)
    assert at(art.pixels, 90)[:4] == pytest.approx([0, 0, 0, 128], abs=3)
    wanted = Converter(Space.CMYK, other_profile, shipped_profile())(patches[None, 2:])[0, 0]
    assert at(art.pixels, 150)[:4] == pytest.approx(wanted.tolist(), abs=6)


@pytest.mark.long
def test_two_intents_are_mixed_as_the_job_says(tmp_path: Path) -> None:
    canvas = Canvas(str(tmp_path / "rgb.pdf"), pagesize=(WIDE, HIGH))
    canvas.setFillColorRGB(0, 0, 1)
    canvas.rect(0, 0, 40, HIGH, stroke=0, fill=1)
    canvas.setFillColor(CMYKColorSep(0.1, 0, 0, 0, spotName="White"))
    canvas.rect(180, 0, 20, HIGH, stroke=0, fill=1)
    canvas.save()

    def inks(how: Conversion) -> np.ndarray:
        work = InkWork.of(shipped_profile(), how)
        return np.array(at(read_artwork(tmp_path / "rgb.pdf", Wanted(work=work)).pixels, 20)[:4])

    one = inks(Conversion(intent=Intent.RELATIVE))
    other = inks(Conversion(intent=Intent.PERCEPTUAL))
    mixed = inks(Conversion(intent=Intent.RELATIVE, flat_intent=Intent.PERCEPTUAL, flat=50))
    assert np.abs(one - other).max() > 10
    assert mixed == pytest.approx((one + other) / 2, abs=1.5)


@pytest.mark.long
def test_several_pages_of_a_file_are_artworks_of_one_job(tmp_path: Path) -> None:
    path = page(tmp_path / "pages.pdf", b"0 0 0 1 k 0 0 50 20 re f")
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        pdf.pages.append(pdf.pages[0])
        pdf.pages[1].obj.MediaBox = Array([0, 0, WIDE / 2, HIGH])
        pdf.save()
    out = tmp_path / "made.farbe"
    words = ["new", str(path), "-o", str(out), "--page", "1", "--page", "2"]
    done = CliRunner().invoke(app, words)
    assert done.exit_code == 0, done.output
    first, second = open_job(out, ArtStore(tmp_path / "store")).faces[0].artworks
    assert (first.page, second.page) == (1, 2) and first.key != second.key
    assert second.width == pytest.approx(first.width / 2)
