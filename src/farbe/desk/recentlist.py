"""The desktop's own list of files that were used last (Desktop Bookmark Specification, XBEL)."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from xml.etree import ElementTree

from farbe.atomic import CannotWrite, whole_file
from farbe.folders import desktop_share

#: The type of job files.
MIME = "application/vnd.farbe.job+zip"
_BOOKMARK = "http://www.freedesktop.org/standards/desktop-bookmarks"
_MIME = "http://www.freedesktop.org/standards/shared-mime-info"
_OWNER = "http://freedesktop.org"


def list_file() -> Path:
    """Where the desktop keeps its list."""
    return desktop_share() / "recently-used.xbel"


def note_recent(path: Path, now: datetime | None = None) -> bool:
    """Put a job at the top of the desktop's list.

    Parameters
    ----------
    path : the job's file
    now : when it was used; None is now

    Returns
    -------
    Whether it is there; a list that cannot be read or written is left alone.
    """
    target = list_file()
    try:
        root = _read(target)
    except (OSError, ElementTree.ParseError):
        return False
    _note(root, path.absolute().as_uri(), (now or datetime.now(UTC)).strftime("%Y-%m-%dT%H:%M:%SZ"))
    try:
        with whole_file(target) as file:
            ElementTree.ElementTree(root).write(file, encoding="UTF-8", xml_declaration=True)
    except CannotWrite:
        return False
    return True


def _read(target: Path) -> ElementTree.Element:
    ElementTree.register_namespace("bookmark", _BOOKMARK)
    ElementTree.register_namespace("mime", _MIME)
    if not target.exists():
        return ElementTree.Element("xbel", {"version": "1.0"})
    return ElementTree.parse(target).getroot()


def _note(root: ElementTree.Element, uri: str, stamp: str) -> None:
    entry = next((one for one in root.iter("bookmark") if one.get("href") == uri), None)
    if entry is None:
        entry = ElementTree.SubElement(root, "bookmark", {"href": uri, "added": stamp})
    entry.set("modified", stamp)
    entry.set("visited", stamp)
    data = _child(_child(entry, "info"), "metadata", owner=_OWNER)
    _child(data, f"{{{_MIME}}}mime-type").set("type", MIME)
    programs = _child(data, f"{{{_BOOKMARK}}}applications")
    name = f"{{{_BOOKMARK}}}application"
    own = next((one for one in programs.iter(name) if one.get("name") == "Farbe"), None)
    if own is None:
        own = ElementTree.SubElement(programs, name, {"name": "Farbe", "exec": "'farbe %u'"})
    own.set("modified", stamp)
    known = own.get("count", "")
    own.set("count", str((int(known) if known.isdecimal() else 0) + 1))


def _child(of: ElementTree.Element, tag: str, **told: str) -> ElementTree.Element:
    """The first child of a kind, which is made if it is not there."""
    found = of.find(tag)
    return ElementTree.SubElement(of, tag, told) if found is None else found
