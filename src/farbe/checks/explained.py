"""What findings mean for the print, and what is done about them.

The operator's guide and the line of checks tell it.
"""

from __future__ import annotations

from farbe.said import say

#: By code: why it matters, and what to do.
EXPLAINED: dict[str, tuple[str, str]] = {
    # what is known
    "facts-guessed": (
        say("Size, surface or number were guessed from the artwork, and prints follow the guess."),
        say("State them at Piece and Bed; what is stated is no guess any more."),
    ),
    "file-incomplete": (
        say("The file wants type or pictures that it does not bring, so something else is drawn."),
        say("Ask for a file with its type and pictures in it, or with type as outlines."),
    ),
    "size-not-stated": (
        say("A picture without a resolution could be meant at any size."),
        say("Type its width at Bed, Artwork, or accept the size that is assumed."),
    ),
    "plate-unknown": (
        say("A plate of the file has a name that tells nothing: it could be white or a cut line."),
        say("Answer the question at the top of Layers."),
    ),
    "plate-guessed": (
        say("Plates were taken for white, varnish or the like by their names alone."),
        say("Look at Layers, Artwork whether that is right."),
    ),
    "plate-not-printed": (
        say("A plate is ink, and no layer lays it down: that part of the artwork is missing."),
        say("Add a layer that comes from this plate, or say that it is for nothing."),
    ),
    "plate-knocked-out": (
        say(
            "The designer's white or varnish has holes under what lies above it: colour "
            "stands bare."
        ),
        say("Take the plate whole at Layers, Artwork, or accept it if it is meant."),
    ),
    "profile-unusable": (
        say("The profile in the file is for other pixels, so colours are a guess."),
        say("Choose the right profile at Layers, Artwork."),
    ),
    "cannot-be-read": (
        say("A file of the job cannot be read any more, so nothing is known of its print."),
        say("Replace it at the tray, or take it out."),
    ),
    # the piece
    "piece-too-high": (
        say("The head would strike the piece."),
        say("Choose a printer that takes it, or measure the piece again."),
    ),
    "relief-over-height": (
        say("The surface cannot fall by more than the piece is high."),
        say("Measure height and relief again."),
    ),
    "relief-over-gap": (
        say("Drops fly further into the low places and miss their mark."),
        say("Print with a slow carriage, and expect soft detail there."),
    ),
    "not-clear": (
        say("Nobody can look through a piece that is not clear."),
        say("Say that the surface is clear, or choose one reader."),
    ),
    "mirroring": (
        say("Says whether the print is mirrored, and why."),
        say("Nothing, if a reader stands where it says."),
    ),
    "wrap": (
        say("Says how far the print goes around the body, and whether its ends meet."),
        say("Make the artwork narrower, or leave a seam, where the ends overlap."),
    ),
    "print-off-body": (
        say("The print reaches beyond the end of the body."),
        say("Print less of it, or state length and base as they were measured."),
    ),
    "length-of-body": (
        say("Bodies are longer than their prints; nobody said by how much."),
        say("Measure one, and state its length and how far its print is from the base."),
    ),
    "bodies-meet": (
        say("Bodies that touch on the rollers rub, climb, or do not turn."),
        say("A wider gap."),
    ),
    "bodies-beyond-rollers": (
        say("A body that sticks out over the end of its rollers tips."),
        say("Fewer bodies, or a smaller gap."),
    ),
    "height-of-body": (
        say("The height of a body is at least its thickness: the head would strike it."),
        say("Take the height that is offered."),
    ),
    "level-the-body": (
        say("A tapered body must lie with its upper line level, or one end is out of reach."),
        say("Raise its thin end by what it says."),
    ),
    "rollers-hold-a-row": (
        say("A pair of rollers turns one row of bodies."),
        say("Set one row at Bed, Jig."),
    ),
    "along-the-rollers": (
        say(
            "The rollers turn the body along the bed, so a print that lies upright comes "
            "out turned."
        ),
        say("Let pieces lie as they are offered."),
    ),
    # the bed
    "outside-bed": (
        say("A part of these pockets is where the head cannot print."),
        say("Move the grid, or switch them off."),
    ),
    "outside-board": (
        say("These pockets have no board under them."),
        say("Move the grid, or state a larger board."),
    ),
    "no-pockets": (say("Nothing prints while all pockets are off."), say("Switch some on with X.")),
    "no-prints": (
        say("Pieces lie there, and none of them gets a print."),
        say("Raise a quantity, choose another load, or lay parts of the artwork out anew."),
    ),
    "pockets-missing": (
        say("Fewer pockets than pieces are wanted: the rest needs another run."),
        say("Print again, or fill the board with more pockets."),
    ),
    "pockets-empty": (
        say("These pieces lie in their pockets and get no print."),
        say("Raise a quantity, or switch the pockets off."),
    ),
    "change-idle": (
        say("Something was set apart for a pocket that is not printed."),
        say("Forget it with Print as all do, or switch the pocket on."),
    ),
    "rows-without-artwork": (
        say("These pockets would stay without their picture."),
        say("Add the files at Bed, Text, Table, or mend the names in the table."),
    ),
    "code-words": (
        say("A code of this kind has no way to say this text, so nothing would be printed."),
        say("Choose another kind of code at Bed, Text, or mend the text."),
    ),
    "code-fine": (
        say("Readers need modules of some width, and ink spreads."),
        say("Make the code's box larger, or its text shorter."),
    ),
    "code-quiet": (
        say("Readers find a code by the quiet zone around it."),
        say("Move the code or what lies in its quiet zone."),
    ),
    "pockets-overlap": (
        say("Two pieces cannot lie in the same place."),
        say("Move or turn one of them at Bed, Places, or switch it off."),
    ),
    "pocket-in-keep-out": (
        say("A clamp or a pin is where the piece is to lie."),
        say("Move the pocket or the keep-out, or switch the pocket off."),
    ),
    "piece-not-its-pocket": (
        say("The piece may not go into the pockets, or slides about in them."),
        say("Choose the pockets that were made for it, or take their shape for the piece."),
    ),
    "turned-on-rollers": (
        say("Rollers turn bodies about one axis; one that lies askew is not turned at all."),
        say("Set its turn to 0 at Bed, Places."),
    ),
    "jig-moved": (
        say("Pieces are laid by a guide that was made before the pockets were moved."),
        say("Put the jig back where the guide has it, or print or cut the guide anew."),
    ),
    "bleed-overlaps": (
        say("What is printed beyond one piece lands on the next."),
        say("Less bleed, or wider gaps."),
    ),
    "guide-for-other-side": (
        say("Turned over, the outline is its mirror image and does not fit the first guide."),
        say("Print or cut the second guide, too."),
    ),
    "kerb-without-varnish": (
        say("A raised kerb is built of varnish, which this printer has not."),
        say("Show pockets by outlines, or choose another printer."),
    ),
    "kerb-on-neighbour": (
        say("The kerb of one pocket is built where the next piece lies."),
        say("A narrower kerb, or wider gaps."),
    ),
    "number-on-neighbour": (
        say("The number of a pocket is printed onto the next piece."),
        say("Wider gaps, or a guide without numbers."),
    ),
    "no-finger-notch": (
        say("Without a notch a piece is hard to take out of a cut jig."),
        say("A smaller or less deep notch, other sides, or wider gaps."),
    ),
    "cut-lines-cross": (
        say("A cutter would cut through the material between two pockets."),
        say("Less clearance, or wider gaps."),
    ),
    "marks-on-neighbour": (
        say("Trim marks are printed onto the next piece."),
        say("Shorter marks, or wider gaps."),
    ),
    "label-on-pocket": (
        say("The job's label is printed onto a piece."),
        say("Smaller capitals, or move the grid."),
    ),
    "strip-not-printed": (
        say("The control strip that is wanted cannot be laid anywhere."),
        say("Switch off a pocket in its favour, or no strip."),
    ),
    "strip-off-board": (
        say("There is no room for the control strip on the board; it would soil the bed."),
        say("Lay an off-cut there, or a larger board."),
    ),
    "strip-reads-through": (
        say("The strip shows its colours only through the clear material."),
        say("Lay an off-cut of the pieces' material under it."),
    ),
    "corrected": (say("The artwork follows where pockets were measured."), say("Nothing.")),
    "correction-wild": (
        say("One measured pocket does not go with the others: it was measured or typed wrongly."),
        say("Measure it again, or remove it."),
    ),
    "correction-unclear": (
        say("Too few pockets were measured for what is to be corrected."),
        say("Measure more, further apart, or correct the place alone."),
    ),
    # artwork on its piece
    "no-artwork": (say("There is nothing to print."), say("Drop a picture on the window.")),
    "part-empty": (
        say("A part of an artwork is empty; its pocket is filled for nothing."),
        say("Nothing, or leave that pocket empty."),
    ),
    "artwork-off-piece": (
        say("The artwork lies beside its piece, so nothing prints."),
        say("Align it at Bed, Artwork."),
    ),
    "artwork-resized": (
        say("The artwork prints at another size than its file states."),
        say("Set Size to its own, if the file is right."),
    ),
    "few-pixels": (
        say("Edges will look stepped or soft."),
        say("Ask for a larger file or a drawing, or print it smaller."),
    ),
    "short-of-bleed": (
        say("A piece that lies off by a hair shows a bare rim on one side."),
        say("Enlarge the artwork to the bleed, or let it fill the piece."),
    ),
    "short-of-edge": (
        say("A rim this narrow looks uneven as soon as a piece lies off."),
        say("Take the artwork over the edge, or keep it further in."),
    ),
    "cut-off": (
        say("A part of the artwork is not on the piece."),
        say("Let it fit, or move it."),
    ),
    "like-surface": (
        say("Ink of the surface's colour is not seen."),
        say("Another colour, or another surface; accept it if it is meant."),
    ),
    # text
    "text-column": (
        say("The text asks for a column that the table lacks, so nothing stands there."),
        say("Mend the name in the braces, or choose another table."),
    ),
    "text-font": (say("No font file is chosen."), say("Choose one, or a shipped face.")),
    "text-ink": (
        say("Type in an ink of its own needs a layer that prints this ink."),
        say("Add the layer, or choose another ink."),
    ),
    "text-letters": (
        say("The font lacks letters of a name: they would be missing in print."),
        say("Choose a font that has them."),
    ),
    "text-wide": (
        say("The words are wider than their box."),
        say("Let them shrink, or make the box wider."),
    ),
    "text-small": (
        say("Type of this size fills in and cannot be read."),
        say("Larger capitals, or fewer words."),
    ),
    "text-outside": (say("A part of the words is off the piece."), say("Move the box.")),
    "text-tall": (
        say("Accents or tails reach over the box."),
        say("A higher box, or smaller type."),
    ),
    "parts-over": (
        say("The artwork has more parts than the board has pockets."),
        say("Add the job to the queue, which prints all loads, or choose the load that is shown."),
    ),
    "rows-over": (
        say("The table has more rows than there are pockets: the last ones are not printed."),
        say("Print the rest in another run."),
    ),
    "rows-missing": (
        say("The table has fewer rows than there are pockets: the last ones get no text."),
        say("Switch these pockets off, or add rows."),
    ),
    # film
    "not-on-film": (
        say("Not all that is wanted lies on the film, or more of it than is wanted."),
        say("Nest anew, or change the quantities."),
    ),
    "beyond-film": (
        say("The margins of a film are not printed."),
        say("Move these artworks, or nest anew."),
    ),
    "artworks-meet": (
        say("Two artworks print over each other."),
        say("Move one, or nest anew."),
    ),
    "nearer-than-gap": (
        say("Two artworks are nearer to each other than the gap that was stated."),
        say("Move one, nest anew, or state a smaller gap."),
    ),
    "film-too-wide": (
        say("The film does not go into the printer."),
        say("Load narrower film, or choose another printer."),
    ),
    "several-sheets": (
        say("All of it does not fit on one sheet; each sheet is a hand-off of its own."),
        say("Nothing, or allow a longer sheet."),
    ),
    "sheet-too-long": (
        say("Sheets this long lose their register or are not taken."),
        say("Nest anew, allow a longer one, or print less at once."),
    ),
    "nothing-to-cut": (
        say("An artwork that covers nothing has no outline to cut along."),
        say("Take it off the film, or cut around rectangles."),
    ),
    "cuts-cross": (
        say("The knife would run into the next artwork."),
        say("A wider gap, or cut closer to the ink."),
    ),
    "side-b-missing": (
        say("A pair without a side B has a blank back."),
        say("Raise a quantity on the other side."),
    ),
    "sides-differ": (
        say("The two sides of a pair are cut together and must be of one size."),
        say("Make them alike."),
    ),
    "garments-without-transfer": (
        say("More garments are ordered than transfers are printed."),
        say("Raise a quantity."),
    ),
    "garment-needs-white": (
        say("On these garments the colour vanishes without white."),
        say("Print a sheet with white for them."),
    ),
    "garment-shows": (
        say("Through thin white these garments change the colours."),
        say("A sheet of its own, or more hits of white."),
    ),
    # layers
    "no-layers": (
        say("Nothing prints while all layers are off."),
        say("Switch one on, or add one."),
    ),
    "ink-missing": (
        say("The printer lacks the ink of a layer."),
        say("Switch the layer off, or choose another printer."),
    ),
    "white-not-printed": (
        say("What is white in the artwork is bare surface in print."),
        say("Add white, choke it less, or keep fine strokes with At least."),
    ),
    "colour-vanishes": (
        say("Process ink is clear: on this surface it is hardly seen without white."),
        say("Add white under it."),
    ),
    "colour-bare": (
        say("A part of the colour has no white behind it and is hardly seen."),
        say("Choke white less there, or let it come from more of the artwork."),
    ),
    "white-hides-colour": (
        say("The reader looks at white and sees no colour."),
        say("Swap the two layers, or turn the reader."),
    ),
    "colour-hidden": (
        say("A layer lies before the colour and hides a part of it."),
        say("Move it behind the colour, or accept it."),
    ),
    "ink-looks-out": (
        say("At the machine's misregister a rim of white or varnish shows beside the colour."),
        say("Choke the layer by as much, or take its shift or spread off."),
    ),
    "choke-zero": (
        say("White that reaches the colour's edge shows at the least misregister."),
        say("Choke it by the misregister, usually 0.1 mm."),
    ),
    "dots-choked": (
        say("Dots that are choked afterwards mostly vanish, and half tones with them."),
        say("Choke first, then turn into dots."),
    ),
    "white-on-white": (
        say("White on white is seen by nobody and costs ink."),
        say("Leave it out, unless the surface must be covered."),
    ),
    "soft-edges": (
        say("Thin white holds no powder: edges of the transfer peel or look grey."),
        say("Harden white, or turn soft edges into dots."),
    ),
    "varnish-under": (
        say("Varnish under another layer neither shines nor is felt."),
        say("Move it to the outside."),
    ),
    "ink-over-total": (
        say("So much process ink does not cure or dry."),
        say("Lower the sum of the inks, or raise the job's limit if the printer bears it."),
    ),
    "film-too-thick": (
        say("All layers together are thicker than the printer cures."),
        say("Fewer hits, or another mode."),
    ),
    "strokes-fine": (
        say("Strokes finer than the ink prints break up."),
        say("Draw them wider, print larger, or say at Run, Printer what it prints."),
    ),
    "gaps-fine": (
        say("Gaps finer than the ink prints fill in."),
        say("Draw them wider, or print larger."),
    ),
    "ink-beyond": (
        say("A layer floods the piece where there is no artwork."),
        say("Choose another source, or say that it is meant."),
    ),
    "shows-through": (
        say("Against the light each artwork shows through the other."),
        say("Add blackout between them."),
    ),
    "holes-touch": (
        say("Holes that touch leave no ink between them."),
        say("Smaller holes, or a wider spacing."),
    ),
    "much-open": (
        say("So many holes leave little to read."),
        say("Smaller holes, or a wider spacing."),
    ),
    "open-share": (say("Says how much of the piece can be looked through."), say("Nothing.")),
    # the run
    "no-files": (
        say("Nothing can be handed on to a receiver that takes no files."),
        say("Choose which files it takes, at Run."),
    ),
    "separate-runs-long": (
        say("From run to run long work creeps, and layers no longer meet."),
        say("Print it in one run."),
    ),
    "brand-colour-off": (
        say("The inks that a brand's colour was given do not look like it on this surface."),
        say("Match them anew, or say that the difference is allowed."),
    ),
    "condition-missing": (
        say("Profile, white and limits are those of another printer; the print will differ."),
        say("Write a chart at Run, Test prints, print it, and take its readings at Conditions."),
    ),
    "condition-estimated": (
        say("Figures that were typed in or copied are not those of this very machine."),
        say("Print a chart and take its readings at Run, Conditions."),
    ),
    "condition-drifted": (
        say("Heads, inks and lamps change, and the profile is of the day when it was made."),
        say("Print a chart and take its readings, or mend what changed and read the strip again."),
    ),
    "check-failed": (
        say("A check itself failed, so nobody looked at this."),
        say("Save a report for us; look at the proof yourself."),
    ),
}
