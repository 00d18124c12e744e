"""The sample jobs."""

from __future__ import annotations

import tempfile
from pathlib import Path

from PIL import Image
from shapely.geometry import Point, Polygon

from farbe.atomic import make_folder
from farbe.files.jobfile import SUFFIX, save_job
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.fill import fullest
from farbe.layout.pockets import centred_jig
from farbe.model.artwork import ArtworkFile
from farbe.model.face import Face, SamePrint, Turn, Turning
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.marks import Marks
from farbe.model.piece import (
    Circle,
    Material,
    Outline,
    Piece,
    Reader,
    Rectangle,
    RoundBody,
    Shape,
    Surface,
    Unrolled,
)
from farbe.model.placing import Across, Fit, Placing
from farbe.model.printer import LayerKind
from farbe.model.roll import Cut, Garment, Packing, Roll
from farbe.model.source import FilePlate, Region, WholePiece
from farbe.model.text import Table, TextBox, TypeFace
from farbe.model.treatment import FINE_STROKE, Choke, Dots, Ease, Grain, Harden, Holes, Specks
from farbe.plan.order import default_stack
from farbe.plan.printers import FLATBED, ROLL_PRINTER
from farbe.plan.receivers import OPEN_PLATES
from farbe.plan.recipes import recipe
from farbe.plan.spots import with_plates
from farbe.render.footprints import ganged
from farbe.said import shipped
from farbe.samples.draw import (
    AMBER,
    BARK,
    DPI,
    DUSK,
    HEATHER,
    HONEY,
    MOSS,
    apron_print,
    banner_side,
    beaker_print,
    bee_badge,
    corner_comb,
    jar_label,
    lid_emblem,
    mead_label,
    pen_print,
    srgb_bytes,
    stall_sign,
    tag_back,
    tag_face,
    window_inside,
    window_outside,
)
from farbe.samples.spots import write_spot_label


def lid_job(store: ArtStore) -> Job:
    """Jar lids in dark lacquered steel: white under the colour, raised varnish on top."""
    artwork = _drawn(store, "heather-honey-lid.png", lid_emblem())
    lid = Circle(diameter=70)
    jig = Jig(
        name="Lids 70, 7 × 3",
        board=Board(x=10, y=10, width=580, height=280),
        first_x=20,
        first_y=20,
        columns=7,
        rows=3,
        gap_x=10,
        gap_y=15,
    )
    return Job(
        name="Heather honey lids",
        piece=Piece(
            name=shipped("jar lid"),
            shape=lid,
            height=9,
            relief=0.3,
            surface=Surface(colour="#1d3b31", name=shipped("steel, dark green")),
        ),
        faces=(
            Face(
                reader=Reader.FACE,
                artworks=(artwork.replace(width=66.0, height=66.0),),
                stack=(
                    WHITE_UNDER.replace(treatments=(Choke(by=0.12, least=FINE_STROKE),)),
                    COLOUR,
                    VARNISH_OVER.replace(hits=3, name=shipped("Raised varnish")),
                ),
            ),
        ),
        printer=FLATBED,
        jig=centred_jig(jig, lid),
        receiver=OPEN_PLATES,
    )


#: Helpers of the stall; all names are made up.
HELPERS = (
    "Alda Brook",
    "Benno Quill",
    "Cara Wick",
    "Dilys Fenn",
    "Edo Marsh",
    "Fia Loam",
    "Gethin Reed",
    "Hanne Copse",
    "Ivo Thatch",
    "Juno Lark",
    "Kester Moss",
    "Lio Heath",
    "Merel Stook",
    "Nils Harrow",
    "Orla Gorse",
    "Piet Sedge",
    "Runa Fold",
    "Sven Tallow",
)


