"""The sample jobs."""

from __future__ import annotations

import tempfile
from pathlib import Path

from PIL import Image
from shapely.geometry import Point, Polygon

from farbe.files.atomic import make_folder
from farbe.files.jobfile import SUFFIX, save_job
from farbe.files.store import ArtStore
from farbe.layout.pockets import centred_jig
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.piece import Circle, Outline, Piece, Reader, Surface
from farbe.model.placing import Across
from farbe.model.receiver import Receiver
from farbe.model.side import ArtworkFile, Back, Turn, Turning
from farbe.model.text import Table, TextBox, TypeFace
from farbe.model.treatment import Choke
from farbe.samples.draw import DPI, lid_emblem, srgb_bytes, tag_back, tag_face
from farbe.samples.printers import FLATBED

OPEN_RECEIVER = Receiver(name="Open plates")


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
            name="jar lid",
            shape=lid,
            height=9,
            relief=0.3,
            surface=Surface(colour="#1d3b31", name="steel, dark green"),
        ),
        reader=Reader.FACE,
        printer=FLATBED,
        artworks=(artwork.replace(width=66.0, height=66.0),),
        stack=(
            WHITE_UNDER.replace(treatments=(Choke(by=0.12),)),
            COLOUR,
            VARNISH_OVER.replace(hits=3, name="Raised varnish"),
        ),
        jig=centred_jig(jig, lid),
        receiver=OPEN_RECEIVER,
    )


#: Helpers of the stall; all names are made up.
HELPERS = (
    "Alda Brook", "Benno Quill", "Cara Wick", "Dilys Fenn", "Edo Marsh", "Fia Loam",
    "Gethin Reed", "Hanne Copse", "Ivo Thatch", "Juno Lark", "Kester Moss", "Lio Heath",
    "Merel Stook", "Nils Harrow", "Orla Gorse", "Piet Sedge", "Runa Fold", "Sven Tallow",
)  # fmt: skip


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


def _drawn(store: ArtStore, name: str, picture: Image.Image) -> ArtworkFile:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / name
        picture.save(path, dpi=(DPI, DPI), icc_profile=srgb_bytes())
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
    stack = (WHITE_UNDER.replace(treatments=(Choke(by=0.1),)), COLOUR)
    return Job(
        name="Helpers' name tags",
        piece=Piece(
            name="name tag", shape=shape, height=4, surface=Surface(colour="#c99f6a", name="wood")
        ),
        printer=FLATBED,
        artworks=(stall, kitchen.replace(quantity=6)),
        texts=(
            TextBox(
                text="{name}", x=-2.75, y=1, width=32, height=5, size=3.4, colour="#2a1a10",
                across=Across.LEFT, face=TypeFace.BOLD,
            ),
            TextBox(
                text="{place} · {#}", x=-2.75, y=-5, width=32, height=3, size=2.1,
                colour="#7a4a16", across=Across.LEFT,
            ),
        ),
        table=Table(
            file_name="helpers.csv",
            columns=("name", "place"),
            rows=tuple((n, "Stall" if i < 12 else "Kitchen") for i, n in enumerate(HELPERS)),
        ),
        stack=stack,
        back=Back(stack=stack, artworks=(behind,), turning=Turning(turn=Turn.ENDWAYS)),
        bleed=1.0,
        jig=centred_jig(jig, shape),
        receiver=OPEN_RECEIVER,
    )  # fmt: skip


SAMPLES = {"jar-lids": lid_job, "name-tags": tag_job}


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
