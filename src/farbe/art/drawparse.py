"""The process that reads drawings for :mod:`farbe.art.drawing`."""

from __future__ import annotations

import io
import math
import re
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import numpy.typing as npt
import pikepdf
import pypdfium2
import resvg_py
from PIL import Image

from farbe.art.drawing import SECONDS, has_separator
from farbe.art.limited import answer, limit
from farbe.model.base import BadInput

Plane = npt.NDArray[np.uint8]
MAX_BYTES = 400_000_000
MEMORY = 6_000_000_000
#: Resolution of drawings, and the most pixels that they get; larger ones are made coarser.
DPI, MAX_PIXELS = 600.0, 90_000_000
LEAST_DPI = 36.0
#: How many groups are offered as plates, and how long their names may be.
MAX_GROUPS, NAME_LENGTH = 60, 80
#: Names of groups that are inks or lines and not part of the picture.
INK_NAMES = frozenset(
    ("white", "varnish", "gloss", "matt", "blackout", "silver", "gold", "metallic", "cut",
     "cutline", "kerb")
)  # fmt: skip
_PROCESS = ("Cyan", "Magenta", "Yellow", "Black")
#: Operators that set process colour.
_PROCESS_OPERATOR = re.compile(rb"[\d.]\s+[kK]\s")
_UNITS = {"": 25.4 / 96, "px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72,
          "pc": 25.4 / 6}  # fmt: skip
#: What the readers raise on malformed drawings.
DAMAGE = (
    OSError, ValueError, TypeError, KeyError, IndexError, AttributeError, SyntaxError,
    ArithmeticError, RecursionError, RuntimeError, MemoryError, ElementTree.ParseError,
    pikepdf.PdfError, pypdfium2.PdfiumError, subprocess.SubprocessError,
)  # fmt: skip


def resolution(width: float, height: float) -> float:
    """Dots per inch for a drawing of so many mm.

    Parameters
    ----------
    width, height : mm

    Raises
    ------
    BadInput
        If it is so large that it would be too coarse to print.
    """
    pixels = width * height * (DPI / 25.4) ** 2
    found = DPI * min(1.0, math.sqrt(MAX_PIXELS / max(pixels, 1.0)))
    if found < LEAST_DPI:
        raise BadInput(f"The drawing is {width:.0f} × {height:.0f} mm, too large to be read whole.")
    return found


# SVG


def _length(text: str | None) -> float | None:
    """A length of an SVG in mm."""
    parts = re.fullmatch(r"\s*([0-9.eE+-]+)\s*([a-z]*)\s*", text or "")
    if parts is None or parts[2] not in _UNITS:
        return None
    return float(parts[1]) * _UNITS[parts[2]]


def _svg_size(root: ElementTree.Element) -> tuple[float, float]:
    width, height = _length(root.get("width")), _length(root.get("height"))
    view = [float(v) for v in re.split(r"[\s,]+", root.get("viewBox", "").strip()) if v]
    if len(view) == 4 and view[2] > 0 and view[3] > 0:
        # A missing side follows from the other one, or both from the view box in pixels.
        if width is None and height is None:
            width, height = view[2] * 25.4 / 96, view[3] * 25.4 / 96
        elif width is None:
            width = (height or 0) * view[2] / view[3]
        elif height is None:
            height = width * view[3] / view[2]
    if not width or not height or width <= 0 or height <= 0:
        raise BadInput("The drawing says no size; export it with a width and a height.")
    return width, height


def _names(group: ElementTree.Element) -> tuple[str, ...]:
    """What a group is called: by its label, and by its id."""
    labels = [value for key, value in group.attrib.items() if key.rpartition("}")[2] == "label"]
    names = (text.strip()[:NAME_LENGTH] for text in (*labels, group.get("id", "")))
    return tuple(name for name in names if name)


def _plate_name(names: tuple[str, ...], chosen: tuple[str, ...]) -> str | None:
    """The name under which a group is a plate: one that was chosen, or that of an ink."""
    for name in names:
        if name in chosen or re.sub(r"[^a-z]", "", name.casefold()) in INK_NAMES:
            return name
    return None


