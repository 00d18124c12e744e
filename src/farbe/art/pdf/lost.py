"""What a page asks for and does not bring along."""

from __future__ import annotations

from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name, Stream

from farbe.said import say

#: Things of one kind that are named.
MOST = 6


def lost_of(page: pikepdf.Page) -> tuple[str, ...]:
    """Sentences on fonts that are not embedded and pictures that are not there.

    Parameters
    ----------
    page : of an open file
    """
    fonts, pictures = dict[str, None](), dict[str, None]()
    seen: set[tuple[int, int]] = set()
    _look(page, page.resources, fonts, pictures, seen)
    said = []
    if fonts:
        said.append(
            say(
                "Fonts are not embedded and are replaced by others: {fonts}. Ask for the file "
                "with its fonts, or with its type as outlines.",
                fonts=_some(list(fonts)),
            )
        )
    if pictures:
        said.append(
            say(
                "Pictures are only linked and are not there: {pictures}. Ask for the file with "
                "its pictures.",
                pictures=_some(list(pictures)),
            )
        )
    return tuple(said)


def _some(names: list[str]) -> str:
    more = say(" and {names} more", names=len(names) - MOST) if len(names) > MOST else ""
    return ", ".join(names[:MOST]) + more


def _look(
    holder: Any,
    resources: Any,
    fonts: dict[str, None],
    pictures: dict[str, None],
    seen: set[tuple[int, int]],
) -> None:
    for _, font in list(resources.get("/Font", Dictionary()).items()):
        name = _not_embedded(font)
        if name:
            fonts[name] = None
    objects = resources.get("/XObject", Dictionary())
    for key, thing in list(objects.items()):
        if not isinstance(thing, Stream):
            continue
        if _is_linked(thing):
            pictures[_link(thing) or key.removeprefix("/")] = None
        elif thing.get("/Subtype") == Name.Form and thing.objgen not in seen:
            seen.add(thing.objgen)
            _look(thing, thing.get("/Resources", resources), fonts, pictures, seen)
    drawn = pikepdf.parse_content_stream(holder, "Do")
    for part in drawn:
        key = str(part.operands[0])
        if key not in objects:
            pictures[key.removeprefix("/")] = None


def _not_embedded(font: Any) -> str:
    """A font's name, if its outlines are not in the file."""
    if not isinstance(font, Dictionary) or font.get("/Subtype") == Name.Type3:
        return ""
    inner = list(font.get("/DescendantFonts", Array()))
    described = inner[0] if inner else font
    descriptor = described.get("/FontDescriptor", Dictionary())
    if any(key in descriptor for key in ("/FontFile", "/FontFile2", "/FontFile3")):
        return ""
    return str(font.get("/BaseFont", "/a font")).removeprefix("/").rpartition("+")[2]


def _is_linked(thing: Stream) -> bool:
    """Whether a picture's data is in another file."""
    return "/F" in thing or "/OPI" in thing


def _link(thing: Stream) -> str:
    where = thing.get("/F")
    if where is None:
        versions = thing.get("/OPI", Dictionary())
        where = next((one.get("/F") for _, one in versions.items() if "/F" in one), None)
    if isinstance(where, Dictionary):
        where = where.get("/UF", where.get("/F"))
    return str(where or "")
