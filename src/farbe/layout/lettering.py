"""Lines of type as outlines, shaped and measured with HarfBuzz."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from farbe.layout.codes import set_code
from farbe.model.base import BadInput
from farbe.model.placing import Across, Along
from farbe.model.text import TextBox, TextFit, TypeFace
from farbe.said import say

# Pieces without text are made without it.
if TYPE_CHECKING:
    import uharfbuzz as hb

LetterRing = npt.NDArray[np.float64]

_SHIPPED = {
    TypeFace.REGULAR: "Inter-Regular.otf",
    TypeFace.MEDIUM: "Inter-Medium.otf",
    TypeFace.BOLD: "Inter-Bold.otf",
}
#: Straight parts of a curve of an outline.
_PARTS = 8
_FIELD = re.compile(r"\{([^{}]*)\}")


@lru_cache(maxsize=4)
def shipped_font(face: TypeFace) -> bytes:
    """The font file of a shipped face.

    Parameters
    ----------
    face : a shipped one
    """
    return (files("farbe") / "data" / "fonts" / _SHIPPED[face]).read_bytes()


@dataclass(frozen=True, eq=False)
class TypeLine:
    """One line of type whose capitals are 1 high; the baseline's start is (0, 0), y up.

    Attributes
    ----------
    glyphs : closed rings of each glyph that has ink
    width : of the line
    missing : characters that the font does not have
    """

    glyphs: tuple[tuple[LetterRing, ...], ...]
    width: float
    missing: str


class _Outline:
    """Collects the flattened contours of a glyph, in font units."""

    def __init__(self) -> None:
        self.rings: list[list[tuple[float, float]]] = []

    def move(self, x: float, y: float) -> None:
        self.rings.append([(x, y)])

    def line(self, x: float, y: float) -> None:
        self.rings[-1].append((x, y))

    def quadratic(self, cx: float, cy: float, x: float, y: float) -> None:
        x0, y0 = self.rings[-1][-1]
        # A parabola is the cubic whose handles are two thirds out (degree elevation).
        one = (x0 + (cx - x0) * 2 / 3, y0 + (cy - y0) * 2 / 3)
        two = (x + (cx - x) * 2 / 3, y + (cy - y) * 2 / 3)
        self.cubic(*one, *two, x, y)

    def cubic(self, ax: float, ay: float, bx: float, by: float, x: float, y: float) -> None:
        x0, y0 = self.rings[-1][-1]
        for i in range(1, _PARTS + 1):
            t = i / _PARTS
            u = 1 - t
            a, b, c, d = u**3, 3 * u * u * t, 3 * u * t * t, t**3
            self.rings[-1].append(
                (a * x0 + b * ax + c * bx + d * x, a * y0 + b * ay + c * by + d * y)
            )


def _draw_functions() -> hb.DrawFuncs:
    import uharfbuzz as hb

    functions = hb.DrawFuncs()
    functions.set_move_to_func(lambda x, y, into: into.move(x, y))
    functions.set_line_to_func(lambda x, y, into: into.line(x, y))
    functions.set_quadratic_to_func(lambda a, b, x, y, into: into.quadratic(a, b, x, y))
    functions.set_cubic_to_func(lambda a, b, c, d, x, y, into: into.cubic(a, b, c, d, x, y))
    functions.set_close_path_func(lambda into: None)
    return functions


@lru_cache(maxsize=8)
def _font(data: bytes) -> tuple[hb.Font, float]:
    """A font and the height of its capitals in its units."""
    import uharfbuzz as hb

    font = hb.Font(hb.Face(data))
    capital = font.get_metric_position_with_fallback(hb.OTMetricsTag.CAP_HEIGHT)
    return font, float(capital) if capital > 0 else 0.7 * font.face.upem


def check_font(data: bytes, name: str) -> None:
    """Raise BadInput unless a file is a font with letters.

    Parameters
    ----------
    data : bytes of the file
    name : of the file, for the refusal

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    import uharfbuzz as hb

    face = hb.Face(data)
    if face.upem <= 0 or face.glyph_count == 0 or not set_line("H", data).glyphs:
        raise BadInput(
            say("{name} is not a font with letters; choose a .ttf or .otf file.", name=name)
        )