def _svg_pixels(root: ElementTree.Element, dpi: float, folder: Path) -> Plane:
    width, height = _svg_size(root)
    drawn = ElementTree.Element(root.tag, dict(root.attrib))
    drawn.extend(list(root))
    # The size is stated in output pixels, or the reader would round it in its own.
    if not drawn.get("viewBox"):
        drawn.set("viewBox", f"0 0 {width * 96 / 25.4} {height * 96 / 25.4}")
    drawn.set("width", str(max(1, round(width * dpi / 25.4))))
    drawn.set("height", str(max(1, round(height * dpi / 25.4))))
    data = resvg_py.svg_to_bytes(
        svg_string=ElementTree.tostring(drawn, encoding="unicode"),
        dpi=96,
        resources_dir=str(folder),
    )
    # MAX_PIXELS is the limit here.
    Image.MAX_IMAGE_PIXELS = None
    with Image.open(io.BytesIO(bytes(data))) as picture:
        return np.asarray(picture.convert("RGBA"))


def _groups(root: ElementTree.Element) -> list[tuple[ElementTree.Element, ElementTree.Element]]:
    """Every group with what holds it, outer ones first."""
    return [
        (parent, group)
        for parent in root.iter()
        for group in list(parent)
        if str(group.tag).rpartition("}")[2] == "g"
    ]


def parse_svg(path: Path, folder: Path, chosen: tuple[str, ...]) -> dict[str, Any]:
    """Write an SVG's pixels and plates into a folder; what to say of them.

    Groups named after an ink, and the chosen ones, are plates.

    Raises
    ------
    BadInput
        If it is no SVG, or larger than can be drawn.
    """
    root = ElementTree.fromstring(path.read_bytes())
    if root.tag.rpartition("}")[2] != "svg":
        raise BadInput(f"{path.name} is not an SVG drawing.")
    dpi = resolution(*_svg_size(root))
    groups = _groups(root)
    inks = [
        (parent, group, name)
        for parent, group in groups
        if (name := _plate_name(_names(group), chosen)) is not None
    ]
    plates = {group for _, group, _ in inks}
    others = dict.fromkeys(
        called[0] for _, group in groups if group not in plates and (called := _names(group))
    )
    for parent, group, _ in inks:
        parent.remove(group)
    np.save(folder / "pixels.npy", _svg_pixels(root, dpi, folder))
    names: list[str] = []
    for parent, group, name in inks:
        # What is drawn beside the group is hidden, and what carries its place stays.
        hidden = [(e, e.get("display")) for e in root.iter() if _draws(e)]
        for element, _ in hidden:
            element.set("display", "none")
        parent.append(group)
        plane = _svg_pixels(root, dpi, folder)[..., 3]
        parent.remove(group)
        for element, before in hidden:
            element.attrib.pop("display")
            if before is not None:
                element.set("display", before)
        if name in names:
            at = folder / f"plate-{names.index(name)}.npy"
            np.save(at, np.maximum(np.load(at), plane))
        else:
            np.save(folder / f"plate-{len(names)}.npy", plane)
            names.append(name)
    return {
        "space": "rgb", "dpi": dpi, "plates": names, "pages": 1, "remark": "",
        "groups": list(others)[:MAX_GROUPS],
    }  # fmt: skip


def _draws(element: ElementTree.Element) -> bool:
    """Whether an element draws by itself, rather than holding others."""
    kind = str(element.tag).rpartition("}")[2]
    return kind in {
        "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "image", "use"
    }  # fmt: skip


# PDF


