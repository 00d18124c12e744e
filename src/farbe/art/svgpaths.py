"""Paths of an SVG whose data break off: they are drawn as far as they are sound, and no further."""

from __future__ import annotations

import re
from xml.etree import ElementTree

from farbe.said import say

# Nothing that was taken is given back, so that no data take long to look at.
_NUMBER = r"[+-]?+(?:\d++\.?+\d*+|\.\d++)(?:[eE][+-]?+\d++)?+"
_SPACE, _BETWEEN = r"\s*+", r"\s*+,?+\s*+"


def _sets(*figures: str) -> str:
    """Figures of a command, once and more; a comma may stand after them, and none before."""
    once = "".join(_BETWEEN + figure for figure in figures)
    return f"{_SPACE}{once.removeprefix(_BETWEEN)}(?:{once})*+{_BETWEEN}"


_PAIRS = _sets(_NUMBER, _NUMBER)
_MOVE = f"[Mm]{_PAIRS}"
#: Commands by what follows them (SVG 2, section 9.3.9); an arc's flags may stand together.
_OTHERS = "|".join(
    (
        f"[LlTt]{_PAIRS}", f"[HhVv]{_sets(_NUMBER)}", f"[SsQq]{_sets(*[_NUMBER] * 4)}",
        f"[Cc]{_sets(*[_NUMBER] * 6)}", "[Zz]",
        f"[Aa]{_sets(*[_NUMBER] * 3, '[01]', '[01]', *[_NUMBER] * 2)}",
    )
)  # fmt: skip
_SOUND_PATH = re.compile(f"{_SPACE}(?:none|{_MOVE}(?:{_SPACE}(?:{_MOVE}|{_OTHERS}))*+)?+{_SPACE}")
_SOUND_POINTS = re.compile(f"(?:{_PAIRS})?+{_SPACE}")
_DATA = {"path": ("d", _SOUND_PATH), "polyline": ("points", _SOUND_POINTS),
         "polygon": ("points", _SOUND_POINTS)}  # fmt: skip


def broken_off(root: ElementTree.Element) -> list[str]:
    """Names of paths, polylines and polygons of which something is not drawn.

    Parameters
    ----------
    root : of the drawing

    Returns
    -------
    Their ids, or which they are of all of them.
    """
    found, number = [], 0
    for element in root.iter():
        attribute, sound = _DATA.get(str(element.tag).rpartition("}")[2], ("", None))
        if sound is None:
            continue
        number += 1
        if sound.fullmatch(element.get(attribute, "")) is None:
            found.append(element.get("id") or say("path {number}", number=number))
    return found
