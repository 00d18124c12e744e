"""A page of which only a part is drawn: what is in one ink, or in one layer.

Contents are read operator by operator (ISO 32000-1, annex A); what is not wanted is kept, since
later operators depend on it, but paints nothing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pikepdf
from pikepdf import Array, ContentStreamInlineImage, Dictionary, Name, Operator, Stream
from PIL import Image

from farbe.art.pdf.inks import is_icc_cmyk, reachable, spots_of
from farbe.art.profiles import applied, black_alone, to_ink
from farbe.art.wanted import InkWork

Instruction = tuple[list[Any], Operator]
#: Forms in forms that are followed.
_DEEP = 12
#: Filling and stroking of the painting operators, and how only one of them is done.
_PATHS = {
    "f": (True, False), "F": (True, False), "f*": (True, False), "S": (False, True),
    "s": (False, True), "B": (True, True), "B*": (True, True), "b": (True, True),
    "b*": (True, True),
}  # fmt: skip
_TEXT = ("Tj", "TJ", "'", '"')
_DEVICE = {"g": "/DeviceGray", "rg": "/DeviceRGB", "k": "/DeviceCMYK"}


@dataclass(frozen=True)
class Paint:
    """What is painted with, at a place of the contents.

    Attributes
    ----------
    fill, stroke : inks of the colours that are set
    layers : names of the layers within
    mode : of text, as Tr sets it
    """

    fill: tuple[str, ...] = ()
    stroke: tuple[str, ...] = ()
    layers: tuple[str, ...] = ()
    mode: int = 0


Wanting = Callable[[tuple[str, ...], tuple[str, ...]], bool]


def only_ink(pdf: pikepdf.Pdf, page: pikepdf.Page, name: str) -> None:
    """Leave of a page what is drawn in an ink, whatever lies above it.

    Parameters
    ----------
    pdf, page : changed
    name : of the ink
    """
    _Reduced(pdf, lambda inks, _: name in inks).page(page)


def only_layer(pdf: pikepdf.Pdf, page: pikepdf.Page, name: str) -> None:
    """Leave of a page what is in a layer.

    Parameters
    ----------
    pdf, page : changed
    name : of the layer
    """
    _Reduced(pdf, lambda _, layers: name in layers).page(page)


@dataclass(frozen=True)
class _Reduced:
    """Contents with only what is wanted, by its inks and layers."""

    pdf: pikepdf.Pdf
    wanting: Wanting

    def page(self, page: pikepdf.Page) -> None:
        kept = self._kept(page, page.resources, Paint(), 0)
        page.obj.Contents = Stream(self.pdf, pikepdf.unparse_content_stream(kept))
        if "/Annots" in page.obj:
            del page.obj["/Annots"]

    def _kept(self, holder: Any, resources: Any, paint: Paint, deep: int) -> list[Instruction]:
        made: list[Instruction] = []
        stack: list[Paint] = []
        marked: list[int] = []
        for part in pikepdf.parse_content_stream(holder):
            if isinstance(part, ContentStreamInlineImage) or str(part.operator) == "INLINE IMAGE":
                if self._shows_inline(part, paint):
                    made.append(part)  # type: ignore[arg-type]
                continue
            operands, operator = list(part.operands), str(part.operator)
            match operator:
                case "q":
                    stack.append(paint)
                case "Q":
                    # Layers are marked apart from the state of colours.
                    paint = replace(stack.pop(), layers=paint.layers) if stack else paint
                case "BDC" | "BMC":
                    names = _layer_names(operands, resources) if operator == "BDC" else ()
                    marked.append(len(names))
                    paint = replace(paint, layers=(*paint.layers, *names))
                case "EMC" if marked:
                    count = marked.pop()
                    paint = replace(paint, layers=paint.layers[: len(paint.layers) - count])
                case "Tr":
                    paint = replace(paint, mode=int(operands[0]))
                case _:
                    paint = _coloured(paint, operator, operands, resources)
            made += self._as_wanted(part, operands, operator, resources, paint, deep)
        return made

    def _as_wanted(
        self,
        part: Any,
        operands: list[Any],
        operator: str,
        resources: Any,
        paint: Paint,
        deep: int,
    ) -> list[Instruction]:
        """An instruction, or what is left of it."""
        fills = self.wanting(paint.fill, paint.layers)
        strokes = self.wanting(paint.stroke, paint.layers)
        if operator in _PATHS:
            does = _PATHS[operator]
            fill, stroke = does[0] and fills, does[1] and strokes
            if (fill, stroke) == does:
                return [part]
            return [([], Operator(_path(operator, fill=fill, stroke=stroke)))]
        if operator in _TEXT:
            seen = (fills if paint.mode % 4 in (0, 2) else False) or (
                strokes if paint.mode % 4 in (1, 2) else False
            )
            if seen:
                return [part]
            hidden: Instruction = ([3], Operator("Tr"))
            return [hidden, part, ([paint.mode], Operator("Tr"))]
        if operator == "sh":
            shading = resources.get("/Shading", Dictionary()).get(str(operands[0]))
            inks = spots_of(_space(shading.get("/ColorSpace"), resources)) if shading else ()
            return [part] if self.wanting(inks, paint.layers) else []
        if operator == "Do":
            return self._object(part, str(operands[0]), resources, paint, deep)
        return [part]

    def _object(
        self, part: Any, name: str, resources: Any, paint: Paint, deep: int
    ) -> list[Instruction]:
        """A picture if it is wanted, or a form with what is wanted of it."""
        found = resources.get("/XObject", Dictionary()).get(name)
        if not isinstance(found, Stream):
            return []
        layers = (*paint.layers, *_names_of(found.get("/OC")))
        if found.get("/Subtype") != Name.Form:
            mask = bool(found.get("/ImageMask", False))
            inks = paint.fill if mask else spots_of(_space(found.get("/ColorSpace"), resources))
            return [part] if self.wanting(inks, layers) else []
        if deep >= _DEEP:
            return []
        own = found.get("/Resources", resources)
        inner = self._kept(found, own, replace(paint, layers=layers, mode=0), deep + 1)
        copy = Stream(self.pdf, pikepdf.unparse_content_stream(inner))
        for key, value in found.items():
            if key not in ("/Length", "/Filter", "/DecodeParms"):
                copy[key] = value
        copy.Resources = own
        objects = resources["/XObject"]
        fresh = next(f"/Part{i}" for i in range(100_000) if f"/Part{i}" not in objects)
        objects[fresh] = self.pdf.make_indirect(copy)
        return [([Name(fresh)], Operator("Do"))]

    def _shows_inline(self, part: Any, paint: Paint) -> bool:
        image = part.iimage
        return self.wanting(paint.fill if image.image_mask else (), paint.layers)


def _path(operator: str, *, fill: bool, stroke: bool) -> str:
    """Of a painting operator what is to be painted."""
    closes = operator in ("s", "b", "b*")
    if fill:
        return "f*" if operator.endswith("*") else "f"
    if stroke:
        return "s" if closes else "S"
    return "n"


def _coloured(paint: Paint, operator: str, operands: list[Any], resources: Any) -> Paint:
    """What is painted with after an operator that sets colours or their space."""
    side = "stroke" if operator.isupper() else "fill"
    plain = operator.lower()
    if plain in _DEVICE:
        return replace(paint, **{side: ()})  # type: ignore[arg-type]
    if plain == "cs":
        inks = spots_of(_space(operands[0], resources))
        return replace(paint, **{side: inks})  # type: ignore[arg-type]
    if plain == "scn" and operands and isinstance(operands[-1], Name):
        pattern = resources.get("/Pattern", Dictionary()).get(str(operands[-1]))
        shading = pattern.get("/Shading") if pattern is not None else None
        if shading is not None:
            inks = spots_of(_space(shading.get("/ColorSpace"), resources))
            return replace(paint, **{side: inks})  # type: ignore[arg-type]
    return paint


def _space(named: Any, resources: Any) -> Any:
    """A colour space, by its name in the resources."""
    if isinstance(named, Name):
        return resources.get("/ColorSpace", Dictionary()).get(str(named), named)
    return named


def _layer_names(operands: list[Any], resources: Any) -> tuple[str, ...]:
    if len(operands) < 2 or operands[0] != Name.OC or not isinstance(operands[1], Name):
        return ()
    return _names_of(resources.get("/Properties", Dictionary()).get(str(operands[1])))


def _names_of(group: Any) -> tuple[str, ...]:
    """Names of the layers that optional content belongs to."""
    if not isinstance(group, Dictionary):
        return ()
    if group.get("/Type") == Name.OCMD:
        members = group.get("/OCGs", Array())
        groups = list(members) if isinstance(members, Array) else [members]
        return tuple(name for one in groups for name in _names_of(one))
    return (str(group.get("/Name", "")),)


def pure_black(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
    """Black alone, in colours with a CMYK profile of their own, stays black alone.

    Parameters
    ----------
    pdf, page : changed; forms too
    """
    done: set[tuple[int, int]] = set()
    page.obj.Contents = Stream(
        pdf, pikepdf.unparse_content_stream(_blackened(page, page.resources))
    )
    _blacken_forms(page.resources, done)


def convert_pictures(page: pikepdf.Page, work: InkWork) -> None:
    """Pictures in CMYK with a profile of their own as the printer's inks, black alone kept.

    Ghostscript would bring black alone to another amount. Pictures that are not eight bits deep,
    and those of pages that are converted in two ways, are left to it.

    Parameters
    ----------
    page : changed
    work : how colours become ink
    """
    if len(work.parts) != 1:
        return
    for thing in list(reachable(page)):
        if not isinstance(thing, Stream) or thing.get("/Subtype") != Name.Image:
            continue
        space = thing.get("/ColorSpace")
        if space is None or not is_icc_cmyk(space) or int(thing.get("/BitsPerComponent", 0)) != 8:
            continue
        size = int(thing.Height), int(thing.Width), 4
        data = thing.read_bytes(decode_level=pikepdf.StreamDecodeLevel.all)
        if len(data) < size[0] * size[1] * 4:
            continue
        inks = np.frombuffer(data, np.uint8)[: size[0] * size[1] * 4].reshape(size)
        decode = thing.get("/Decode")
        if decode is not None and float(decode[0]) > float(decode[1]):
            inks = 255 - inks
        transform = to_ink(
            space[1].read_bytes(), work.profile, "CMYK", work.parts[0][0],
            black_point=work.conversion.black_point,
        )  # fmt: skip
        made = applied(transform, Image.fromarray(np.ascontiguousarray(inks), "CMYK"))
        for key in ("/Decode", "/DecodeParms", "/Filter", "/Intent"):
            if key in thing:
                del thing[key]
        thing.write(black_alone(inks, made).tobytes())
        thing.ColorSpace = Name.DeviceCMYK


def _blacken_forms(resources: Any, done: set[tuple[int, int]]) -> None:
    for _, form in list(resources.get("/XObject", Dictionary()).items()):
        if not isinstance(form, Stream) or form.get("/Subtype") != Name.Form or form.objgen in done:
            continue
        done.add(form.objgen)
        own = form.get("/Resources", resources)
        form.write(pikepdf.unparse_content_stream(_blackened(form, own)))
        _blacken_forms(own, done)


def _blackened(holder: Any, resources: Any) -> list[Instruction]:
    """Contents in which black alone is set without the profile."""
    made: list[Any] = []
    spaces: dict[str, Any] = {}
    stack: list[dict[str, Any]] = []
    for part in pikepdf.parse_content_stream(holder):
        operator = str(part.operator)
        if operator == "q":
            stack.append(dict(spaces))
        elif operator == "Q" and stack:
            spaces = stack.pop()
        elif operator in ("cs", "CS"):
            spaces[operator] = part.operands[0]
        elif operator in ("g", "rg", "k", "G", "RG", "K"):
            spaces.pop("CS" if operator.isupper() else "cs", None)
        setter = {"sc": "cs", "scn": "cs", "SC": "CS", "SCN": "CS"}.get(operator)
        named = spaces.get(setter) if setter else None
        if setter and named is not None and is_icc_cmyk(_space(named, resources)):
            numbers = list(part.operands)
            if len(numbers) == 4 and not any(float(one) for one in numbers[:3]):
                made.append((numbers, Operator("k" if setter == "cs" else "K")))
                continue
            made.append(([named], Operator(setter)))
        made.append(part)
    return made
