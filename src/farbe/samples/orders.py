"""A morning's orders of the honey cooperative: products, artwork and a list."""

from __future__ import annotations

import csv
import io
import random
from pathlib import Path

from PIL import Image

from farbe.atomic import make_folder, whole_file
from farbe.files.store import ArtStore
from farbe.layout.pockets import centred_jig
from farbe.model.artwork import ArtworkFile
from farbe.model.face import Face
from farbe.model.jig import Board, Jig
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.marks import Marks
from farbe.model.piece import Circle, Piece, Rectangle, Surface
from farbe.model.placing import Fit, Placing
from farbe.model.roll import Cut, Roll
from farbe.model.text import TextBox, TypeFace
from farbe.model.treatment import FINE_STROKE, Choke, Harden
from farbe.orders.product import FOLDER, keep_product
from farbe.plan.printers import FLATBED, ROLL_PRINTER
from farbe.plan.receivers import OPEN_PLATES
from farbe.plan.recipes import recipe
from farbe.said import shipped
from farbe.samples.draw import (
    AMBER,
    BARK,
    DUSK,
    HEATHER,
    HONEY,
    LEAF,
    MOSS,
    Paint,
    bee_badge,
    corner_comb,
    initial_badge,
    jar_label,
    srgb_bytes,
)
from farbe.samples.jobs import HELPERS, label_job, mead_job

LIST_NAME, ARTWORK = "morning.csv", "artwork"
#: Orders of the list.
COUNT = 300
LID, LABEL, BOTTLE = "Lid with a name", "Thyme label", "Mead bottle"
APRONS = ("Apron print S", "Apron print M", "Apron print L")
#: Mm that apron prints are wide.
_WIDE = {"S": 70.0, "M": 100.0, "L": 140.0}
_PAINTS: tuple[tuple[Paint, Paint], ...] = (
    (AMBER, BARK), (HEATHER, DUSK), (LEAF, MOSS), (HONEY, BARK), (AMBER, DUSK), (HEATHER, BARK),
)  # fmt: skip
_LETTERS = "ABCDEFGHIJKL"
_DAYS = ("2026-12-01", "2026-12-02", "2026-12-03", "2026-12-04")


def write_morning(folder: Path, store: ArtStore) -> list[Path]:
    """A list of orders with the products and the artwork that it names; the files.

    Parameters
    ----------
    folder : that is written to
    store : into which artwork goes

    Raises
    ------
    BadInput
        If the folder cannot be written to.
    """
    art = folder / ARTWORK
    make_folder(art)
    pictures = {
        f"badge-{letter.lower()}.png": initial_badge(letter, *_PAINTS[at % len(_PAINTS)])
        for at, letter in enumerate(_LETTERS)
    } | {"bee-badge.png": bee_badge(), "corner-comb.png": corner_comb()}
    paths = [
        _saved(art / name, picture, 420 if name.startswith("badge-") else 300)
        for name, picture in pictures.items()
    ]
    paths.append(_saved(art / "thyme-label.png", jar_label(), 600))
    for job in _products(store, art):
        paths.append(keep_product(job, store, folder / FOLDER))
    path = folder / LIST_NAME
    with whole_file(path) as file:
        file.write(morning_list().encode("utf-8"))
    return [*paths, path]


def _saved(path: Path, picture: Image.Image, dpi: float = 300) -> Path:
    found = io.BytesIO()
    picture.save(found, "PNG", dpi=(dpi, dpi), icc_profile=srgb_bytes())
    with whole_file(path) as file:
        file.write(found.getvalue())
    return path


def _products(store: ArtStore, art: Path) -> list[Job]:
    """What the orders are for, each a job without their artwork and words."""
    lettered = TextBox(
        text="{text}", x=0, y=-17, width=40, height=9, size=4.6, colour="#f0a41e",
        face=TypeFace.BOLD,
    )  # fmt: skip
    lid = Circle(diameter=70)
    jig = Jig(
        name="Lids 70, 7 × 3", board=Board(x=10, y=10, width=580, height=280),
        first_x=20, first_y=20, columns=7, rows=3, gap_x=10, gap_y=15,
    )  # fmt: skip
    white = WHITE_UNDER.replace(treatments=(Choke(by=0.12, least=FINE_STROKE),))
    badge = store.add_artwork(art / "bee-badge.png")
    lids = Job(
        name=LID,
        piece=Piece(
            name=shipped("jar lid"), shape=lid, height=9, relief=0.3,
            surface=Surface(colour="#1d3b31", name=shipped("steel, dark green")),
        ),
        faces=(
            Face(
                artworks=(badge.replace(width=36.0, height=36.0),), texts=(lettered,),
                placing=Placing(offset_y=8), stack=(white, COLOUR, VARNISH_OVER),
            ),
        ),
        printer=FLATBED, jig=centred_jig(jig, lid), receiver=OPEN_PLATES,
    )  # fmt: skip
    labels = label_job(store).replace(name=LABEL)
    bottles = mead_job(store).replace(name=BOTTLE)
    return [lids, labels, bottles, *(_apron(name, badge) for name in APRONS)]


def _apron(name: str, badge: ArtworkFile) -> Job:
    made = recipe("transfer on dark")
    soft = made.stack[1].replace(treatments=(Harden(), Choke(by=0.12, least=FINE_STROKE)))
    wide = _WIDE[name[-1]]
    art = badge.replace(width=wide, height=wide)
    plain = Jig(name="Film", board=Board(width=600, height=300), first_x=0, first_y=0)
    return Job(
        name=name,
        piece=Piece(
            name=shipped("apron print"), shape=Rectangle(width=wide, height=wide),
            surface=made.surface,
        ),
        faces=(
            Face(reader=made.reader, artworks=(art,), placing=Placing(fit=Fit.ACTUAL),
                 stack=(made.stack[0], soft)),
        ),
        printer=ROLL_PRINTER,
        medium=Roll(width=600, gap=5, longest=1500, cut=Cut.BOXES, price=4.2),
        marks=Marks(label="{job} · {date}", label_height=4),
        jig=plain, receiver=OPEN_PLATES,
    )  # fmt: skip


def morning_list() -> str:
    """The list as CSV: the same every time, names and orders made up."""
    chance = random.Random(300)
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(("order", "product", "artwork", "text", "quantity", "due"))
    for number in range(1, COUNT + 1):
        product = chance.choices((LID, LABEL, BOTTLE, *APRONS), (46, 10, 6, 12, 16, 10))[0]
        artwork, text, quantity = "", "", 1
        if product == LID:
            text = chance.choice(HELPERS)
            artwork = chance.choice(("", f"{ARTWORK}/badge-{chance.choice(_LETTERS).lower()}.png"))
            quantity = chance.choice((1, 1, 1, 2))
        elif product == LABEL:
            artwork, quantity = f"{ARTWORK}/thyme-label.png", chance.choice((2, 4, 6))
        elif product == BOTTLE:
            quantity = chance.choice((1, 2))
        else:
            picture = chance.choice(("bee-badge", "corner-comb", *(
                f"badge-{letter.lower()}" for letter in _LETTERS
            )))  # fmt: skip
            artwork = f"{ARTWORK}/{picture}.png"
        due = chance.choices(_DAYS, (4, 3, 2, 1))[0]
        rows.writerow((f"B-{4000 + number}", product, artwork, text, quantity, due))
    return out.getvalue()