def _inks_of(page: pikepdf.Page) -> tuple[tuple[str, ...], bool]:
    """Names of the spot inks that a page may use, and whether it uses process inks."""
    spots: dict[str, None] = {}
    process = False
    for thing in _reachable(page):
        if isinstance(thing, pikepdf.Stream) and _is_content(thing):
            process |= _PROCESS_OPERATOR.search(thing.read_bytes()[:4_000_000]) is not None
        elif isinstance(thing, pikepdf.Array):
            spots |= dict.fromkeys(_spots_of(list(thing)))
        elif isinstance(thing, pikepdf.Name) and str(thing) == "/DeviceCMYK":
            process = True
    process |= any(name in _PROCESS for name in spots)
    for name in (*_PROCESS, "All", "None"):
        spots.pop(name, None)
    return tuple(spots), process


def _spots_of(items: list[Any]) -> list[str]:
    """Inks of a colour space that is a Separation or DeviceN array."""
    kind = str(items[0]) if len(items) > 1 and isinstance(items[0], pikepdf.Name) else ""
    if kind == "/Separation":
        return [str(items[1]).removeprefix("/")]
    if kind == "/DeviceN":
        return [str(name).removeprefix("/") for name in items[1]]
    return []


def _reachable(page: pikepdf.Page) -> Iterator[Any]:
    """All that a page's resources and contents lead to, each once."""
    seen: set[tuple[int, int]] = set()
    queue: list[Any] = [
        page.obj.get("/Resources", pikepdf.Dictionary()),
        page.obj.get("/Contents", pikepdf.Array()),
    ]
    while queue:
        thing = queue.pop()
        if isinstance(thing, pikepdf.Object) and thing.is_indirect:
            if thing.objgen in seen:
                continue
            seen.add(thing.objgen)
        yield thing
        if isinstance(thing, pikepdf.Stream | pikepdf.Dictionary):
            queue += [value for key, value in thing.items() if key not in ("/Parent", "/Font")]
        elif isinstance(thing, pikepdf.Array):
            queue += list(thing)


def _is_content(stream: pikepdf.Stream) -> bool:
    """Whether a stream holds drawing operators: page contents and forms, not pictures."""
    subtype = stream.get("/Subtype")
    return subtype is None or str(subtype) == "/Form"


def _box_of(page: pikepdf.Page, box: str) -> list[float]:
    found = {"trim": page.trimbox, "crop": page.cropbox, "media": page.mediabox}[box]
    return [float(value) for value in found]


def parse_pdf(path: Path, folder: Path, number: int, box: str) -> dict[str, Any]:
    """Write a page's pixels and plates into a folder; what to say of them.

    Raises
    ------
    BadInput
        If it is no PDF, or it has no such page.
    """
    with pikepdf.open(path) as pdf:
        pages = len(pdf.pages)
        if not 1 <= number <= pages:
            raise BadInput(f"{path.name} has {pages} pages; there is no page {number}.")
        page = pdf.pages[number - 1]
        wanted = _box_of(page, box)
        spots, process = _inks_of(page)
        page_turn = page.obj.get("/Rotate", 0)
        width, height = (wanted[2] - wanted[0]) * 25.4 / 72, (wanted[3] - wanted[1]) * 25.4 / 72
        if width <= 0 or height <= 0:
            raise BadInput(f"{path.name}: the page has no size; export it again.")
        # One page whose only box is the wanted one, for both readers alike.
        page.mediabox = page.cropbox = page.trimbox = pikepdf.Array(wanted)
        single = pikepdf.new()
        single.pages.append(page)
        single.save(folder / "page.pdf")
    dpi = resolution(width, height)
    turned = int(page_turn) % 180 == 90
    across, along = (height, width) if turned else (width, height)
    shape = (max(1, round(along * dpi / 25.4)), max(1, round(across * dpi / 25.4)), 4)
    shown = _fitted(_composite(folder / "page.pdf", dpi), shape, 0)
    remark = ""
    if (spots or process) and has_separator():
        process_planes, plates = _separated(folder, dpi, shown.shape[:2])
        alpha = shown[..., 3].copy()
        if plates:
            # Where only special inks lie there is no picture.
            special = np.max(list(plates.values()), axis=0) > 0
            alpha[special & (process_planes.max(axis=2) == 0)] = 0
        np.save(folder / "pixels.npy", np.dstack([process_planes, alpha]))
        for i, plane in enumerate(plates.values()):
            np.save(folder / f"plate-{i}.npy", plane)
        return {"space": "cmyk", "dpi": dpi, "plates": list(plates), "pages": pages,
                "remark": remark}  # fmt: skip
    if spots or process:
        remark = (
            "Ghostscript is not installed, so the page is read as RGB and its inks are not told"
            " apart; install it and take the file again."
        )
    np.save(folder / "pixels.npy", shown)
    return {"space": "rgb", "dpi": dpi, "plates": [], "pages": pages, "remark": remark}


