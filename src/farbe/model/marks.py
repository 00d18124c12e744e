"""Lines and words that are printed beside the artwork, in black alone."""

from typing import Annotated

from pydantic import Field, StringConstraints

from farbe.model.base import Length, Margin, Value


class Marks(Value):
    """None of them has white under it, whatever the layers are.

    Trim marks stand ``distance`` off the finished edge, or off the bleed where that is wider.
    ``frame`` is a line on the finished edge. The label stands at the board's near left corner; in
    it {job}, {date} and {code} are the job's name, the day and the jig's code. ``qr`` puts the
    same words into a code beside it. ``strip`` is a control strip of the job's own layers, in a
    free place of the board or behind the artworks on film.
    """

    trim: bool = False
    length: Length = 4.0
    distance: Margin = 2.0
    frame: bool = False
    line: Annotated[float, Field(gt=0, le=5)] = 0.2
    label: Annotated[str, StringConstraints(max_length=200)] = ""
    label_height: Annotated[float, Field(gt=0, le=50)] = 2.4
    qr: bool = False
    strip: bool = False
