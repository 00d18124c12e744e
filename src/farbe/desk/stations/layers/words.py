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


def rectangle(width: float, height: float) -> Region:
    """A drawn rectangle around the piece's middle."""
    x, y = width / 2, height / 2
    return Region(rings=(((-x, -y), (x, -y), (x, y), (-x, y)),))


#: A fresh source of each kind, in the order of the list.
SOURCES: tuple[tuple[type[Value], str, Value], ...] = (
    (ArtworkShape, "the artwork's shape", ArtworkShape()),
    (OppositeShape, "the other reader's artwork", OppositeShape()),
    (ColourInk, "where colour ink lies", ColourInk()),
    (WholePiece, "the whole piece", WholePiece()),
    (Surround, "around the artwork", Surround()),
    (FilePlate, "the file's own plate", FilePlate()),
    (AsLayer, "as another layer", AsLayer(name="White")),
    (PlateNamed, "a plate of the artwork", PlateNamed(name="White")),
    (Tones, "its light or dark end", Tones()),
    (PickedColours, "picked colours", PickedColours(colours=("#ffffff",))),
    (Region, "a drawn region", rectangle(20, 20)),
)
_ENDS = ((End.DARK, "the dark end"), (End.LIGHT, "the light end"))
SOURCE_ROWS: dict[type[Value], tuple[Listed, ...]] = {
    ColourInk: (FigureRow("Solid from", "solid", "%", 5, 0),),
    FilePlate: (
        Pick("Meant for", "meaning", tuple((m, m.value) for m in (Meaning.WHITE, Meaning.VARNISH))),
        Pick("Its edge", "treated", ((False, "as it is drawn"), (True, "treated like the shape"))),
        Pick("Without one", "otherwise", tuple((one, one.value) for one in Otherwise)),
    ),
    Tones: (
        Pick("Takes", "end", _ENDS),
        FigureRow("Begins at L*", "start", "", 5, 0),
        FigureRow("All at L*", "full", "", 5, 0),
    ),
    PickedColours: (
        FigureRow("Tolerance", "tolerance", "ΔE", 1, 1),
        FigureRow("Softness", "softness", "ΔE", 1, 1),
    ),
}

#: A fresh treatment of each kind with its name, in the order of the list.
TREATMENTS: tuple[tuple[str, Value], ...] = (
    ("Choke", Choke(least=FINE_STROKE)),
    ("Spread", Spread()),
    ("Remove specks", Specks()),
    ("Fill pinholes", Pinholes()),
    ("Harden soft edges", Harden()),
    ("Dots for half tones", Dots()),
    ("Tone curve", Curve()),
    ("Largest amount", Limit(percent=80)),
    ("Ease under darks", Ease()),
    ("Holes", Holes()),
    ("Shift", Shift()),
    ("Feathered edge", Feather()),
)
TREATMENT_WORDS = {type(made): words for words, made in TREATMENTS}
_GRAINS = tuple((grain, grain.value) for grain in Grain)
_HOLES = tuple((shape, shape.value) for shape in HoleShape)
TREATMENT_ROWS: dict[type[Value], tuple[Listed, ...]] = {
    Choke: (
        FigureRow("By", "by", "mm", 0.01, 3, name="Choke"),
        FigureRow("Holes by", "holes", "mm", 0.01, 3, none="as outside", name="Choke of holes"),
        FigureRow("At least", "least", "mm", 0.01, 3, name="Choke leaves strokes at least"),
    ),
    Spread: (FigureRow("By", "by", "mm", 0.01, 3, name="Spread"),),
    Specks: (FigureRow("Up to", "size", "mm", 0.05, 3, name="Specks up to"),),
    Pinholes: (FigureRow("Up to", "size", "mm", 0.05, 3, name="Pinholes up to"),),
    Harden: (FigureRow("Solid from", "at", "%", 5, 0),),
    Dots: (
        Pick("Grain", "grain", _GRAINS),
        FigureRow("Rows in 1 cm", "per_cm", "", 1, 1),
        FigureRow("Angle", "angle", "°", 7.5, 1),
        FigureRow("Single dot", "dot", "mm", 0.01, 3),
    ),
    Limit: (FigureRow("Percent", "percent", "%", 5, 0, name="Largest amount"),),
    Ease: (
        FigureRow("Least at L*", "dark", "", 5, 0),
        FigureRow("All at L*", "light", "", 5, 0),
        FigureRow("Least", "least", "%", 5, 0),
        Pick("Rise", "smooth", ((True, "smooth"), (False, "straight"))),
    ),
    Holes: (
        FigureRow("Spacing", "spacing", "mm", 0.1, 2),
        FigureRow("Size", "size", "mm", 0.1, 2),
        Pick("Shape", "shape", _HOLES),
        FigureRow("Angle", "angle", "°", 15, 1),
        Pick("Rows", "staggered", ((True, "shifted by half"), (False, "in line"))),
        FigureRow("Spare thinner", "spare", "mm", 0.1, 2),
    ),
    Shift: (FigureRow("Right", "x", "mm", 0.05, 3), FigureRow("Up", "y", "mm", 0.05, 3)),
    Feather: (FigureRow("Over", "by", "mm", 0.1, 2),),
}
