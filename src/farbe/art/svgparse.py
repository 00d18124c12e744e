"""SVG drawings: pixels, and groups that are plates."""

from __future__ import annotations

import io
import re
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import resvg_py
from PIL import Image

from farbe.art.planes import Plane, resolution
from farbe.model.base import BadInput

#: How many groups are offered as plates, and how long their names may be.
MAX_GROUPS, NAME_LENGTH = 60, 80
#: Names of groups that are inks or lines and not part of the picture.
INK_NAMES = frozenset(
    ("white", "varnish", "gloss", "matt", "blackout", "silver", "gold", "metallic", "cut",
     "cutline", "kerb")
)  # fmt: skip
_UNITS = {"": 25.4 / 96, "px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72,
          "pc": 25.4 / 6}  # fmt: skip


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
