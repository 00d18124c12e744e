"""SVG drawings: pixels, and groups that are plates."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib.resources import as_file, files
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import resvg_py
from PIL import Image

from farbe.art.planes import Plane, resolution
from farbe.art.svglost import FALLBACK, lost_of
from farbe.model.base import BadInput
from farbe.model.inkwords import is_ink_name
from farbe.said import say

#: How many groups are offered as plates, and how long their names may be.
MAX_GROUPS, NAME_LENGTH = 60, 80
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
        raise BadInput(say("The drawing says no size; export it with a width and a height."))
    return width, height


def _names(group: ElementTree.Element) -> tuple[str, ...]:
    """What a group is called: by its label, and by its id."""
    labels = [value for key, value in group.attrib.items() if key.rpartition("}")[2] == "label"]
    names = (text.strip()[:NAME_LENGTH] for text in (*labels, group.get("id", "")))
    return tuple(name for name in names if name)


def _plate_name(names: tuple[str, ...], chosen: tuple[str, ...]) -> str | None:
    """The name under which a group is a plate: one that was chosen, or that of an ink."""
    for name in names:
        if name in chosen or is_ink_name(name):
            return name
    return None


def _svg_pixels(root: ElementTree.Element, dpi: float) -> Plane:
    width, height = _svg_size(root)
    drawn = ElementTree.Element(root.tag, dict(root.attrib))
    drawn.extend(list(root))
    if "}" not in root.tag:
        # Files of early programs name no namespace; without one nothing is drawn.
        drawn.set("xmlns", "http://www.w3.org/2000/svg")
    # The size is stated in output pixels, or the reader would round it in its own.
    if not drawn.get("viewBox"):
        drawn.set("viewBox", f"0 0 {width * 96 / 25.4} {height * 96 / 25.4}")
    drawn.set("width", str(max(1, round(width * dpi / 25.4))))
    drawn.set("height", str(max(1, round(height * dpi / 25.4))))
    with as_file(files("farbe") / "data" / "fonts") as fonts:
        data = resvg_py.svg_to_bytes(
            svg_string=ElementTree.tostring(drawn, encoding="unicode"),
            dpi=96, font_dirs=[str(fonts)], font_family=FALLBACK, serif_family=FALLBACK,
            sans_serif_family=FALLBACK, cursive_family=FALLBACK, fantasy_family=FALLBACK,
            monospace_family=FALLBACK,
        )  # fmt: skip
    # MAX_PIXELS is the limit here.
    Image.MAX_IMAGE_PIXELS = None
    with Image.open(io.BytesIO(bytes(data))) as picture:
        return np.asarray(picture.convert("RGBA"))


def _groups(root: ElementTree.Element) -> list[ElementTree.Element]:
    """Every group, outer ones first."""
    return [element for element in root.iter() if _kind(element) == "g"]


def parse_svg(path: Path, folder: Path, chosen: tuple[str, ...]) -> dict[str, Any]:
    """Write an SVG's pixels and plates into a folder; what to say of them.

    Groups named after an ink, and the chosen ones, are plates.

    Parameters
    ----------
    path : the file
    folder : where planes are put
    chosen : labels or ids of groups

    Returns
    -------
    What to say of the drawing: its size, plates, and what it lacks.

    Raises
    ------
    BadInput
        If it is no SVG, or larger than can be drawn.
    """
    root = ElementTree.fromstring(path.read_bytes())
    if root.tag.rpartition("}")[2] != "svg":
        raise BadInput(say("{path} is not an SVG drawing.", path=path.name))
    width, height = _svg_size(root)
    dpi = resolution(width, height)
    lost = lost_of(root)
    groups = _groups(root)
    inks = [(one, name) for one in groups
            if (name := _plate_name(_names(one), chosen)) is not None]  # fmt: skip
    plates = {group for group, _ in inks}
    others = dict.fromkeys(
        called[0] for group in groups if group not in plates and (called := _names(group))
    )
    with _set_aside(root, lambda element: element in plates):
        np.save(folder / "pixels.npy", _svg_pixels(root, dpi))
    names: list[str] = []
    for group, name in inks:
        # What is drawn beside the group is set aside, and what carries its place stays.
        own = {group, *group.iter()}
        with _set_aside(root, lambda e, own=own, group=group:  # type: ignore[misc]
                        e not in own and _holds_drawing(e) and group not in e.iter()):  # fmt: skip
            plane = _svg_pixels(root, dpi)[..., 3]
        if name in names:
            at = folder / f"plate-{names.index(name)}.npy"
            np.save(at, np.maximum(np.load(at), plane))
        else:
            np.save(folder / f"plate-{len(names)}.npy", plane)
            names.append(name)
    return {
        "space": "rgb", "dpi": dpi, "plates": names, "pages": 1, "remark": "", "lost": lost,
        "groups": list(others)[:MAX_GROUPS], "size": (width, height),
    }  # fmt: skip


@contextmanager
def _set_aside(
    root: ElementTree.Element, which: Callable[[ElementTree.Element], bool]
) -> Iterator[None]:
    """Elements that are not drawn for the time being, whatever their style says.

    Others may still refer to them: they lie in definitions of their own.
    """
    space = root.tag.rpartition("}")[0] + "}" if "}" in root.tag else ""
    put_back: list[tuple[ElementTree.Element, int, ElementTree.Element]] = []

    def look(parent: ElementTree.Element) -> None:
        for place, element in enumerate(list(parent)):
            if _kind(element) in _DEFINITIONS:
                continue
            if which(element):
                holder = ElementTree.Element(f"{space}defs")
                holder.append(element)
                parent[place] = holder
                put_back.append((parent, place, element))
            else:
                look(element)

    look(root)
    try:
        yield
    finally:
        for parent, place, element in put_back:
            parent[place] = element


#: Elements whose children are drawn only where something refers to them.
_DEFINITIONS = frozenset(
    ("defs", "symbol", "clipPath", "mask", "pattern", "marker", "linearGradient",
     "radialGradient", "filter", "style", "metadata", "title", "desc")
)  # fmt: skip
_DRAWING = frozenset(
    ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "image", "use",
     "g", "svg", "a", "switch", "foreignObject")
)  # fmt: skip


def _kind(element: ElementTree.Element) -> str:
    return str(element.tag).rpartition("}")[2]


def _holds_drawing(element: ElementTree.Element) -> bool:
    """Whether an element draws, or may hold what does."""
    return _kind(element) in _DRAWING
