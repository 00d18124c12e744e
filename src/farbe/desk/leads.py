"""Where a finding leads: the value that is changed when it is to go away."""

from __future__ import annotations

from collections.abc import Iterable

from farbe.checks.check import Check
from farbe.checks.weight import Weight
from farbe.desk.inspector import Inspector
from farbe.plan.sentence import READ_FROM_THE_FACE
from farbe.said import inside, say

#: Names of values at a finding's station, by its code; the first that the job has is meant.
LEADS: dict[str, tuple[str, ...]] = {
    # the piece
    "facts-guessed": (say("Outline"), say("Width"), say("Material")),
    "wrap": (say("Near diameter"),),
    "level-the-body": (say("Near diameter"),),
    "relief-over-height": (say("Relief"),),
    "relief-over-gap": (say("Relief"),),
    "piece-too-high": (say("Height"),),
    "not-clear": (say("Material"),),
    "mirroring": (READ_FROM_THE_FACE,),
    "cannot-be-read": (say("Job name"),),
    # the bed
    "rollers-hold-a-row": (say("Rows"),),
    "along-the-rollers": (say("Pieces lie"),),
    "print-off-body": (say("Printed zone"),),
    "length-of-body": (say("Body length"),),
    "bodies-meet": (say("Gap across"),),
    "bodies-beyond-rollers": (say("Columns"),),
    "height-of-body": (say("Height"),),
    "outside-bed": (say("First pocket x"),),
    "outside-board": (say("First pocket x"),),
    "bleed-overlaps": (say("Gap across"), say("Gap on the film")),
    "pockets-overlap": (say("Places of pockets"),),
    "pocket-in-keep-out": (say("Places of pockets"),),
    "piece-not-its-pocket": (say("Pockets that the pieces lie in"),),
    "turned-on-rollers": (say("Places of pockets"),),
    "jig-moved": (say("First pocket x"), say("Places of pockets")),
    "no-pockets": (say("Switch off"), say("Film width")),
    "no-prints": (
        say("Overlap of parts"),
        say("Load of parts that is shown"),
        say("Load that is shown"),
        say("Film width"),
        say("Columns"),
    ),
    "pockets-missing": (say("Columns"),),
    "pockets-empty": (say("Artwork of this pocket"), say("Columns")),
    "change-idle": (say("Print as all do"),),
    "guide-for-other-side": (say("Turned over"),),
    # artwork on its piece
    "no-artwork": (say("Artwork fit"),),
    "size-not-stated": (say("Artwork width"), say("Artwork scale")),
    "artwork-off-piece": (say("Artwork right"),),
    "artwork-resized": (say("Artwork fit"),),
    "few-pixels": (say("Artwork scale"),),
    "short-of-bleed": (say("Bleed"), say("Bleed on the film")),
    "short-of-edge": (say("Printable margin"),),
    "cut-off": (say("Artwork fit"),),
    # text
    "text-column": (say("Text"),),
    "text-font": (say("Text face"),),
    "text-ink": (say("Text ink"),),
    "text-letters": (say("Text face"),),
    "text-wide": (say("Text too wide"),),
    "text-small": (say("Text size"),),
    "text-outside": (say("Text x"),),
    "text-tall": (say("Text height"),),
    "code-words": (say("Shown as"),),
    "code-fine": (say("Text width"),),
    "code-quiet": (say("Text x"),),
    "rows-without-artwork": (say("Artwork from column"),),
    "part-empty": (say("Overlap of parts"),),
    "parts-over": (say("Load of parts that is shown"),),
    "rows-over": (say("Choose a table…"),),
    "rows-missing": (say("Choose a table…"),),
    # guide, marks, correction
    "kerb-on-neighbour": (say("Kerb width"),),
    "number-on-neighbour": (say("Numbers"),),
    "no-finger-notch": (say("Finger notch"),),
    "cut-lines-cross": (say("Clearance"),),
    "kerb-without-varnish": (say("Guide style"),),
    "marks-on-neighbour": (say("Trim mark length"),),
    "label-on-pocket": (say("Job label"),),
    "strip-not-printed": (say("Control strip"),),
    "strip-off-board": (say("Control strip"),),
    "strip-reads-through": (say("Control strip"),),
    "corrected": (say("Correction moves"),),
    "correction-wild": (say("Remove the row"),),
    "correction-unclear": (say("Correction terms"),),
    # film
    "not-on-film": (say("Laid on the film"),),
    "beyond-film": (say("Artwork on film {axis}", axis="x"),),
    "artworks-meet": (say("Gap on the film"),),
    "nearer-than-gap": (say("Gap on the film"),),
    "film-too-wide": (say("Film width"),),
    "several-sheets": (say("Longest sheet"),),
    "sheet-too-long": (say("Longest sheet"),),
    "nothing-to-cut": (say("Cut apart"),),
    "cuts-cross": (say("Cut beyond the ink"),),
    "side-b-missing": (say("Film printed on"),),
    "sides-differ": (say("Film printed on"),),
    "garments-without-transfer": (say("Add a garment"),),
    # layers
    "plate-unknown": (say("What it is for"),),
    "plate-guessed": (say("Profile of the artwork"),),
    "plate-not-printed": (say("Source"),),
    "plate-knocked-out": (say("Source"),),
    "file-incomplete": (say("Profile of the artwork"),),
    "profile-unusable": (say("Profile of the artwork"),),
    "white-not-printed": (say("Source"),),
    "colour-vanishes": (say("Source"),),
    "colour-bare": (say("Source"),),
    "white-hides-colour": (say("Source"),),
    "colour-hidden": (say("Source"),),
    "ink-looks-out": (say("Choke"), say("Add a treatment")),
    "soft-edges": (say("Add a treatment"),),
    "varnish-under": (say("Source"),),
    "ink-over-total": (say("Sum of the inks"),),
    "film-too-thick": (say("Hits"),),
    "strokes-fine": (say("Choke leaves strokes at least"), say("Choke"), say("Add a treatment")),
    "gaps-fine": (say("Choke"), say("Add a treatment")),
    "ink-beyond": (say("Source"),),
    "like-surface": (say("Profile of the artwork"),),
    "shows-through": (say("Hits"),),
    "garment-needs-white": (say("Source"),),
    "garment-shows": (say("Source"),),
    "no-layers": (say("Source"),),
    "ink-missing": (say("Named ink"), say("Source")),
    "choke-zero": (say("Choke"), say("Add a treatment")),
    "dots-choked": (say("Choke"), say("Add a treatment")),
    "white-on-white": (say("Source"),),
    "holes-touch": (f"{say('See through')}: {inside(say('Size'))}",),
    "much-open": (f"{say('See through')}: {inside(say('Size'))}",),
    "open-share": (say("See-through holes"),),
    # the run
    "separate-runs-long": (say("Runs"),),
    "no-files": (say("File formats"),),
    "check-failed": (say("Runs"),),
    "brand-colour-off": (say("Profile of the artwork"),),
    "condition-missing": (say("Conditions"),),
    "condition-estimated": (say("Conditions"),),
    "condition-drifted": (say("Conditions"),),
}


def worst_of_things(inspector: Inspector, checks: Iterable[Check]) -> dict[str, Weight]:
    """The worst finding of each thing of an inspector, but for notes and what is accepted.

    Parameters
    ----------
    inspector : of a station
    checks : found there, the worst first
    """
    worst: dict[str, Weight] = {}
    told = [one for one in checks if one.weight is not Weight.NOTE and not one.accepted]
    values = inspector.values() if told else {}
    for check in told:
        thing = inspector.thing_named(check.about) if check.about else None
        if thing is None:
            field = inspector.first_of(LEADS.get(check.code, ()), values)
            thing = inspector.holding(field) if field is not None else None
        if thing is not None:
            worst.setdefault(thing.name, check.weight)
    return worst