def _composite(path: Path, dpi: float) -> Plane:
    """A page as straight RGBA."""
    document = pypdfium2.PdfDocument(path)
    bitmap = document[0].render(
        scale=dpi / 72, fill_color=(0, 0, 0, 0), rev_byteorder=True, prefer_bgrx=False
    )
    pixels = bitmap.to_numpy()
    if pixels.shape[2] == 3:
        pixels = np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)])
    return np.ascontiguousarray(pixels)


def _separated(folder: Path, dpi: float, shape: tuple[int, ...]) -> tuple[Plane, dict[str, Plane]]:
    """Process planes (h, w, 4) and spots by name, 255 solid, from Ghostscript."""
    with tempfile.TemporaryDirectory(dir=folder) as out:
        done = subprocess.run(
            ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=tiffsep", f"-r{dpi}",
             "-dTextAlphaBits=4", "-dGraphicsAlphaBits=4", "-dMaxSpots=40",
             f"-sOutputFile={out}/sep.tif", str(folder / "page.pdf")],
            capture_output=True, timeout=SECONDS - 15, check=False,
        )  # fmt: skip
        found: dict[str, Plane] = {}
        for path in sorted(Path(out).glob("sep(*).tif")):
            Image.MAX_IMAGE_PIXELS = None
            with Image.open(path) as picture:
                found[path.name[4:-5]] = 255 - _fitted(np.asarray(picture), shape, 255)
    if done.returncode or not all(name in found for name in _PROCESS):
        raise ValueError("it cannot be separated")
    process = np.dstack([found.pop(name) for name in _PROCESS])
    return process, found


def _fitted(plane: Plane, shape: tuple[int, ...], empty: int) -> Plane:
    """A plane cut or filled up with ``empty`` to a size; readers round pages differently."""
    result = np.full(shape, empty, np.uint8)
    high, wide = min(shape[0], plane.shape[0]), min(shape[1], plane.shape[1])
    # Pages begin at their lower left corner.
    result[shape[0] - high :, :wide] = plane[plane.shape[0] - high :, :wide]
    return result


def parse(
    path: Path, folder: Path, page: int, box: str, groups: tuple[str, ...] = ()
) -> dict[str, Any]:
    """What :func:`farbe.art.drawing.read_drawing` does, in this process, without limits.

    Parameters
    ----------
    path : the file
    folder : where it lies or is put
    page : from 1
    box : of a PDF page
    groups : of a drawing, that are plates

    Raises
    ------
    BadInput
        If the file is not what it is taken for.
    """
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(f"{path.name} is larger than 400 MB; export it smaller.")
        with path.open("rb") as file:
            pdf = b"%PDF-" in file.read(1024)
        return parse_pdf(path, folder, page, box) if pdf else parse_svg(path, folder, groups)
    except BadInput as refusal:
        return {"refused": str(refusal)}
    except pikepdf.PasswordError:
        return {"refused": f"{path.name} is locked with a password; ask for it without one."}
    except DAMAGE:
        return {"refused": f"{path.name} is damaged or is no drawing; export it again."}


def main() -> int:
    limit(MEMORY, SECONDS)
    path, folder, page, box, *groups = sys.argv[1:]
    answer(Path(folder), parse(Path(path), Path(folder), int(page), box, tuple(groups)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
