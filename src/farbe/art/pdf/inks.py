"""The inks that a page uses, and what they look like without plates of their own."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name, Object, Stream

PROCESS = ("Cyan", "Magenta", "Yellow", "Black")
#: Operators that set process colour.
_PROCESS_OPERATOR = re.compile(rb"(?<![\d.])[\d.]+\s+[kK](?=\s|$)")
#: Less than half a level of 255.
NEARLY_NONE = 0.0005
#: Keys that lead away from what is drawn.
_ELSEWHERE = ("/Parent", "/Font", "/P")
#: Bytes of a content stream that are looked at.
_LOOKED_AT = 4_000_000


def inks_of(page: pikepdf.Page) -> tuple[tuple[str, ...], bool]:
    """Names of the spot inks that a page may use, and whether it uses process inks.

    Parameters
    ----------
    page : of an open file
    """
    spots: dict[str, None] = {}
    process = False
    for thing in reachable(page):
        if isinstance(thing, Stream) and is_content(thing):
            process |= _PROCESS_OPERATOR.search(thing.read_bytes()[:_LOOKED_AT]) is not None
        elif isinstance(thing, Array):
            spots |= dict.fromkeys(spots_of(thing))
            process |= is_icc_cmyk(thing)
        elif isinstance(thing, Name) and str(thing) == "/DeviceCMYK":
            process = True
    process |= any(name in PROCESS for name in spots)
    for name in (*PROCESS, "All", "None"):
        spots.pop(name, None)
    return tuple(spots), process


def spots_of(space: object) -> tuple[str, ...]:
    """Inks of a colour space that is a Separation or DeviceN array; none of any other thing.

    Parameters
    ----------
    space : a colour space of a PDF, as it is read
    """
    if not isinstance(space, Array) or len(space) < 2 or not isinstance(space[0], Name):
        return ()
    match str(space[0]):
        case "/Separation":
            return (str(space[1]).removeprefix("/"),)
        case "/DeviceN":
            return tuple(str(name).removeprefix("/") for name in _items(space[1]))
        case "/Indexed" | "/Pattern":
            return spots_of(space[1])
    return ()


def is_icc_cmyk(space: object) -> bool:
    """Whether a colour space is CMYK with a profile of its own; that need name no alternate.

    Parameters
    ----------
    space : a colour space of a PDF, as it is read
    """
    return (
        isinstance(space, Array)
        and len(space) > 1
        and space[0] == Name.ICCBased
        and isinstance(space[1], Stream)
        and int(space[1].get("/N", 0)) == 4
    )


def reachable(page: pikepdf.Page) -> Iterator[Any]:
    """All that a page's resources and contents lead to, each once.

    Parameters
    ----------
    page : of an open file
    """
    seen: set[tuple[int, int]] = set()
    queue: list[Any] = [
        page.resources,
        page.obj.get("/Contents", Array()),
        page.obj.get("/Annots", Array()),
        page.obj.get("/Group", Dictionary()),
    ]
    while queue:
        thing = queue.pop()
        if isinstance(thing, Object) and thing.is_indirect:
            if thing.objgen in seen:
                continue
            seen.add(thing.objgen)
        yield thing
        if isinstance(thing, Stream | Dictionary):
            # What is drawn may have any name; it is a stream.
            queue += [
                value for key, value in thing.items()
                if key not in _ELSEWHERE or isinstance(value, Stream)
            ]  # fmt: skip
        elif isinstance(thing, Array):
            queue += list(_items(thing))


def is_content(stream: Stream) -> bool:
    """Whether a stream holds drawing operators: page contents, forms and patterns, no pictures.

    Parameters
    ----------
    stream : of a PDF
    """
    subtype = stream.get("/Subtype")
    return subtype is None or subtype == Name.Form


def keep_numbers(page: pikepdf.Page) -> None:
    """Take away the profiles of CMYK colours, so that their numbers stay as they are.

    Parameters
    ----------
    page : of a PDF; changed in place
    """
    for thing in list(reachable(page)):
        if isinstance(thing, Array) and is_icc_cmyk(thing):
            for _ in range(len(thing) - 1):
                del thing[1]
            thing[0] = Name.DeviceCMYK
        elif isinstance(thing, Dictionary) and "/DefaultCMYK" in thing:
            del thing["/DefaultCMYK"]


def without_zero_alpha(page: pikepdf.Page) -> None:
    """Make what is wholly transparent all but so.

    Where edges are smoothed, Ghostscript 10 paints objects with an alpha of exactly 0 solid.

    Parameters
    ----------
    page : changed
    """
    for thing in list(reachable(page)):
        if isinstance(thing, Dictionary):
            for key in ("/ca", "/CA"):
                if key in thing and float(thing[key]) == 0.0:
                    thing[key] = NEARLY_NONE


def swatches(pdf: pikepdf.Pdf, page: pikepdf.Page, names: tuple[str, ...]) -> pikepdf.Pdf:
    """A page of ten points to a side for each ink, solid, side by side in that order.

    Parameters
    ----------
    pdf, page : that uses the inks
    names : of them

    Returns
    -------
    A file with one page. Inks that are only found together with others are shown alone.
    """
    made = pikepdf.new()
    drawn = made.add_blank_page(page_size=(10 * len(names), 10))
    spaces, marks = Dictionary(), []
    for space in reachable(page):
        inks = spots_of(space)
        if not inks or str(space[0]) not in ("/Separation", "/DeviceN"):
            continue
        for name in inks:
            key = f"/S{names.index(name)}" if name in names else ""
            # A space of its own goes before one that is shared.
            if not key or (key in spaces and len(inks) > 1):
                continue
            own = space if space.is_indirect else pdf.make_indirect(space)
            spaces[key] = made.copy_foreign(own)
    for at, name in enumerate(names):
        if f"/S{at}" in spaces:
            inks = spots_of(spaces[f"/S{at}"])
            tints = " ".join("1" if ink == name else "0" for ink in inks)
            marks.append(f"/S{at} cs {tints} scn {10 * at} 0 10 10 re f")
    drawn.obj.Resources = Dictionary(ColorSpace=spaces)
    drawn.obj.Contents = Stream(made, " ".join(marks).encode())
    return made


def _items(array: Object) -> Iterator[Any]:
    """The items of an array; pikepdf's own types do not say that it has them."""
    return iter(array)