def tag_shape() -> Outline:
    """A tag, 64 × 32 mm, pointed at its left end, with a hole for a ring."""
    body = Polygon([(-32, -7), (-24, -16), (32, -16), (32, 16), (-24, 16), (-32, 7)])
    round_ = body.buffer(-2.5, quad_segs=8).buffer(2.5, quad_segs=8)
    hole = Point(-25, 0).buffer(2.6, quad_segs=8)
    rings = (
        tuple((round(x, 4), round(y, 4)) for x, y in ring.coords[:-1])
        for ring in (round_.exterior, hole.exterior)
    )
    return Outline(rings=tuple(rings))


def _drawn(store: ArtStore, name: str, picture: Image.Image, dpi: float = DPI) -> ArtworkFile:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / name
        picture.save(path, dpi=(dpi, dpi), icc_profile=srgb_bytes())
        return store.add_artwork(path)


def tag_job(store: ArtStore) -> Job:
    """Wooden name tags, printed on both sides: two faces, each helper's name, the bee behind."""
    shape = tag_shape()
    jig = Jig(
        name="Tags 64, 6 × 5",
        board=Board(x=10, y=10, width=500, height=260, colour="#3a3d42"),
        first_x=20,
        first_y=20,
        columns=6,
        rows=5,
        gap_x=14,
        gap_y=12,
        first_only=len(HELPERS),
    )
    stall = _drawn(store, "stall-tag.png", tag_face((30, 74, 60, 255), (240, 164, 30, 255)))
    kitchen = _drawn(store, "kitchen-tag.png", tag_face((112, 52, 92, 255), (226, 168, 208, 255)))
    behind = _drawn(store, "bee-tag.png", tag_back())
    stack = (WHITE_UNDER.replace(treatments=(Choke(by=0.1, least=FINE_STROKE),)), COLOUR)
    return Job(
        name="Helpers' name tags",
        piece=Piece(
            name=shipped("name tag"),
            shape=shape,
            height=4,
            surface=Surface(colour="#c99f6a", name=shipped("wood")),
        ),
        printer=FLATBED,
        faces=(
            Face(
                artworks=(stall, kitchen.replace(quantity=6)),
                texts=(
                    TextBox(
                        text="{name}",
                        x=-2.75,
                        y=1,
                        width=32,
                        height=6,
                        size=3.4,
                        colour="#2a1a10",
                        across=Across.LEFT,
                        face=TypeFace.BOLD,
                    ),
                    TextBox(
                        text="{place} · {#}",
                        x=-2.75,
                        y=-5,
                        width=32,
                        height=3.6,
                        size=2.1,
                        colour="#7a4a16",
                        across=Across.LEFT,
                    ),
                ),
                table=Table(
                    file_name="helpers.csv",
                    columns=("name", "place"),
                    rows=tuple(
                        (n, "Stall" if i < 12 else "Kitchen") for i, n in enumerate(HELPERS)
                    ),
                ),
                stack=stack,
            ),
            Face(stack=stack, artworks=(behind,)),
        ),
        comes_up=Turning(turn=Turn.ENDWAYS),
        bleed=1.0,
        jig=centred_jig(jig, shape),
        receiver=OPEN_PLATES,
    )


def _bed_of(name: str, shape: Shape, gap: float, *, count: int | None = None) -> Jig:
    """As many pockets as fit on a board that nearly fills the flatbed."""
    board = Board(x=5, y=5, width=590, height=290, colour="#d8d2c4")
    jig = Jig(name=name, board=board, first_x=10, first_y=10, gap_x=gap, gap_y=gap)
    return fullest(jig, shape, FLATBED, 3.0).jig.replace(first_only=count)


def label_job(store: ArtStore) -> Job:
    """Jar labels on clear film, read through it: colour first, white behind, mirrored."""
    shape = Rectangle(width=84, height=56, corner_radius=3)
    return Job(
        name="Thyme honey labels",
        piece=Piece(
            name=shipped("jar label"),
            shape=shape,
            height=0.1,
            surface=Surface(material=Material.CLEAR, name=shipped("clear film")),
        ),
        faces=(
            Face(
                reader=Reader.THROUGH,
                artworks=(_drawn(store, "thyme-label.png", jar_label()),),
                stack=default_stack(Reader.THROUGH),
            ),
        ),
        printer=FLATBED,
        jig=_bed_of("Labels 84 × 56", shape, 6.0),
        receiver=OPEN_PLATES,
    )


