"""Sources and treatments in the operator's words, and which figures each has."""

from __future__ import annotations

from farbe.desk.stations.valuerows import FigureRow, Listed, Pick
from farbe.model.base import Value
from farbe.model.meaning import Meaning
from farbe.model.source import (
    ArtworkShape,
    AsLayer,
    ColourInk,
    End,
    FilePlate,
    OppositeShape,
    Otherwise,
    PickedColours,
    PlateNamed,
    Region,
    Surround,
    Tones,
    WholePiece,
)
from farbe.model.treatment import (
    FINE_STROKE,
    Choke,
    Curve,
    Dots,
    Ease,
    Feather,
    Grain,
    Harden,
    Holes,
    HoleShape,
    Limit,
    Pinholes,
    Shift,
    Specks,
    Spread,
)
from farbe.said import say


def rectangle(width: float, height: float) -> Region:
    """A drawn rectangle around the piece's middle."""
    x, y = width / 2, height / 2
    return Region(rings=(((-x, -y), (x, -y), (x, y), (-x, y)),))


#: A fresh source of each kind, in the order of the list.
SOURCES: tuple[tuple[type[Value], str, Value], ...] = (
    (ArtworkShape, say("the artwork's shape"), ArtworkShape()),
    (OppositeShape, say("the other reader's artwork"), OppositeShape()),
    (ColourInk, say("where colour ink lies"), ColourInk()),
    (WholePiece, say("the whole piece"), WholePiece()),
    (Surround, say("around the artwork"), Surround()),
    (FilePlate, say("the file's own plate"), FilePlate()),
    (AsLayer, say("as another layer"), AsLayer(name="White")),
    (PlateNamed, say("a plate of the artwork"), PlateNamed(name="White")),
    (Tones, say("its light or dark end"), Tones()),
    (PickedColours, say("picked colours"), PickedColours(colours=("#ffffff",))),
    (Region, say("a drawn region"), rectangle(20, 20)),
)
_ENDS = ((End.DARK, say("the dark end")), (End.LIGHT, say("the light end")))
SOURCE_ROWS: dict[type[Value], tuple[Listed, ...]] = {
    ColourInk: (FigureRow(say("Solid from"), "solid", "%", 5, 0),),
    FilePlate: (
        Pick(
            say("Meant for"),
            "meaning",
            tuple((m, m.words) for m in (Meaning.WHITE, Meaning.VARNISH)),
        ),
        Pick(
            say("Its edge"),
            "treated",
            ((False, say("as it is drawn")), (True, say("treated like the shape"))),
        ),
        Pick(say("Without one"), "otherwise", tuple((one, one.words) for one in Otherwise)),
    ),
    Tones: (
        Pick(say("Takes"), "end", _ENDS),
        FigureRow(say("Begins at L*"), "start", "", 5, 0),
        FigureRow(say("All at L*"), "full", "", 5, 0),
    ),
    PickedColours: (
        FigureRow(say("Tolerance"), "tolerance", "ΔE", 1, 1),
        FigureRow(say("Softness"), "softness", "ΔE", 1, 1),
    ),
}

#: A fresh treatment of each kind with its name, in the order of the list.
TREATMENTS: tuple[tuple[str, Value], ...] = (
    (say("Choke"), Choke(least=FINE_STROKE)),
    (say("Spread"), Spread()),
    (say("Remove specks"), Specks()),
    (say("Fill pinholes"), Pinholes()),
    (say("Harden soft edges"), Harden()),
    (say("Dots for half tones"), Dots()),
    (say("Tone curve"), Curve()),
    (say("Largest amount"), Limit(percent=80)),
    (say("Ease under darks"), Ease()),
    (say("Holes"), Holes()),
    (say("Shift"), Shift()),
    (say("Feathered edge"), Feather()),
)
_GRAINS = tuple((grain, grain.words) for grain in Grain)
_HOLES = tuple((shape, shape.words) for shape in HoleShape)
TREATMENT_ROWS: dict[type[Value], tuple[Listed, ...]] = {
    Choke: (
        FigureRow(say("By"), "by", "mm", 0.01, 3, name=say("Choke")),
        FigureRow(
            say("Holes by"),
            "holes",
            "mm",
            0.01,
            3,
            none=say("as outside"),
            name=say("Choke of holes"),
        ),
        FigureRow(
            say("At least"), "least", "mm", 0.01, 3, name=say("Choke leaves strokes at least")
        ),
    ),
    Spread: (FigureRow(say("By"), "by", "mm", 0.01, 3, name=say("Spread")),),
    Specks: (FigureRow(say("Up to"), "size", "mm", 0.05, 3, name=say("Specks up to")),),
    Pinholes: (FigureRow(say("Up to"), "size", "mm", 0.05, 3, name=say("Pinholes up to")),),
    Harden: (FigureRow(say("Solid from"), "at", "%", 5, 0),),
    Dots: (
        Pick(say("Grain"), "grain", _GRAINS),
        FigureRow(say("Rows in 1 cm"), "per_cm", "", 1, 1),
        FigureRow(say("Angle"), "angle", "°", 7.5, 1),
        FigureRow(say("Single dot"), "dot", "mm", 0.01, 3),
    ),
    Limit: (FigureRow(say("Percent"), "percent", "%", 5, 0, name=say("Largest amount")),),
    Ease: (
        FigureRow(say("Least at L*"), "dark", "", 5, 0),
        FigureRow(say("All at L*"), "light", "", 5, 0),
        FigureRow(say("Least"), "least", "%", 5, 0),
        Pick(say("Rise"), "smooth", ((True, say("smooth")), (False, say("straight")))),
    ),
    Holes: (
        FigureRow(say("Spacing"), "spacing", "mm", 0.1, 2),
        FigureRow(say("Size"), "size", "mm", 0.1, 2),
        Pick(say("Shape"), "shape", _HOLES),
        FigureRow(say("Angle"), "angle", "°", 15, 1),
        Pick(say("Rows"), "staggered", ((True, say("shifted by half")), (False, say("in line")))),
        FigureRow(say("Spare thinner"), "spare", "mm", 0.1, 2),
    ),
    Shift: (FigureRow(say("Right"), "x", "mm", 0.05, 3), FigureRow(say("Up"), "y", "mm", 0.05, 3)),
    Feather: (FigureRow(say("Over"), "by", "mm", 0.1, 2),),
}
