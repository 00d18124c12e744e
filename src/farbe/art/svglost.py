"""What an SVG asks for and does not bring along: type that is not installed, linked pictures, the
rest of paths that break off."""

from __future__ import annotations

import base64
import re
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import unquote_to_bytes
from xml.etree import ElementTree

from fontTools.ttLib import TTCollection, TTFont, TTLibError

from farbe.art.svgpaths import broken_off
from farbe.said import say

#: The family that ships; type is set in it where its own is not installed.
FALLBACK = "Inter"
#: Families and pictures that are named.
MOST = 6
_GENERIC = frozenset(
    ("serif", "sans-serif", "cursive", "fantasy", "monospace", "system-ui", "inherit", "initial",
     "ui-serif", "ui-sans-serif", "ui-monospace", "ui-rounded", "unset", "")
)  # fmt: skip
_FOLDERS = ("/usr/share/fonts", "/usr/local/share/fonts", "~/.fonts", "~/.local/share/fonts")
_FAMILY = re.compile(r"font-family\s*:\s*([^;}]+)", re.IGNORECASE)
_SHORTHAND = re.compile(r"(?<![\w-])font\s*:\s*([^;}]+)", re.IGNORECASE)
#: Name records of families (OpenType, name table).
_FAMILY_NAMES = (1, 16)


def lost_of(root: ElementTree.Element) -> list[str]:
    """Sentences on what is missing; what lies outside of the file is taken out of the drawing.

    Parameters
    ----------
    root : of the drawing; changed: nothing in it refers to other files any more
    """
    said = []
    families = _not_installed(root)
    if families:
        said.append(
            say(
                "Type is not installed and is set in {fallback}: {families}. Install it, or "
                "ask for the file with its type as outlines.",
                fallback=FALLBACK,
                families=_some(families),
            )
        )
    pictures = _without_links(root)
    if pictures:
        said.append(
            say(
                "Pictures are only linked and are left out: {pictures}. Ask for the file with "
                "its pictures embedded.",
                pictures=_some(pictures),
            )
        )
    paths = broken_off(root)
    if paths:
        said.append(
            say(
                "Data of paths break off, and they are drawn only so far: {paths}. Ask for the "
                "file anew.",
                paths=_some(paths),
            )
        )
    return said


def _some(names: list[str]) -> str:
    more = say(" and {names} more", names=len(names) - MOST) if len(names) > MOST else ""
    return ", ".join(names[:MOST]) + more


def _kind(element: ElementTree.Element) -> str:
    return str(element.tag).rpartition("}")[2]


# pictures


def _without_links(root: ElementTree.Element) -> list[str]:
    """Names of what is linked, in the order of the drawing; the links are gone."""
    found: dict[str, None] = {}
    for element in root.iter():
        for key, value in list(element.attrib.items()):
            if key.rpartition("}")[2] != "href" or value.startswith("#"):
                continue
            if _kind(element) == "a":
                # Where a click would lead is drawn nowhere.
                del element.attrib[key]
            elif value.startswith("data:"):
                element.set(key, _nested(value, found))
            else:
                found[re.split(r"[\\/]", value.split("#")[0])[-1][:80] or value[:80]] = None
                del element.attrib[key]
    return list(found)


def _nested(data: str, found: dict[str, None]) -> str:
    """An embedded picture; a drawing in it refers to no file either."""
    head, _, body = data.partition(",")
    if "svg" not in head:
        return data
    try:
        text = base64.b64decode(body) if ";base64" in head else unquote_to_bytes(body)
        inner = ElementTree.fromstring(text)
    except (ValueError, ElementTree.ParseError):
        found["a drawing in the drawing"] = None
        return ""
    found |= dict.fromkeys(_without_links(inner))
    packed = base64.b64encode(ElementTree.tostring(inner)).decode()
    return f"data:image/svg+xml;base64,{packed}"


# type


def _not_installed(root: ElementTree.Element) -> list[str]:
    """Families that text asks for first and that are not there."""
    if not any(_kind(element) == "text" and "".join(element.itertext()).strip()
               for element in root.iter()):  # fmt: skip
        return []
    wanted: dict[str, None] = {}
    for asked in _asked(root):
        first = asked.split(",")[0].strip().strip("\"'").strip()
        if first.casefold() not in _GENERIC and first.casefold() != FALLBACK.casefold():
            wanted[first] = None
    missing = {name.casefold() for name in wanted}
    for family in _installed() if missing else ():
        missing.discard(family)
        if not missing:
            break
    return [name for name in wanted if name.casefold() in missing]


def _asked(root: ElementTree.Element) -> Iterator[str]:
    """Lists of families, wherever the drawing states them."""
    for element in root.iter():
        if "font-family" in element.attrib:
            yield element.attrib["font-family"]
        css = element.get("style", "")
        if _kind(element) == "style":
            css += element.text or ""
        yield from (match[1] for match in _FAMILY.finditer(css))
        for match in _SHORTHAND.finditer(css):
            # The families come last, after the size.
            yield re.sub(r"^.*?\d[\w.%]*(?:\s*/\s*[\w.%]+)?\s+", "", match[1])


def _installed() -> Iterator[str]:
    """Families that are installed, in small letters."""
    for folder in _FOLDERS:
        for path in sorted(Path(folder).expanduser().rglob("*")):
            if path.suffix.lower() in (".ttf", ".otf", ".ttc", ".otc"):
                yield from _families(path)


def _families(path: Path) -> Iterator[str]:
    try:
        if path.suffix.lower() in (".ttc", ".otc"):
            fonts = list(TTCollection(path, lazy=True).fonts)
        else:
            fonts = [TTFont(path, lazy=True)]
        for font in fonts:
            for record in font["name"].names:
                if record.nameID in _FAMILY_NAMES:
                    yield record.toUnicode(errors="replace").casefold()
    except (OSError, TTLibError, KeyError):
        # A damaged font is none.
        return
