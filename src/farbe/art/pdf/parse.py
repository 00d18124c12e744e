"""A page of a PDF, or an EPS, as pixels, plates, and what is to be said of them."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pikepdf
from pikepdf import Array

from farbe.art.drawing import has_separator
from farbe.art.pdf.content import convert_pictures, only_ink, only_layer, pure_black
from farbe.art.pdf.draw import alternates, composite, fitted, from_encapsulated, separated
from farbe.art.pdf.inks import inks_of, keep_numbers, swatches, without_zero_alpha
from farbe.art.pdf.layers import layers_of, switch_layers
from farbe.art.pdf.lost import lost_of
from farbe.art.planes import Plane, resolution
from farbe.art.wanted import InkWork, Wanted, profile_in
from farbe.model.artwork import PageBox
from farbe.model.base import BadInput
from farbe.model.inkwords import REACH_UNDER, told_by
from farbe.said import say
from farbe.sidebyside import WORKERS

POINT = 25.4 / 72
#: Plates of a file, its layers among them.
MOST_PLATES = 60
#: The least area of a plate under other things that is told, mm².
LEAST_KNOCKED = 0.2
NO_SEPARATOR = (
    "Ghostscript is not installed, so the page is read as RGB and its inks are not told"
    " apart; install it and take the file again."
)


@dataclass(frozen=True)
class _Page:
    """The wanted page of a file that holds no other.

    Attributes
    ----------
    size : width and height as it is read, in points
    unit : of its contents, in points
    """

    path: Path
    folder: Path
    size: tuple[float, float]
    unit: float
    wanted: Wanted

    @property
    def millimetres(self) -> tuple[float, float]:
        return self.size[0] * self.unit * POINT, self.size[1] * self.unit * POINT

    def shape(self, dpi: float) -> tuple[int, int]:
        """Rows and columns."""
        width, height = self.millimetres
        return max(1, round(height * dpi / 25.4)), max(1, round(width * dpi / 25.4))

    def shown(self, path: Path, dpi: float) -> Plane:
        return fitted(composite(path, dpi * self.unit), (*self.shape(dpi), 4), 0)

    @property
    def work(self) -> InkWork:
        """How colours become ink; whoever asks for a page states it."""
        if self.wanted.work is None:
            raise ValueError("nothing says how colour becomes ink")
        return self.wanted.work

    def inks(self, path: Path, dpi: float) -> tuple[Plane, dict[str, Plane]]:
        profile = profile_in(self.folder)
        return separated(path, dpi * self.unit, self.shape(dpi), self.work, profile)

    def reduced(self, how: Any, name: str, number: int) -> Path:
        """The page with a part of it, in a file of its own number."""
        target = self.folder / f"part-{number}.pdf"
        with pikepdf.open(self.path) as pdf:
            switch_layers(pdf, {})
            how(pdf, pdf.pages[0], name)
            pdf.save(target)
        return target


def parse_pdf(path: Path, folder: Path, wanted: Wanted) -> dict[str, Any]:
    """Write a page's pixels and plates into a folder.

    Parameters
    ----------
    path : of a PDF or EPS
    folder : where the printer's profile is, and planes are put
    wanted : of the file

    Returns
    -------
    What to say of them.

    Raises
    ------
    BadInput
        If it has no such page, or the page no size.
    """
    with path.open("rb") as file:
        if b"%PDF-" not in file.read(1024):
            if not has_separator():
                raise BadInput(
                    say("{path} is an EPS file; install Ghostscript to read it.", path=path.name)
                )
            path = from_encapsulated(path, folder)
    with pikepdf.open(path) as pdf:
        pages = len(pdf.pages)
        if not 1 <= wanted.page <= pages:
            raise BadInput(
                say(
                    "{path} has {pages} pages; there is no page {page}.",
                    path=path.name,
                    pages=pages,
                    page=wanted.page,
                )
            )
        page = pdf.pages[wanted.page - 1]
        boxes = [box.value for box in PageBox if _key(box) in page.obj]
        size, unit = _cut_to(page, wanted.box, path.name)
        layers = layers_of(pdf)
        spots, process = inks_of(page)
        said: dict[str, Any] = {
            "pages": pages,
            "lost": lost_of(page),
            "layers": list(layers.items()),
            "boxes": boxes,
        }
        shown = layers | dict(wanted.layers) | dict.fromkeys(wanted.groups, False)
        found = _Page(folder / "page.pdf", folder, size, unit, wanted)
        if spots and has_separator():
            swatches(pdf, page, spots).save(folder / "swatches.pdf")
        _save(pdf, wanted, shown, found.path)
    dpi = resolution(*found.millimetres)
    picture = found.shown(found.path, dpi)
    said |= {"dpi": dpi, "remark": "", "size": found.millimetres, "space": "rgb", "plates": []}
    plates: dict[str, Plane] = {}
    if (spots or process) and has_separator():
        inks, plates, more = _inks(found, spots, dpi)
        said |= {"space": "cmyk", **more}
        picture = np.dstack([*_straight(inks, picture[..., 3])])
    elif spots or process:
        said["remark"] = NO_SEPARATOR
    for number, name in enumerate(wanted.groups):
        if name in layers:
            part = found.reduced(only_layer, name, number)
            plates[name] = found.shown(part, dpi)[..., 3]
    np.save(folder / "pixels.npy", picture)
    said["plates"] = list(plates)[:MOST_PLATES]
    for i, name in enumerate(said["plates"]):
        np.save(folder / f"plate-{i}.npy", plates[name])
    return said


def _inks(
    page: _Page, spots: tuple[str, ...], dpi: float
) -> tuple[Plane, dict[str, Plane], dict[str, Any]]:
    """Process planes, plates, and what to say of these; those that are wanted whole are so.

    Ghostscript is run for each side by side.
    """
    parts = {
        name: page.reduced(only_ink, name, MOST_PLATES + number)
        for number, name in enumerate(spots)
        if told_by(name) in REACH_UNDER or name in (*page.wanted.under, *page.wanted.whole)
    }
    with ThreadPoolExecutor(WORKERS) as pool:
        all_ = pool.submit(page.inks, page.path, dpi)
        mixed = pool.submit(
            alternates, page.folder / "swatches.pdf", len(spots), page.work, profile_in(page.folder)
        )
        alone = {name: pool.submit(page.inks, part, dpi) for name, part in parts.items()}
        inks, plates = all_.result()
        knocked = {}
        for name, made in alone.items():
            over = made.result()[1].get(name)
            if over is None or name not in plates:
                continue
            area = _left_out(over, plates[name], dpi)
            if area >= LEAST_KNOCKED:
                knocked[name] = round(area, 1)
            if name in page.wanted.whole:
                plates[name] = over
        swatched = dict(zip(spots, mixed.result(), strict=True)) if spots else {}
    return inks, plates, {"alternates": swatched, "knocked": knocked}


def _left_out(over: Plane, seen: Plane, dpi: float) -> float:
    """Mm² of a plate that other things cover, from it alone and as it is in the page."""
    # Edges that are smoothed otherwise are nothing that was left out.
    lost = cv2.erode(cv2.subtract(over, seen), np.ones((2, 2), np.uint8))
    return float(np.asarray(lost).sum(dtype=np.int64)) / 255 * (25.4 / dpi) ** 2


def _straight(inks: Plane, alpha: Plane) -> list[Plane]:
    """Planes of the process inks as colours, and how far they cover.

    What was mixed with paper has less ink already; it is not to be made less once more.
    """
    cover = np.maximum(alpha, inks.max(axis=2))
    share = np.float32(255.0) / np.maximum(cover, 1).astype(np.float32)
    colours = [np.rint(inks[..., i] * share).astype(np.uint8) for i in range(inks.shape[2])]
    return [*colours, cover]


def _save(pdf: pikepdf.Pdf, wanted: Wanted, shown: dict[str, bool], target: Path) -> None:
    """A file of the one page, for all readers alike."""
    switch_layers(pdf, shown)
    page = pdf.pages[wanted.page - 1]
    without_zero_alpha(page)
    if wanted.work is not None and wanted.work.keeps:
        keep_numbers(page)
    else:
        pure_black(pdf, page)
        if wanted.work is not None:
            convert_pictures(page, wanted.work)
    kept = wanted.page - 1
    del pdf.pages[kept + 1 :]
    del pdf.pages[:kept]
    for key in ("/Outlines", "/Names", "/Dests", "/StructTreeRoot", "/OpenAction", "/AcroForm",
                "/OutputIntents", "/Metadata"):  # fmt: skip
        if key in pdf.Root:
            del pdf.Root[key]
    pdf.save(target)


def _key(box: PageBox) -> str:
    return f"/{box.value.capitalize()}Box"


def _cut_to(page: pikepdf.Page, box: PageBox, name: str) -> tuple[tuple[float, float], float]:
    """Make a box the only one of a page; its size as read, and the unit, both in points."""
    media = _corners(page.mediabox)
    found = {
        PageBox.MEDIA: page.mediabox, PageBox.CROP: page.cropbox, PageBox.BLEED: page.bleedbox,
        PageBox.TRIM: page.trimbox, PageBox.ART: page.artbox,
    }[box]  # fmt: skip
    left, bottom, right, top = _corners(found)
    # Nothing is drawn outside of the media box (ISO 32000-1, 14.11.2).
    left, bottom = max(left, media[0]), max(bottom, media[1])
    right, top = min(right, media[2]), min(top, media[3])
    if right - left <= 0 or top - bottom <= 0:
        raise BadInput(say("{name}: the page has no size; export it again.", name=name))
    unit = float(page.obj.get("/UserUnit", 1))
    turn = _inherited(page, "/Rotate")
    for key in ("/UserUnit", "/CropBox", "/BleedBox", "/TrimBox", "/ArtBox"):
        if key in page.obj:
            del page.obj[key]
    page.obj.MediaBox = page.obj.CropBox = Array([left, bottom, right, top])
    wide, high = right - left, top - bottom
    return ((high, wide) if turn % 180 == 90 else (wide, high)), max(unit, 1e-6)


def _corners(box: Any) -> tuple[float, float, float, float]:
    """Left, bottom, right and top, in whatever order a box has its corners."""
    x0, y0, x1, y1 = (float(value) for value in box)
    return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)


def _inherited(page: pikepdf.Page, key: str) -> int:
    node: Any = page.obj
    for _ in range(64):
        if key in node:
            return int(node[key])
        node = node.get("/Parent")
        if node is None:
            break
    return 0
