"""The reference of a chart: what was sent to each of its patches, and where it lies."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from farbe.atomic import check_regular, whole_file
from farbe.files.cgats import CgatsTable, cgats_text, read_cgats
from farbe.model.base import BadInput
from farbe.model.patch import Base, Patch
from farbe.model.piece import Material, Reader, Surface
from farbe.optics.patches import Floats
from farbe.plan.words import choice
from farbe.said import say, shipped

#: How the file of a reference ends, and bytes of one that can be.
SUFFIX, MOST_BYTES = ".reference.txt", 8_000_000
_PROCESS = ("CMYK_C", "CMYK_M", "CMYK_Y", "CMYK_K")
_OWN = ("VARNISH", "NAMED_INK", "NAMED_AMOUNT", "WHITE_HITS", "WHITE_AMOUNT", "BLACKOUT_HITS",
        "BEHIND", "KEPT_OUT", "X_MM", "Y_MM")  # fmt: skip
_LAB = ("LAB_L", "LAB_A", "LAB_B")
_KEYS = (
    "FARBE_CHART",
    "FARBE_PRINTER",
    "FARBE_MODE",
    "FARBE_LAYDOWN",
    "FARBE_INKS",
    "FARBE_SURFACE",
    "FARBE_SURFACE_COLOUR",
    "FARBE_READER",
    "FARBE_WHITE",
    "FARBE_COLUMNS",
)


@dataclass(frozen=True)
class Spot:
    """A patch where it lies: its name, and its middle in mm from the upper left as it is read."""

    name: str
    patch: Patch
    x: float
    y: float


@dataclass(frozen=True, eq=False)
class Reference:
    """A chart as it was printed.

    Attributes
    ----------
    chart : its number, told from what is on it
    printer, mode, laydown, inks : that it is for; the mode's laydown in percent
    surface, reader : what it is printed on, and from which side it is read
    white : hits of white behind its colours
    columns : how many patches a row has
    spots : row by row from the upper left, as it is read
    expected : what they are predicted to look like, CIE L*a*b* under D50, (n, 3)
    """

    chart: str
    printer: str
    mode: str
    laydown: float
    inks: tuple[str, ...]
    surface: Surface
    reader: Reader
    white: int
    columns: int
    spots: tuple[Spot, ...]
    expected: Floats

    @property
    def patches(self) -> tuple[Patch, ...]:
        """In the order in which they are read."""
        return tuple(spot.patch for spot in self.spots)

    def numbered(self) -> Reference:
        """The same with the number that follows from what is on it."""
        text = repr((self.printer, self.mode, self.surface, self.reader, self.spots))
        return replace(self, chart=hashlib.sha256(text.encode()).hexdigest()[:8].upper())


def column_name(at: int) -> str:
    """Letters of a column, A to Z, then AA.

    Parameters
    ----------
    at : from 0
    """
    letters = ""
    at += 1
    while at:
        at, rest = divmod(at - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return letters


def write_reference(reference: Reference, path: Path) -> None:
    """Write a reference as text by CGATS.17, with fields of its own that are declared.

    Parameters
    ----------
    reference : of a chart
    path : of the file

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    with whole_file(path) as file:
        file.write(reference_text(reference).encode("utf-8"))


def reference_text(reference: Reference) -> str:
    """A reference as text by CGATS.17.

    Parameters
    ----------
    reference : of a chart
    """
    values = (
        reference.chart, reference.printer, reference.mode, f"{reference.laydown:g}",
        ";".join(reference.inks), reference.surface.material.value, reference.surface.colour,
        reference.reader.value, str(reference.white), str(reference.columns),
    )  # fmt: skip
    keywords = {"ORIGINATOR": "Farbe", "DESCRIPTOR": "Chart to be printed and measured"}
    keywords |= dict(zip(_KEYS, values, strict=True))
    rows = [
        _row(at, spot, lab)
        for at, (spot, lab) in enumerate(
            zip(reference.spots, reference.expected.tolist(), strict=True), start=1
        )
    ]
    fields = ("SAMPLE_ID", "SAMPLE_NAME", *_PROCESS, *_OWN, *_LAB)
    return cgats_text(CgatsTable(fields, tuple(rows), keywords), own=(*_KEYS, *_OWN))


