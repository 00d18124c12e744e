"""What a value does to the print, as its tooltip says."""

from __future__ import annotations

from farbe.said import say

#: By the value's name, without its unit.
EFFECTS: dict[str, str] = {
    # Piece
    say("Job name"): say(
        "Stands in the title, on sheets and on the label; nothing is printed of it else"
    ),
    say("Piece name"): say("How the piece is called in the job line and on sheets"),
    say("Outline"): say(
        "Where ink ends, what the pocket is shaped like, and how pieces are packed"
    ),
    say("Width"): say("How wide the piece is; its pocket and what fits on it follow"),
    say("Length"): say("How long the piece is; its pocket and what fits on it follow"),
    say("Diameter"): say("How large the piece is; its pocket and what fits on it follow"),
    say("Corner radius"): say(
        "Rounds the corners of the piece, of its pocket and of what is printed"
    ),
    say("Near diameter"): say(
        "Of the body at the near end of the print; sets how far the print goes around"
    ),
    say("Far diameter"): say("Of the body at the far end; if it differs, the print is bent to fit"),
    say("Printed zone"): say("How much of the body's length is printed"),
    say("Base to print"): say("Where the print begins, from the near end of the body"),
    say("Body length"): say("From base to rim; bodies on rollers are kept apart by it"),
    say("Rollers lift"): say(
        "How high a body's lowest line lies over the bed; the head is set to clear the body on it"
    ),
    say("Seam"): say("What is left bare between the ends of the print; below 0 they overlap"),
    say("Handle"): say("What is kept free around a handle"),
    say("Lines of the artwork run"): say("Along the body or around it"),
    say("Printed how"): say("Rolled under the head, or flat where the body allows it"),
    say("Height"): say("The head is set to pass over it"),
    say("Relief"): say("How far the surface falls; low places print softer"),
    say("Surface like"): say("Sets material and colour in one step; the proof and white follow"),
    say("Material"): say(
        "Whether light goes through, is thrown back, or sinks in; white depends on it"
    ),
    say("Surface colour"): say("What shows where no ink is, and through thin ink"),
    say("Sides"): say("Whether the other side is printed as well"),
    # Bed
    say("Lies on"): say("Pieces in pockets of a board, or artworks on film from a roll"),
    say("Pocket {words}", words=say("right")): say("Moves the print of the chosen pockets alone"),
    say("Pocket {words}", words=say("up")): say("Moves the print of the chosen pockets alone"),
    say("Pocket {words}", words=say("size")): say(
        "Prints larger or smaller in the chosen pockets alone"
    ),
    say("Pocket {words}", words=say("turn")): say("Turns the print in the chosen pockets alone"),
    say("Pocket mirrored"): say("Turns the print about in the chosen pockets alone"),
    say("Artwork of this pocket"): say("Prints another artwork in the chosen pockets"),
    say("Artwork on film {axis}", axis="x"): say("Moves the chosen artwork across the film"),
    say("Artwork on film {axis}", axis="y"): say("Moves the chosen artwork along the film"),
    say("Artwork width"): say("Prints the artwork this wide; its height follows"),
    say("Artwork height"): say("Prints the artwork this high; its width follows"),
    say("Artwork scale"): say("Prints larger or smaller on every piece"),
    say("Overlap of parts"): say("What neighbouring parts of a large artwork share"),
    say("Load of parts that is shown"): say(
        "Which filling of the board is shown; the queue gets all of them"
    ),
    say("Artwork right"): say("Moves the print on every piece"),
    say("Artwork up"): say("Moves the print on every piece"),
    say("Artwork turned"): say("Turns the print on every piece, anticlockwise"),
    say("Artwork fit"): say(
        "Its own size, as large as fits within the margin, or filling the piece"
    ),
    say("Artwork mirrored"): say(
        "Turns the artwork about; the mirroring for the reader comes on top"
    ),
    say("Printable margin"): say("Kept bare along the piece's edge"),
    say("Bleed"): say(
        "How far ink goes beyond the edge, so that none is bare if the piece lies off"
    ),
    say("Text box"): say("Which of the texts is set here"),
    say("Text x"): say("Moves the box from the piece's middle"),
    say("Text y"): say("Moves the box from the piece's middle"),
    say("Text width"): say("What is wider than its box shrinks, or is told"),
    say("Text height"): say("Accents and tails must stay within it"),
    say("Text size"): say("Height of the capitals in print"),
    say("Way to the next line"): say("Larger sets lines further apart"),
    say("Radius of the text's curve"): say(
        "Sets the line on a circle; 0 is straight, below 0 bends up"
    ),
    say("Text turned"): say("Turns the box, anticlockwise"),
    say("Text too wide"): say("What happens to words that are wider than their box"),
    say("Text face"): say("Which type the words are set in"),
    say("Text ink"): say("By process inks in its colour, or by one ink alone"),
    say("Text colour"): say("The colour that the type has in print"),
    say("Pattern"): say("Rows in line, or shifted by half: round pieces then lie closer"),
    say("Columns"): say("How many pockets lie side by side"),
    say("Rows"): say("How many rows of pockets there are"),
    say("Gap across"): say("Between pieces side by side; bleed and guide need room in it"),
    say("Gap along"): say("Between rows; bleed, guide and numbers need room in it"),
    say("Pitch across"): say("From one piece to the next; the gap follows"),
    say("Pitch along"): say("From one row to the next; the gap follows"),
    say("Notch depth, 0 for half its width"): say(
        "How far a notch reaches beyond the pocket; it stays off other pockets"
    ),
    say("Sides with a notch"): say(
        "Where fingers go in, if there is room; else at another side of the pocket"
    ),
    say("Notch shape"): say("What is cut for the finger"),
    say("Tool diameter, 0 for none"): say(
        "Corners are cut deeper, so that a round tool leaves room for sharp ones"
    ),
    say("Pocket fit"): say("Where this pocket's size comes from, if not from all"),
    say("Pocket aligned across"): say("Left, middle or right in this pocket alone"),
    say("Pocket aligned along"): say("Near, middle or far in this pocket alone"),
    say("Pocket margin"): say("What stays free along the edge in this pocket alone"),
    say("Shown as"): say("Printed as letters, or as a code that machines read"),
    say("Prints of the code"): say("Dark modules on a light piece, light ones on a dark piece"),
    say("Serial starts at"): say("The number of the first pocket where a text says {serial}"),
    say("Serial step"): say("How far the serial number counts on from pocket to pocket"),
    say("Serial digits"): say("Zeros are put before the serial number up to so many figures"),
    say("Serial prefix"): say("Stands before every serial number"),
    say("Load that is shown"): say(
        "Which rows of the table are printed: those of the first load of the board, or a later one"
    ),
    say("First pocket x"): say("Moves the whole grid from the datum"),
    say("First pocket y"): say("Moves the whole grid from the datum"),
    say("Pieces lie"): say("Turns every piece, its pocket and its print"),
    say("Jig name"): say("Stands on the board, and is what the jig is kept under"),
    say("Numbering"): say("In which order pockets are counted, and rows of a table are printed"),
    say("Only the first pockets"): say("Prints these and leaves the others empty"),
    say("Datum"): say("The corner from which all places are measured, as at the machine"),
    say("Datum x"): say("How far the datum is from the bed's corner"),
    say("Datum y"): say("How far the datum is from the bed's corner"),
    say("Board x"): say("Where the board's corner is from the datum"),
    say("Board y"): say("Where the board's corner is from the datum"),
    say("Board width"): say("How large the board is on which pieces lie"),
    say("Board length"): say("How large the board is on which pieces lie"),
    say("Board loaded"): say("Turned by half a turn, as it may lie for the second side"),
    say("Board colour"): say("Decides in which ink the guide is seen"),
    say("Keep-out {words}", words="x"): say("Where no piece may lie"),
    say("Keep-out {words}", words="y"): say("Where no piece may lie"),
    say("Keep-out {words}", words=say("width")): say("Where no piece may lie"),
    say("Keep-out {words}", words=say("length")): say("Where no piece may lie"),
    say("Keep-out {words}", words=say("diameter")): say("Where no piece may lie"),
    say("Film width"): say("Of the roll that is loaded"),
    say("Longest sheet"): say("Longer work is cut into several sheets"),
    say("Side margin"): say("Kept bare along both sides, where rollers hold the film"),
    say("Lead"): say("Kept bare at the beginning"),
    say("Trail"): say("Kept bare at the end"),
    say("Price of a metre of film"): say("Goes into the cost of each artwork"),
    say("Laid on the film"): say("By rectangles, by true shapes, or as they were dragged"),
    say("Gap on the film"): say("Between artworks, for scissors or the knife"),
    say("Turned on the film"): say("Whether artworks may be turned to take less film"),
    say("Bleed on the film"): say("How far ink goes beyond each artwork's edge"),
    say("Cut apart"): say("Around rectangles, or along the shapes"),
    say("Cut beyond the ink"): say("How far the knife stays off the ink"),
    say("Guide style"): say(
        "Lines to lay pieces in, corners of them, or a raised kerb to stop against"
    ),
    say("Guide line"): say("How thick the guide's lines are"),
    say("Tick length"): say("How long the corners of the guide are"),
    say("Kerb width"): say("How wide the raised line of varnish is"),
    say("Kerb hits"): say("How often varnish is laid down for the kerb: how high it gets"),
    say("Finger gap"): say("Left open in the kerb, so that a piece can be taken out"),
    say("Guide distance"): say("How far the guide is off the piece"),
    say("Numbers"): say("Whether pockets get numbers, and the jig its code"),
    say("Guide ink"): say("In which ink the guide is printed"),
    say("Guide quality"): say("Draft is quicker and saves ink"),
    say("Clearance"): say("How much larger than the piece a pocket is cut"),
    say("Kerf"): say("What the cutter takes away; cuts are set off by half of it"),
    say("Finger notch"): say("Cut into a pocket's edge, so that a piece can be taken out"),
    say("Printed on"): say("Whether the other side is printed as well"),
    say("Turned over"): say("Each piece in its pocket, or the board as a whole"),
    say("Turned which way"): say("Decides how the second side's print lies"),
    say("Film printed on"): say("Whether the back of the film is printed as well"),
    say("The reader turns it"): say("Decides how side B stands behind side A"),
    say("Line behind side A"): say("A line by which the printer finds side A again"),
    say("Side B to the right"): say("Moves side B onto its side A, as found after a print"),
    say("Side B up"): say("Moves side B onto its side A, as found after a print"),
    say("Side B turned"): say("Turns side B onto its side A, as found after a print"),
    say("Side B larger"): say("Stretches side B onto its side A, as found after a print"),
    say("Trim mark length"): say("How long the marks to cut by are"),
    say("Trim mark distance"): say("How far the marks stay off the piece"),
    say("Mark line"): say("How thick marks and frame are"),
    say("Trim marks"): say("Marks to cut by at the corners of each piece"),
    say("Frame line"): say("A line around each piece"),
    say("Job label"): say("Printed at the board's corner in black alone"),
    say("Label height"): say("Height of the label's capitals"),
    say("QR code"): say("The label as a code to be read by a camera"),
    say("Control strip"): say("Patches beside the pieces that tell later how far colours are off"),
    say("Correction terms"): say("What is corrected: place alone, turn, or scale as well"),
    say("Correction moves"): say("Whether the artwork follows what was measured"),
    # Layers
    say("Layer name"): say(
        "How the layer is called; the file's channel too, if the receiver takes it"
    ),
    say("Named ink"): say("Which of the printer's own inks this layer lays down"),
    say("Source"): say("What the layer's coverage comes from"),
    say("Joined with"): say("Puts a second source to the first, or takes it away"),
    say("Choke"): say("Draws the layer back from its edge, so that none shows at misregister"),
    say("Choke of holes"): say("How far it draws back from holes; empty is as outside"),
    say("Choke leaves strokes at least"): say(
        "Fine strokes keep this much, however much is choked"
    ),
    say("Hits"): say("How often the ink is laid down: more hides better, costs and takes longer"),
    say("Profile of the artwork"): say(
        "What the file's colours mean; wrong ones shift all colours"
    ),
    say("Flat graphics"): say("How far it is flat colour: chooses between the two intents"),
    say("Sum of the inks"): say(
        "The most process ink on one spot; less dries quicker, more is richer"
    ),
    say("Rendering intent"): say("How photographs' colours are brought into what inks can show"),
    say("Intent of flat graphics"): say("How flat colours are brought into what inks can show"),
    say("Black point"): say("Whether the darkest tones keep their differences"),
    say("CMYK with a profile"): say("Whether such artwork's inks are kept or worked out anew"),
    say("See-through holes"): say("Opens all layers, so that one can look out from within"),
    # Proof
    say("Side that is looked at"): say("The proof from the other side; nothing printed changes"),
    say("Surface to try"): say("The proof on another surface; nothing printed changes"),
    say("What is behind the piece"): say("What is seen through clear parts in the proof"),
    say("Wipe to"): say("Compares with something else; nothing printed changes"),
    say("Misregister across"): say("How far layers miss each other on this machine"),
    say("Misregister along"): say("How far layers miss each other on this machine"),
    say("Misregister turned"): say("How far layers are turned against each other on this machine"),
    say("Misregister scaled"): say(
        "How far layers are stretched against each other on this machine"
    ),
    say("Play of a piece"): say("How far a piece can lie off in its pocket"),
    say("Prints that may show it"): say(
        "How many of a hundred may show a rim: choke and bleed follow"
    ),
    # Run
    say("Putting in a piece"): say("Time for each piece; goes into time and cost"),
    say("Setting the height"): say("Time for each run; goes into time and cost"),
    say("Turning over a piece"): say("Time for each piece; goes into time and cost"),
    say("Turning over a board"): say("Time for each board; goes into time and cost"),
    say("Loading film"): say("Time for each sheet; goes into time and cost"),
    say("Turning film over"): say("Time for each sheet; goes into time and cost"),
    say("Cutting a piece off"): say("Time for each cut; goes into time and cost"),
    say("Readying powder and oven"): say("Time for each order; goes into time and cost"),
    say("Powder and oven for a metre"): say("Time for each metre of film; goes into time and cost"),
    say("A cycle of the press"): say("Time for each pressing; goes into time and cost"),
    say("Transfers in a cycle of the press"): say("How many garments are pressed at once"),
    say("How a TIFF says its inks"): say("How the front end learns which channel is which ink"),
    say("How channels of a TIFF lie"): say("As the front end reads them; the same ink either way"),
    say("Profile in the TIFF"): say(
        "Whether the front end learns for which inks colours were made"
    ),
    say("What a page of a PDF is"): say("The bed as it prints, or each piece for itself"),
    say("Cut lines in the PDF"): say("Whether the cutter finds its lines in the file"),
    say("Marks for the cutter"): say("By which the cutter's camera finds the print"),
    say("Pictures of the plates beside the files"): say("To look at without a front end"),
    say("Ticket for other programs"): say("The order of printing in an open exchange format"),
    say("Number of the order"): say("Stands in the queue and on sheets"),
    say("Drying time"): say("Waited between separate runs"),
    say("Length that keeps register"): say("Longer work creeps in separate runs"),
    say("Passes"): say("More lays ink down finer and takes longer"),
    say("Carriage speed"): say("Decides the time; slower is more exact"),
    say("Distance of head rows"): say("How far the carriage travels beyond the print"),
    say("Runs"): say("All layers in one trip, or a trip for each with drying between"),
    say("Whole width"): say("Whether the carriage always goes over the whole bed"),
    say("Slow carriage"): say("Hits exactly in low places, and takes longer"),
    say("Bed vacuum"): say("Holds the pieces or the film"),
    say("Both ways"): say("Prints while the carriage goes back, too: quicker, less exact"),
    say("Price of a piece"): say("Goes into the cost"),
    say("Price of an hour of work"): say("Goes into the cost"),
    say("Price of an hour of the machine"): say("Goes into the cost"),
    say("Waste"): say("Pieces that fail, added to the cost"),
    say("Margin"): say("Added to the cost; the price follows"),
    say("Folder of the receiver"): say("Where its files are put"),
    say("What it puts behind what it took"): say("By this ending Farbe sees that files were taken"),
    say("Lines an inch"): say(
        "Ruling of the screen: finer shows less grain and needs a finer printer"
    ),
    say("Angle of the screen"): say("How the screen's dots are turned"),
    say("File formats"): say("Which files a hand-off holds"),
    say("What a TIFF holds"): say("All inks, or a file for each layer"),
    say("TIFF compression"): say("Smaller files take longer to write"),
    say("What means solid"): say("Wrong way round prints a negative"),
    say("Mirroring by"): say("Twice mirrored reads wrong: only one of both may do it"),
    say("What the printer is driven by"): say(
        "The test press, or a folder that a front end watches"
    ),
    say("What it finds there"): say("What is put into its folder"),
    say("Samples of a TIFF"): say("Tones for a front end that screens, or dots that are ready"),
    say("Printer name"): say("How the printer is called in the queue and on sheets"),
    say("Bed width"): say("What the head reaches"),
    say("Bed length"): say("What the head reaches"),
    say("Resolution across"): say("Pixels that the plates are made with"),
    say("Resolution along"): say("Pixels that the plates are made with"),
    say("Highest piece"): say("Higher pieces are stopped"),
    say("Head gap"): say("How far drops fly: deeper relief prints softly"),
    say("Most ink, all layers together"): say("Thicker films do not cure"),
    say("Height of the smallest type"): say("Smaller type is cautioned about"),
    say("Film {axis}", axis=say("right")): say(
        "Moves side B by hand, where its line was not found"
    ),
    say("Film {axis}", axis=say("away")): say("Moves side B by hand, where its line was not found"),
}
#: Stands in the names of a family for what tells them apart.
_ONE = "\0"
#: By names, where there is one for each ink, plate, garment or step of handwork.
FAMILIES: dict[str, str] = {
    say("Most {ink}", ink=_ONE): say("The most of this ink on one spot"),
    say("Gain of {ink}", ink=_ONE): say(
        "How much darker this ink prints than its plate says; plates are made lighter"
    ),
    say("Laydown of {ink}", ink=_ONE): say(
        "How much of this ink a solid takes: film, time and cost follow"
    ),
    say("Price of {ink}", ink=_ONE): say("Goes into the cost"),
    say("What {plate} is for", plate=_ONE): say(
        "Tells what it is for; what is not told stops the job"
    ),
    say("What {ink} prints", ink=_ONE): say("Which layers are printed with this ink"),
    say("Least stroke of {ink}", ink=_ONE): say("Finer strokes are cautioned about"),
    say("Least gap in {ink}", ink=_ONE): say("Finer gaps are cautioned about"),
    say("Channel of {ink}", ink=_ONE): say(
        "What the receiver calls this ink; a wrong name prints in another ink"
    ),
    say("Quantity {number}", number=_ONE): say("How many of this artwork are printed"),
    say("Garment {number}", number="") + _ONE: say(
        "What transfers are ordered for; white is judged on each of them"
    ),
    say("See through") + _ONE: say("How the piece is opened to look through"),
}


def effect_of(name: str) -> str:
    """What a value does to the print; nothing where its name says it.

    Parameters
    ----------
    name : of the value, its unit may follow after a comma
    """
    bare = name.rpartition(",")[0] or name
    for known in (name, bare, name.split(",")[0]):
        if known in EFFECTS:
            return EFFECTS[known]
    of_family = (
        told for family, told in FAMILIES.items() if _is_of(name, family) or _is_of(bare, family)
    )
    return next(of_family, "")


def _is_of(name: str, family: str) -> bool:
    before, _, behind = family.partition(_ONE)
    return name.startswith(before) and name.endswith(behind)
