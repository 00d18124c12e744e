"""What the Proof shows of a piece: how it looks, and what else is wanted of it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from farbe.art.artwork import MM_PER_INCH, Pixels
from farbe.files.store import ArtStore
from farbe.kept import Kept, once
from farbe.layout.faced import Faced
from farbe.optics.gamut import Reach, reached
from farbe.optics.look import Seen
from farbe.optics.view import ArtworkWhite, View, artwork_white, hiding, seen_as
from farbe.plan.alternatives import ARTWORK, Alternative
from farbe.render.contours import Contour, contours, margin
from farbe.render.glimpse import Box, Glimpse, glimpse
from farbe.render.raster import Report
from farbe.render.sources import Sources
from farbe.said import Spoken
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid

#: Coverage from which a place counts as inked in the outlines.
ANY_INK = 24


class Shown(Spoken):
    """What is shown of the piece."""

    LOOK = "prediction"
    ARTWORK = "artwork"
    WHITE = "artwork's white"
    HIDING = "hiding"
    OUTLINES = "outlines"
    PLATE = "one plate"
    BODY = "on the body"
    REACH = "out of reach"


@dataclass(frozen=True)
class LookWanted:
    """How the piece is looked at, what of it is shown, and what it is wiped to."""

    view: View = field(default_factory=View)
    shown: Shown = Shown.LOOK
    against: Alternative | None = None


@dataclass(frozen=True, eq=False)
class Scene:
    """A part of the piece, and of the rest what is wanted.

    Attributes
    ----------
    part : with its plates
    wanted : what of it
    look : sRGB uint8 (h, w, 3)
    other : the look of what it is wiped to
    hiding : contrast ratio of all layers, uint8 (h, w)
    white : where the artwork is white
    lines : outlines of each layer by its name
    margins : how far these stay from the piece's edge in mm, None without ink
    reach : which colours the inks do not reach
    """

    part: Glimpse
    wanted: LookWanted
    look: Pixels
    other: Pixels | None = None
    hiding: Plate | None = None
    white: ArtworkWhite | None = None
    lines: dict[str, list[Contour]] | None = None
    margins: dict[str, float | None] | None = None
    reach: Reach | None = None

    @once
    def seen(self) -> Seen:
        """What comes from the part to who looks at it; of a few pixels it is had at once."""
        return seen_as(self.part, self.wanted.view)


#: What is seen of the parts that were looked at last, by other light as well.
_SEEN: Kept[tuple[Glimpse, View], Seen] = Kept(2)


def scene_of(part: Glimpse, wanted: LookWanted, sources: Sources, report: Report) -> Scene:
    """Work out what is wanted of a part.

    Parameters
    ----------
    part : with its plates
    wanted : what of it
    sources : of the job's files, for what it is wiped to
    report : is told how far it is

    Raises
    ------
    BadInput
        If a file cannot be read, or the job cannot be what it is wiped to.
    """
    report(0.0)
    view, shown = wanted.view, wanted.shown
    # By other light the same is seen of the same part.
    alike = replace(view, lit=0.0, exposure=0.0)
    found = _SEEN.get((part, alike), lambda: seen_as(part, view))
    gain = view.gain(found) if view.lit else None
    lines = _lines(part) if shown is Shown.OUTLINES else None
    return Scene(
        part=part,
        wanted=wanted,
        look=found.by(view.lit, gain),
        other=_other(part, wanted, sources, gain),
        hiding=hiding(part) if shown is Shown.HIDING else None,
        white=artwork_white(part) if shown is Shown.WHITE else None,
        reach=reached(part) if shown is Shown.REACH else None,
        lines=lines,
        margins=None
        if lines is None
        else {name: margin(found_, part.job.piece.shape) for name, found_ in lines.items()},
    )


def scene_near(
    job: Faced, box: Box, grid: Grid, wanted: LookWanted, store: ArtStore, report: Report
) -> Scene:
    """Work out what is wanted of a part on a finer grid.

    Parameters
    ----------
    job : as one of its faces has it
    box : of the part
    grid : on which it is seen
    wanted : what of it
    store : of the job's files
    report : is told how far it is

    Raises
    ------
    BadInput
        If a file cannot be read, or the job cannot be what it is wiped to.
    """
    report(0.0)
    return scene_of(glimpse(job, store, grid, box), wanted, store, report)


def _other(
    part: Glimpse, wanted: LookWanted, sources: Sources, gain: float | None
) -> Pixels | None:
    """The look of what it is wiped to."""
    against = wanted.against
    if against is None or against == ARTWORK or wanted.shown is not Shown.LOOK:
        return None
    other = glimpse(against.of(part.job), sources, part.grid, part.box)
    view = wanted.view
    return seen_as(other, view).by(view.lit, gain)


def _lines(part: Glimpse) -> dict[str, list[Contour]]:
    """Outlines of each layer; colour's are those of all its inks together."""
    found = {}
    for layer in part.layers:
        plates = part.plates_of(layer.name)
        together = plates[0].copy()
        for plate in plates[1:]:
            together = together | plate
        # Any ink counts, were it one dot of a tint.
        solid = ((together >= ANY_INK) * 255).astype("uint8")
        found[layer.name] = contours(solid, part.box, part.grid)
    return found


def grid_for(job: Faced, scale: float) -> Grid:
    """A grid with a pixel for each of the screen's, at the printer's resolution at most.

    Parameters
    ----------
    job : as one of its faces has it
    scale : pixels of the screen to the mm
    """
    dpi = scale * MM_PER_INCH
    return Grid(min(dpi, job.printer.dpi_x), min(dpi, job.printer.dpi_y))