def _row(at: int, spot: Spot, lab: list[float]) -> tuple[str, ...]:
    patch = spot.patch
    return (
        str(at), spot.name, *(f"{percent:g}" for percent in patch.inks), str(int(patch.varnish)),
        patch.named, f"{patch.amount:g}", str(patch.white), f"{patch.level:g}",
        str(patch.blackout), patch.base.value, str(int(patch.kept_out)), f"{spot.x:.3f}",
        f"{spot.y:.3f}", *(f"{figure:.3f}" for figure in lab),
    )  # fmt: skip


def read_reference(path: Path) -> Reference:
    """Read the reference of a chart.

    Parameters
    ----------
    path : of the file

    Raises
    ------
    BadInput
        If it is none, with one sentence that says why.
    """
    table = read_cgats(read_words(path), path.name)
    missing = [name for name in (*_PROCESS, *_OWN, *_LAB) if name not in table.fields]
    if missing or any(name not in table.keywords for name in _KEYS):
        raise BadInput(
            say("{path} is no reference of one of Farbe's charts; choose the one that was "
                "written with the chart.", path=path.name)
        )  # fmt: skip
    return _reference(table, path.name)


def _reference(table: CgatsTable, where: str) -> Reference:
    columns = {name: at for at, name in enumerate(table.fields)}
    figures = {
        name: table.numbers(name, where=where)
        for name in (*_PROCESS, *_OWN, *_LAB) if name not in ("NAMED_INK", "BEHIND")
    }  # fmt: skip
    spots = []
    for at, row in enumerate(table.rows):
        c, m, y, k = (figures[name][at] for name in _PROCESS)
        patch = Patch(
            inks=(c, m, y, k), varnish=bool(figures["VARNISH"][at]),
            named=row[columns["NAMED_INK"]], amount=figures["NAMED_AMOUNT"][at],
            white=int(figures["WHITE_HITS"][at]), level=figures["WHITE_AMOUNT"][at],
            blackout=int(figures["BLACKOUT_HITS"][at]),
            base=choice(Base, row[columns["BEHIND"]], shipped("base")),
            kept_out=bool(figures["KEPT_OUT"][at]),
        )  # fmt: skip
        name = row[columns["SAMPLE_NAME"]] if "SAMPLE_NAME" in columns else str(at + 1)
        spots.append(Spot(name, patch, figures["X_MM"][at], figures["Y_MM"][at]))
    keys = table.keywords
    try:
        laydown, white = float(keys["FARBE_LAYDOWN"]), int(keys["FARBE_WHITE"])
        wide = int(keys["FARBE_COLUMNS"])
        surface = Surface(
            material=choice(Material, keys["FARBE_SURFACE"], shipped("surface")),
            colour=keys["FARBE_SURFACE_COLOUR"],
        )
    except ValueError:
        raise BadInput(say("{where} is damaged; write the chart again.", where=where)) from None
    return Reference(
        chart=keys["FARBE_CHART"], printer=keys["FARBE_PRINTER"], mode=keys["FARBE_MODE"],
        laydown=laydown, inks=tuple(name for name in keys["FARBE_INKS"].split(";") if name),
        surface=surface, reader=choice(Reader, keys["FARBE_READER"], shipped("reader")),
        white=white, columns=max(1, wide), spots=tuple(spots),
        expected=np.array([figures[name] for name in _LAB]).T,
    )  # fmt: skip


def read_words(path: Path) -> str:
    """The text of a file of readings.

    Parameters
    ----------
    path : of the file

    Raises
    ------
    BadInput
        If it cannot be read, or is too large to be one.
    """
    check_regular(path, say("a file of readings"))
    try:
        if path.stat().st_size > MOST_BYTES:
            raise BadInput(say("{path} is too large to be readings.", path=path.name))
        content = path.read_bytes()
    except OSError:
        raise BadInput(
            say("{path} cannot be read; choose the file again.", path=path.name)
        ) from None
    if not content.strip():
        raise BadInput(say("{path} is empty; export the readings again.", path=path.name))
    for encoding in ("utf-8-sig", "utf-16" if content[:2] in (b"\xff\xfe", b"\xfe\xff") else ""):
        if encoding:
            try:
                return content.decode(encoding)
            except UnicodeDecodeError:
                continue
    # Devices name their own patches in plain letters; what else there is are remarks.
    return content.decode("latin-1")