def spot_label_job(store: ArtStore) -> Job:
    """The same label from a designer's PDF: its white and varnish spots are the plates."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "designer-label.pdf"
        write_spot_label(path)
        artwork = store.add_artwork(path)
    shape = Rectangle(width=84, height=56, corner_radius=3)
    plain = Job(
        name="Labels from a designer's PDF",
        piece=Piece(
            name=shipped("jar label"),
            shape=shape,
            height=0.4,
            surface=Surface(colour="#20302a", name=shipped("dark card")),
        ),
        printer=FLATBED,
        faces=(Face(artworks=(artwork,), stack=(WHITE_UNDER, COLOUR, VARNISH_OVER)),),
        jig=_bed_of("Cards 84 × 56", shape, 6.0),
        receiver=OPEN_PLATES,
    )
    made = with_plates(Faced(plain), artwork)
    # The designer drew white to the edge of the colour.
    drawn_back = Choke(by=0.12, least=FINE_STROKE)
    stack = tuple(
        la.replace(source=FilePlate(treated=True), treatments=(drawn_back,))
        if la.kind is LayerKind.WHITE else la
        for la in made.stack
    )  # fmt: skip
    return made.replace(stack=stack).job


def sign_job(store: ArtStore) -> Job:
    """A lit sign on clear acrylic, read through it: heavy colour, two hits of white behind."""
    shape = Rectangle(width=280, height=180, corner_radius=4)
    made = recipe("lit from behind")
    return Job(
        name="Lit stall sign",
        piece=Piece(name=shipped("sign"), shape=shape, height=5, surface=made.surface),
        faces=(
            Face(
                reader=made.reader,
                artworks=(_drawn(store, "stall-sign.png", stall_sign(), 160),),
                placing=Placing(fit=Fit.FILL),
                stack=(made.stack[0], made.stack[1].replace(source=WholePiece(), treatments=())),
            ),
        ),
        printer=FLATBED,
        jig=_bed_of("Signs 280 × 180", shape, 10.0),
        receiver=OPEN_PLATES,
    )


def window_job(store: ArtStore) -> Job:
    """A shop window on clear film, read from the street and from within, with holes all over.

    Told as the street sees it, which looks through the film; the board in the middle stays solid.
    """
    shape = Rectangle(width=256, height=176, corner_radius=4)
    made = recipe("clear, read from both sides")
    middle = ((-118.0, -34.0), (118.0, -34.0), (118.0, 34.0), (-118.0, 34.0))
    return Job(
        name="Shop window, two faces",
        piece=Piece(
            name=shipped("window film"),
            shape=shape,
            height=0.2,
            surface=Surface(material=Material.CLEAR, name=shipped("clear film")),
        ),
        faces=(
            Face(
                reader=made.reader,
                artworks=(_drawn(store, "window-outside.png", window_outside(), 160),),
                stack=made.stack,
            ),
            Face(
                reader=Reader.FACE,
                artworks=(_drawn(store, "window-inside.png", window_inside(), 160),),
            ),
        ),
        comes_up=SamePrint(),
        printer=FLATBED,
        see_through=Holes(spacing=2.4, size=1.5, solid=Region(rings=(middle,))),
        jig=_bed_of("Window films 256 × 176", shape, 10.0, count=1),
        receiver=OPEN_PLATES,
    )


def apron_job(store: ArtStore) -> Job:
    """Transfers for dark aprons: soft smoke becomes dots in the white, and it is eased."""
    shape = Rectangle(width=190, height=160)
    made = recipe("transfer on dark")
    soft = made.stack[1].replace(
        treatments=(
            Choke(by=0.08, least=FINE_STROKE),
            Dots(grain=Grain.NOISE, dot=0.11),
            Ease(least=55),
            Specks(size=0.1),
        )
    )
    return Job(
        name="Apron transfers",
        piece=Piece(name=shipped("apron print"), shape=shape, surface=made.surface),
        faces=(
            Face(
                reader=made.reader,
                artworks=(_drawn(store, "keeper-of-bees.png", apron_print(), 300),),
                stack=(made.stack[0], soft),
            ),
        ),
        printer=FLATBED,
        jig=_bed_of("Transfers 190 × 160", shape, 8.0),
        receiver=OPEN_PLATES,
    )


def gang_job(store: ArtStore) -> Job:
    """Transfers for aprons of two colours and three sizes, ganged on film by their true shapes."""
    made = recipe("transfer on dark")
    white = made.stack[1].replace(
        treatments=(Harden(), Choke(by=0.12, least=FINE_STROKE), Specks(size=0.1))
    )
    arts = tuple(
        _drawn(store, name, picture, 300).replace(quantity=quantity)
        for name, picture, quantity in (
            ("keeper-of-bees.png", apron_print(), 6),
            ("corner-comb.png", corner_comb(), 12),
            ("bee-badge.png", bee_badge(), 12),
        )
    )
    film = Roll(width=600, gap=5, packing=Packing.SHAPES, cut=Cut.SHAPES, price=4.2)
    plain = Job(
        name="Apron gang",
        piece=Piece(
            name=shipped("apron print"),
            shape=Rectangle(width=180, height=150),
            surface=made.surface,
        ),
        faces=(Face(reader=made.reader, artworks=arts, stack=(made.stack[0], white)),),
        printer=ROLL_PRINTER,
        medium=film,
        garments=(
            Garment(colour="#23262e", name=shipped("dark cotton"), size="M", count=3),
            Garment(colour="#23262e", name=shipped("dark cotton"), size="L", count=2),
            Garment(colour="#5a2b2e", name=shipped("heather red cotton"), size="L", count=1),
        ),
        marks=Marks(frame=False, trim=False, label="{job} · {date}", label_height=4),
        jig=_bed_of("Transfers 190 × 160", Rectangle(width=190, height=160), 8.0),
        receiver=OPEN_PLATES,
    )
    return ganged(Faced(plain), store).job


def banner_job(store: ArtStore) -> Job:
    """Two hanging banners, printed on both sides of a fabric from the roll, pair by pair."""
    sides = [
        _drawn(store, name, banner_side(words, below, ground, light), 160).replace(quantity=1)
        for name, words, below, ground, light in (
            ("market-a.png", "MARKET", "honey this way", MOSS, AMBER),
            ("mead-a.png", "MEAD HALL", "come in and sit down", DUSK, HEATHER),
            ("market-b.png", "MARKET", "you are leaving the honey", HONEY, AMBER),
            ("mead-b.png", "MEAD HALL", "mind the step", BARK, HEATHER),
        )
    ]
    made = Job(
        name="Hanging banners, two sides",
        piece=Piece(
            name=shipped("banner"),
            shape=Rectangle(width=300, height=420),
            surface=Surface(material=Material.TEXTILE, colour="#f6f3ec", name=shipped("canvas")),
        ),
        printer=ROLL_PRINTER,
        faces=(
            Face(artworks=tuple(sides[:2]), stack=(COLOUR,)),
            Face(stack=(COLOUR,), artworks=tuple(sides[2:])),
        ),
        comes_up=Turning(),
        medium=Roll(width=400, side=15, lead=40, trail=60, gap=20, price=6.5),
        jig=_bed_of("Banners", Rectangle(width=200, height=200), 8.0),
        receiver=OPEN_PLATES,
    )
    return ganged(Faced(made), store).job


def mead_job(store: ArtStore) -> Job:
    """Mead bottles on rollers: four side by side, printed all around with a seam of half a mm."""
    body = RoundBody(diameter=75, zone=88, seam=0.5, length=125, base=12)
    board = Board(x=0, y=0, width=600, height=300, colour="#4a4d50")
    jig = Jig(
        name="Bottles on rollers, 4",
        board=board,
        first_x=20,
        first_y=20,
        columns=4,
        rows=1,
        gap_x=6,
        turned=90,
        play=0.3,
    )
    return Job(
        name="Heather mead bottles",
        piece=Piece(
            name=shipped("mead bottle"),
            shape=body,
            height=75,
            surface=Surface(colour="#3a2a1c", name=shipped("brown glass")),
        ),
        printer=FLATBED,
        faces=(
            Face(
                artworks=(_drawn(store, "heather-mead.png", mead_label(), 300),),
                placing=Placing(fit=Fit.FILL),
                stack=(WHITE_UNDER.replace(treatments=(Choke(by=0.1, least=FINE_STROKE),)), COLOUR),
            ),
        ),
        jig=centred_jig(jig, body),
        receiver=OPEN_PLATES,
    )


def beaker_job(store: ArtStore) -> Job:
    """Tapered beakers by transfers that are wrapped around: the artwork is bent into an arc."""
    body = RoundBody(diameter=62, end_diameter=82, zone=84, seam=2.0, unrolled=Unrolled.WRAPPED)
    made = recipe("transfer on dark")
    jig = Jig(
        name="Beaker wraps, 2",
        board=Board(x=5, y=5, width=590, height=290, colour="#d8d2c4"),
        first_x=10,
        first_y=10,
        columns=2,
        rows=1,
        gap_x=12,
    )
    return Job(
        name="Tapered beakers",
        piece=Piece(
            name=shipped("beaker"),
            shape=body,
            surface=Surface(colour="#20302a", name=shipped("dark enamel")),
        ),
        faces=(
            Face(
                reader=made.reader,
                artworks=(_drawn(store, "warm-mead.png", beaker_print(), 300),),
                placing=Placing(fit=Fit.FIT),
                stack=made.stack,
            ),
        ),
        printer=FLATBED,
        jig=centred_jig(jig, body),
        receiver=OPEN_PLATES,
    )


def pen_job(store: ArtStore) -> Job:
    """Pens with small type and hairlines, on which the checks have something to say."""
    shape = Rectangle(width=52, height=7)
    made = _bed_of("Pens 52 × 7", shape, 6.0)
    return Job(
        name="Market pens",
        piece=Piece(
            name=shipped("pen"), shape=shape, height=9.5, relief=1.2,
            surface=Surface(colour="#1d2b45", name=shipped("anodised, dark blue")),
        ),
        faces=(
            Face(
                artworks=(_drawn(store, "market-pen.png", pen_print(), 1200),),
                texts=(
                    TextBox(
                        text="stall 7", x=21.5, y=-2.3, width=7, height=2, size=1.5,
                        colour="#ffffff", face=TypeFace.REGULAR,
                    ),
                ),
                stack=(WHITE_UNDER, COLOUR),
            ),
        ),
        printer=FLATBED,
        jig=made,
        receiver=OPEN_PLATES,
    )  # fmt: skip


SAMPLES = {
    "jar-lids": lid_job,
    "name-tags": tag_job,
    "jar-labels": label_job,
    "designer-labels": spot_label_job,
    "stall-sign": sign_job,
    "shop-window": window_job,
    "apron-transfers": apron_job,
    "apron-gang": gang_job,
    "hanging-banners": banner_job,
    "mead-bottles": mead_job,
    "tapered-beaker": beaker_job,
    "market-pens": pen_job,
}


def write_samples(folder: Path, store: ArtStore) -> list[Path]:
    """Every sample job as a job file in a folder; the files.

    Raises
    ------
    BadInput
        If the folder cannot be written to.
    """
    make_folder(folder)
    paths = []
    for name, make in SAMPLES.items():
        path = folder / f"{name}{SUFFIX}"
        save_job(make(store), store, path)
        paths.append(path)
    return paths
