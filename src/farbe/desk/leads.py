"""Where a finding leads: the value that is changed when it is to go away."""

from __future__ import annotations

from collections.abc import Iterable

from farbe.checks.check import Check
from farbe.checks.weight import Weight
from farbe.desk.inspector import Inspector

#: Names of values at a finding's station, by its code; the first that the job has is meant.
LEADS: dict[str, tuple[str, ...]] = {
    # the piece
    "facts-guessed": ("Outline", "Width", "Material"),
    "wrap": ("Near diameter",),
    "level-the-body": ("Near diameter",),
    "relief-over-height": ("Relief",),
    "relief-over-gap": ("Relief",),
    "piece-too-high": ("Height",),
    "not-clear": ("Material",),
    "mirroring": ("Read from: the face",),
    "cannot-be-read": ("Job name",),
    # the bed
    "rollers-hold-a-row": ("Rows",),
    "along-the-rollers": ("Pieces lie",),
    "height-of-body": ("Gap along",),
    "outside-bed": ("First pocket x",),
    "outside-board": ("First pocket x",),
    "bleed-overlaps": ("Gap across", "Gap on the film"),
    "no-pockets": ("Switch off", "Film width"),
    "pockets-missing": ("Columns",),
    "pockets-empty": ("Artwork of this pocket", "Columns"),
    "change-idle": ("Print as all do",),
    "guide-for-other-side": ("Turned over",),
    # artwork on its piece
    "no-artwork": ("Artwork fit",),
    "size-not-stated": ("Artwork width", "Artwork scale"),
    "artwork-off-piece": ("Artwork right",),
    "artwork-resized": ("Artwork fit",),
    "few-pixels": ("Artwork scale",),
    "short-of-bleed": ("Bleed", "Bleed on the film"),
    "short-of-edge": ("Printable margin",),
    "cut-off": ("Artwork fit",),
    # text
    "text-column": ("Text",),
    "text-font": ("Text face",),
    "text-ink": ("Text ink",),
    "text-letters": ("Text face",),
    "text-wide": ("Text too wide",),
    "text-small": ("Text size",),
    "text-outside": ("Text x",),
    "text-tall": ("Text height",),
    "rows-over": ("Choose a table…",),
    "rows-missing": ("Choose a table…",),
    # guide, marks, correction
    "kerb-on-neighbour": ("Kerb width",),
    "number-on-neighbour": ("Numbers",),
    "notch-on-neighbour": ("Finger notch",),
    "kerb-without-varnish": ("Guide style",),
    "marks-on-neighbour": ("Trim mark length",),
    "label-on-pocket": ("Job label",),
    "corrected": ("Correction moves",),
    "correction-wild": ("Remove the row",),
    "correction-unclear": ("Correction terms",),
    # film
    "not-on-film": ("Laid on the film",),
    "beyond-film": ("Artwork on film x",),
    "artworks-meet": ("Gap on the film",),
    "film-too-wide": ("Film width",),
    "several-sheets": ("Longest sheet",),
    "sheet-too-long": ("Longest sheet",),
    "nothing-to-cut": ("Cut apart",),
    "cuts-cross": ("Cut beyond the ink",),
    "side-b-missing": ("Film printed on",),
    "sides-differ": ("Film printed on",),
    "garments-without-transfer": ("Add a garment",),
    # layers
    "plate-unknown": ("What it is for",),
    "plate-guessed": ("Profile of the artwork",),
    "plate-not-printed": ("Source",),
    "plate-knocked-out": ("Source",),
    "file-incomplete": ("Profile of the artwork",),
    "profile-unusable": ("Profile of the artwork",),
    "white-not-printed": ("Source",),
    "colour-vanishes": ("Source",),
    "colour-bare": ("Source",),
    "white-hides-colour": ("Source",),
    "colour-hidden": ("Source",),
    "ink-looks-out": ("Choke", "Add a treatment"),
    "soft-edges": ("Add a treatment",),
    "varnish-under": ("Source",),
    "ink-over-total": ("Sum of the inks",),
    "film-too-thick": ("Hits",),
    "strokes-fine": ("Choke leaves strokes at least", "Choke", "Add a treatment"),
    "gaps-fine": ("Choke", "Add a treatment"),
    "ink-beyond": ("Source",),
    "like-surface": ("Profile of the artwork",),
    "shows-through": ("Hits",),
    "garment-needs-white": ("Source",),
    "garment-shows": ("Source",),
    "no-layers": ("Source",),
    "ink-missing": ("Named ink", "Source"),
    "choke-zero": ("Choke", "Add a treatment"),
    "dots-choked": ("Choke", "Add a treatment"),
    "white-on-white": ("Source",),
    "holes-touch": ("See through: size",),
    "much-open": ("See through: size",),
    "open-share": ("See-through holes",),
    # the run
    "separate-runs-long": ("Runs",),
    "check-failed": ("Runs",),
}


def worst_of_things(inspector: Inspector, checks: Iterable[Check]) -> dict[str, Weight]:
    """The worst finding of each thing of an inspector, but for notes and what is accepted.

    Parameters
    ----------
    inspector : of a station
    checks : found there, the worst first
    """
    worst: dict[str, Weight] = {}
    for check in checks:
        if check.weight is Weight.NOTE or check.accepted:
            continue
        thing = inspector.thing_named(check.about) if check.about else None
        if thing is None:
            field = inspector.first_of(LEADS.get(check.code, ()))
            thing = inspector.holding(field) if field is not None else None
        if thing is not None:
            worst.setdefault(thing.name, check.weight)
    return worst
