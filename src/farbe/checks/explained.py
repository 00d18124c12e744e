"""What findings mean for the print, and what is done about them.

The operator's guide and the line of checks tell it.
"""

from __future__ import annotations

#: By code: why it matters, and what to do.
EXPLAINED: dict[str, tuple[str, str]] = {
    # what is known
    "facts-guessed": (
        "Size, surface or number were guessed from the artwork, and prints follow the guess.",
        "State them at Piece and Bed; what is stated is no guess any more.",
    ),
    "file-incomplete": (
        "The file wants type or pictures that it does not bring, so something else is drawn.",
        "Ask for a file with its type and pictures in it, or with type as outlines.",
    ),
    "size-not-stated": (
        "A picture without a resolution could be meant at any size.",
        "Type its width at Bed, Artwork, or accept the size that is assumed.",
    ),
    "plate-unknown": (
        "A plate of the file has a name that tells nothing: it could be white or a cut line.",
        "Answer the question at the top of Layers.",
    ),
    "plate-guessed": (
        "Plates were taken for white, varnish or the like by their names alone.",
        "Look at Layers, Artwork whether that is right.",
    ),
    "plate-not-printed": (
        "A plate is ink, and no layer lays it down: that part of the artwork is missing.",
        "Add a layer that comes from this plate, or say that it is for nothing.",
    ),
    "plate-knocked-out": (
        "The designer's white or varnish has holes under what lies above it: colour stands bare.",
        "Take the plate whole at Layers, Artwork, or accept it if it is meant.",
    ),
    "profile-unusable": (
        "The profile in the file is for other pixels, so colours are a guess.",
        "Choose the right profile at Layers, Artwork.",
    ),
    "cannot-be-read": (
        "A file of the job cannot be read any more, so nothing is known of its print.",
        "Replace it at the tray, or take it out.",
    ),
    # the piece
    "piece-too-high": (
        "The head would strike the piece.",
        "Choose a printer that takes it, or measure the piece again.",
    ),
    "relief-over-height": (
        "The surface cannot fall by more than the piece is high.",
        "Measure height and relief again.",
    ),
    "relief-over-gap": (
        "Drops fly further into the low places and miss their mark.",
        "Print with a slow carriage, and expect soft detail there.",
    ),
    "not-clear": (
        "Nobody can look through a piece that is not clear.",
        "Say that the surface is clear, or choose one reader.",
    ),
    "mirroring": (
        "Says whether the print is mirrored, and why.",
        "Nothing, if a reader stands where it says.",
    ),
    "wrap": (
        "Says how far the print goes around the body, and whether its ends meet.",
        "Make the artwork narrower, or leave a seam, where the ends overlap.",
    ),
    "height-of-body": (
        "The height of a body is at least its thickness: the head would strike it.",
        "Take the height that is offered.",
    ),
    "level-the-body": (
        "A tapered body must lie with its upper line level, or one end is out of reach.",
        "Raise its thin end by what it says.",
    ),
    "rollers-hold-a-row": (
        "A pair of rollers turns one row of bodies.",
        "Set one row at Bed, Jig.",
    ),
    "along-the-rollers": (
        "The rollers turn the body along the bed, so a print that lies upright comes out turned.",
        "Let pieces lie as they are offered.",
    ),
    # the bed
    "outside-bed": (
        "A part of these pockets is where the head cannot print.",
        "Move the grid, or switch them off.",
    ),
    "outside-board": (
        "These pockets have no board under them.",
        "Move the grid, or state a larger board.",
    ),
    "no-pockets": ("Nothing prints while all pockets are off.", "Switch some on with X."),
    "pockets-missing": (
        "Fewer pockets than pieces are wanted: the rest needs another run.",
        "Print again, or fill the board with more pockets.",
    ),
    "pockets-empty": (
        "These pieces lie in their pockets and get no print.",
        "Raise a quantity, or switch the pockets off.",
    ),
    "change-idle": (
        "Something was set apart for a pocket that is not printed.",
        "Forget it with Print as all do, or switch the pocket on.",
    ),
    "bleed-overlaps": (
        "What is printed beyond one piece lands on the next.",
        "Less bleed, or wider gaps.",
    ),
    "guide-for-other-side": (
        "Turned over, the outline is its mirror image and does not fit the first guide.",
        "Print or cut the second guide, too.",
    ),
    "kerb-without-varnish": (
        "A raised kerb is built of varnish, which this printer has not.",
        "Show pockets by outlines, or choose another printer.",
    ),
    "kerb-on-neighbour": (
        "The kerb of one pocket is built where the next piece lies.",
        "A narrower kerb, or wider gaps.",
    ),
    "number-on-neighbour": (
        "The number of a pocket is printed onto the next piece.",
        "Wider gaps, or a guide without numbers.",
    ),
    "notch-on-neighbour": (
        "The notch for a finger is cut into the next pocket.",
        "A smaller notch, or wider gaps.",
    ),
    "marks-on-neighbour": (
        "Trim marks are printed onto the next piece.",
        "Shorter marks, or wider gaps.",
    ),
    "label-on-pocket": (
        "The job's label is printed onto a piece.",
        "Smaller capitals, or move the grid.",
    ),
    "corrected": ("The artwork follows where pockets were measured.", "Nothing."),
    "correction-wild": (
        "One measured pocket does not go with the others: it was measured or typed wrongly.",
        "Measure it again, or remove it.",
    ),
    "correction-unclear": (
        "Too few pockets were measured for what is to be corrected.",
        "Measure more, further apart, or correct the place alone.",
    ),
    # artwork on its piece
    "no-artwork": ("There is nothing to print.", "Drop a picture on the window."),
    "artwork-off-piece": (
        "The artwork lies beside its piece, so nothing prints.",
        "Align it at Bed, Artwork.",
    ),
    "artwork-resized": (
        "The artwork prints at another size than its file states.",
        "Set Size to its own, if the file is right.",
    ),
    "few-pixels": (
        "Edges will look stepped or soft.",
        "Ask for a larger file or a drawing, or print it smaller.",
    ),
    "short-of-bleed": (
        "A piece that lies off by a hair shows a bare rim on one side.",
        "Enlarge the artwork to the bleed, or let it fill the piece.",
    ),
    "short-of-edge": (
        "A rim this narrow looks uneven as soon as a piece lies off.",
        "Take the artwork over the edge, or keep it further in.",
    ),
    "cut-off": (
        "A part of the artwork is not on the piece.",
        "Let it fit, or move it.",
    ),
    "like-surface": (
        "Ink of the surface's colour is not seen.",
        "Another colour, or another surface; accept it if it is meant.",
    ),
    # text
    "text-column": (
        "The text asks for a column that the table lacks, so nothing stands there.",
        "Mend the name in the braces, or choose another table.",
    ),
    "text-font": ("No font file is chosen.", "Choose one, or a shipped face."),
    "text-ink": (
        "Type in an ink of its own needs a layer that prints this ink.",
        "Add the layer, or choose another ink.",
    ),
    "text-letters": (
        "The font lacks letters of a name: they would be missing in print.",
        "Choose a font that has them.",
    ),
    "text-wide": (
        "The words are wider than their box.",
        "Let them shrink, or make the box wider.",
    ),
    "text-small": (
        "Type of this size fills in and cannot be read.",
        "Larger capitals, or fewer words.",
    ),
    "text-outside": ("A part of the words is off the piece.", "Move the box."),
    "text-tall": (
        "Accents or tails reach over the box.",
        "A higher box, or smaller type.",
    ),
    "rows-over": (
        "The table has more rows than there are pockets: the last ones are not printed.",
        "Print the rest in another run.",
    ),
    "rows-missing": (
        "The table has fewer rows than there are pockets: the last ones get no text.",
        "Switch these pockets off, or add rows.",
    ),
    # film
    "not-on-film": (
        "Not all that is wanted lies on the film, or more of it than is wanted.",
        "Nest anew, or change the quantities.",
    ),
    "beyond-film": (
        "The margins of a film are not printed.",
        "Move these artworks, or nest anew.",
    ),
    "artworks-meet": (
        "Two artworks print over each other.",
        "Move one, or nest anew.",
    ),
    "film-too-wide": (
        "The film does not go into the printer.",
        "Load narrower film, or choose another printer.",
    ),
    "several-sheets": (
        "All of it does not fit on one sheet; each sheet is a hand-off of its own.",
        "Nothing, or allow a longer sheet.",
    ),
    "sheet-too-long": (
        "Sheets this long lose their register or are not taken.",
        "Nest anew, allow a longer one, or print less at once.",
    ),
    "nothing-to-cut": (
        "An artwork that covers nothing has no outline to cut along.",
        "Take it off the film, or cut around rectangles.",
    ),
    "cuts-cross": (
        "The knife would run into the next artwork.",
        "A wider gap, or cut closer to the ink.",
    ),
    "side-b-missing": (
        "A pair without a side B has a blank back.",
        "Raise a quantity on the other side.",
    ),
    "sides-differ": (
        "The two sides of a pair are cut together and must be of one size.",
        "Make them alike.",
    ),
    "garments-without-transfer": (
        "More garments are ordered than transfers are printed.",
        "Raise a quantity.",
    ),
    "garment-needs-white": (
        "On these garments the colour vanishes without white.",
        "Print a sheet with white for them.",
    ),
    "garment-shows": (
        "Through thin white these garments change the colours.",
        "A sheet of its own, or more hits of white.",
    ),
    # layers
    "no-layers": ("Nothing prints while all layers are off.", "Switch one on, or add one."),
    "ink-missing": (
        "The printer lacks the ink of a layer.",
        "Switch the layer off, or choose another printer.",
    ),
    "white-not-printed": (
        "What is white in the artwork is bare surface in print.",
        "Add white, choke it less, or keep fine strokes with At least.",
    ),
    "colour-vanishes": (
        "Process ink is clear: on this surface it is hardly seen without white.",
        "Add white under it.",
    ),
    "colour-bare": (
        "A part of the colour has no white behind it and is hardly seen.",
        "Choke white less there, or let it come from more of the artwork.",
    ),
    "white-hides-colour": (
        "The reader looks at white and sees no colour.",
        "Swap the two layers, or turn the reader.",
    ),
    "colour-hidden": (
        "A layer lies before the colour and hides a part of it.",
        "Move it behind the colour, or accept it.",
    ),
    "ink-looks-out": (
        "At the machine's misregister a rim of white or varnish shows beside the colour.",
        "Choke the layer by as much, or take its shift or spread off.",
    ),
    "choke-zero": (
        "White that reaches the colour's edge shows at the least misregister.",
        "Choke it by the misregister, usually 0.1 mm.",
    ),
    "dots-choked": (
        "Dots that are choked afterwards mostly vanish, and half tones with them.",
        "Choke first, then turn into dots.",
    ),
    "white-on-white": (
        "White on white is seen by nobody and costs ink.",
        "Leave it out, unless the surface must be covered.",
    ),
    "soft-edges": (
        "Thin white holds no powder: edges of the transfer peel or look grey.",
        "Harden white, or turn soft edges into dots.",
    ),
    "varnish-under": (
        "Varnish under another layer neither shines nor is felt.",
        "Move it to the outside.",
    ),
    "ink-over-total": (
        "So much process ink does not cure or dry.",
        "Lower the sum of the inks, or raise the job's limit if the printer bears it.",
    ),
    "film-too-thick": (
        "All layers together are thicker than the printer cures.",
        "Fewer hits, or another mode.",
    ),
    "strokes-fine": (
        "Strokes finer than the ink prints break up.",
        "Draw them wider, print larger, or say at Run, Printer what it prints.",
    ),
    "gaps-fine": (
        "Gaps finer than the ink prints fill in.",
        "Draw them wider, or print larger.",
    ),
    "ink-beyond": (
        "A layer floods the piece where there is no artwork.",
        "Choose another source, or say that it is meant.",
    ),
    "shows-through": (
        "Against the light each artwork shows through the other.",
        "Add blackout between them.",
    ),
    "holes-touch": (
        "Holes that touch leave no ink between them.",
        "Smaller holes, or a wider spacing.",
    ),
    "much-open": (
        "So many holes leave little to read.",
        "Smaller holes, or a wider spacing.",
    ),
    "open-share": ("Says how much of the piece can be looked through.", "Nothing."),
    # the run
    "separate-runs-long": (
        "From run to run long work creeps, and layers no longer meet.",
        "Print it in one run.",
    ),
    "check-failed": (
        "A check itself failed, so nobody looked at this.",
        "Save a report for us; look at the proof yourself.",
    ),
}