@lru_cache(maxsize=2048)
def set_line(text: str, font_data: bytes) -> TypeLine:
    """Set one line of type: kerning, ligatures and direction as the font has them.

    Parameters
    ----------
    text : as it was typed
    font_data : bytes of an OpenType or TrueType font

    Returns
    -------
    Glyphs in their places, with the width of the line in mm and what the font lacks.
    """
    if not text:
        # Of an empty line HarfBuzz has no list of glyphs.
        return TypeLine((), 0.0, "")
    import uharfbuzz as hb

    font, capital = _font(font_data)
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(font, buffer)
    functions, glyphs, at = _draw_functions(), [], 0.0
    missing = {text[i.cluster] for i in buffer.glyph_infos if i.codepoint == 0}
    for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        drawn = _Outline()
        font.draw_glyph(info.codepoint, functions, drawn)
        shift = (at + place.x_offset, float(place.y_offset))
        rings = tuple((np.array(r) + shift) / capital for r in drawn.rings if len(r) > 2)
        if rings and info.codepoint:
            glyphs.append(rings)
        at += place.x_advance
    return TypeLine(tuple(glyphs), at / capital, "".join(sorted(missing)))


def fields(text: str) -> tuple[str, ...]:
    """Names in braces of a text, as they come.

    Parameters
    ----------
    text : as it was typed
    """
    return tuple(_FIELD.findall(text))


def resolved(text: str, values: Mapping[str, str]) -> str:
    """A text with its braces filled in; a name without a value is left out.

    Parameters
    ----------
    text : as it was typed
    values : by their names
    """
    return _FIELD.sub(lambda found: values.get(found[1], ""), text)


def in_one_line(text: str) -> str:
    """Text of several lines as it is told in a sentence; of blank ones nothing is told.

    Parameters
    ----------
    text : as it was typed
    """
    return " / ".join(line for line in text.splitlines() if line.strip())


@dataclass(frozen=True)
class TypeSize:
    """How large a box's lines are set: height of capitals in mm, stretch along the line."""

    lines: tuple[TypeLine, ...]
    size: float
    across: float

    @property
    def width(self) -> float:
        """Of the widest line, mm."""
        return max((line.width for line in self.lines), default=0.0) * self.size * self.across

    @property
    def missing(self) -> str:
        """Characters that the font does not have."""
        return "".join(sorted({one for line in self.lines for one in line.missing}))


def type_size(box: TextBox, font_data: bytes) -> TypeSize:
    """The lines of a box and how large they are set.

    Shrunk lines keep their proportions; all lines together never get higher than the box.

    Parameters
    ----------
    box : words, and their place in mm
    font_data : of the font file
    """
    lines = tuple(set_line(words, font_data) for words in box.text.splitlines())
    widest = max((line.width for line in lines), default=0.0)
    size = min(box.size, box.height / _block(box, len(lines)))
    across = 1.0
    if box.fit is TextFit.SHRINK and widest:
        size = min(size, box.width / widest)
    elif box.fit is TextFit.FILL and widest:
        across = box.width / (widest * size)
    return TypeSize(lines, size, across)


def _block(box: TextBox, count: int) -> float:
    """Height of so many lines in heights of capitals."""
    return 1.0 + max(0, count - 1) * box.leading


def set_box(box: TextBox, font_data: bytes) -> tuple[tuple[LetterRing, ...], ...]:
    """The outlines of a box's lines on the piece in mm, y up: rings of each glyph.

    Parameters
    ----------
    box : words, and their place in mm
    font_data : of the font file
    """
    if box.code is not None:
        return set_code(box)
    found = type_size(box, font_data)
    size, scale = found.size, np.array((found.size * found.across, found.size))
    side = {Across.LEFT: -1.0, Across.MIDDLE: 0.0, Across.RIGHT: 1.0}[box.across]
    rise = {Along.BOTTOM: -1.0, Along.MIDDLE: 0.0, Along.TOP: 1.0}[box.along]
    high = size * _block(box, len(found.lines))
    lowest = rise * (box.height - high) / 2 - high / 2
    turn = np.radians(box.rotation)
    back = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    made = []
    for number, line in enumerate(reversed(found.lines)):
        wide = line.width * scale[0]
        start = np.array(
            (side * (box.width - wide) / 2 - wide / 2, lowest + number * box.leading * size)
        )
        for rings in line.glyphs:
            glyph = tuple(ring * scale + start for ring in rings)
            made.append(tuple(ring @ back + (box.x, box.y) for ring in _bent(glyph, box.radius)))
    return tuple(made)


def _bent(glyph: tuple[LetterRing, ...], radius: float) -> tuple[LetterRing, ...]:
    """A glyph where a curve has it: turned as a whole, not bent in itself."""
    if radius == 0:
        return glyph
    ends = np.concatenate(glyph)
    middle = float(ends[:, 0].min() + ends[:, 0].max()) / 2
    angle = middle / radius
    turned = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    centre = np.array((radius * np.sin(angle), radius * (np.cos(angle) - 1.0)))
    return tuple((ring - (middle, 0.0)) @ turned + centre for ring in glyph)
