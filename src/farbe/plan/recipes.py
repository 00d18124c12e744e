"""Named starting points in the shop's words."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from farbe.layout.faced import Faced
from farbe.model.base import BadInput, Length, Margin, Name, Value
from farbe.model.condition import MOST_LETTERS, Profiles
from farbe.model.early import with_readers
from farbe.model.face import Face, SamePrint
from farbe.model.job import Conversion
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.medium import Medium
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import Printer
from farbe.model.receiver import Receiver
from farbe.model.roll import Roll
from farbe.model.treatment import FINE_STROKE, Choke, Ease, Holes
from farbe.plan.order import default_stack
from farbe.plan.readers import facing_stack, with_one_reader
from farbe.said import say, shipped


class Recipe(Value):
    """How something is made; what a recipe does not state stays as the job has it.

    Attributes
    ----------
    surface, reader, stack : the layers for who reads them on what
    conversion : how colour becomes ink; its profile is named by its digest
    profile : the CMYK profile's bytes, base64; empty keeps the job's own
    profiles : those of the printer's conditions
    printer : as it is set, its mode with it
    receiver : with the folder that it watches
    medium : film, without what lies on it
    bleed : mm
    see_through : holes through all layers
    wide : mm of each artwork, which are as wide as their files say if it is not stated
    """

    format: Literal["farbe-recipe"] = "farbe-recipe"
    version: Literal[1, 2, 3] = 3
    name: Name
    surface: Surface
    reader: Reader
    stack: tuple[Layer, ...]
    conversion: Conversion = Conversion()
    profile: Annotated[str, Field(max_length=MOST_LETTERS)] = ""
    profiles: Profiles = ()
    printer: Printer | None = None
    receiver: Receiver | None = None
    medium: Medium | None = None
    bleed: Annotated[Margin, Field(le=100)] | None = None
    see_through: Holes | None = None
    wide: Length | None = None

    @property
    def stated(self) -> dict[str, Any]:
        """Fields of a job that it states besides surface, reader and layers."""
        names = ("printer", "receiver", "medium", "bleed", "see_through")
        return {name: value for name in names if (value := getattr(self, name)) is not None}

    @model_validator(mode="before")
    @classmethod
    def _with_readers(cls, given: object) -> object:
        """Early files told layers of a second reader by a mark alone."""
        if not isinstance(given, dict) or not isinstance(given.get("stack"), list):
            return given
        return given | {"stack": with_readers(given["stack"], given.get("reader"))}


_CLEAR = Surface(material=Material.CLEAR, name=shipped("clear"))
_DARK = Surface(colour="#20302a", name=shipped("dark"))
_COTTON = Surface(material=Material.TEXTILE, colour="#23262e", name=shipped("dark cotton"))
_LIGHT_COTTON = Surface(material=Material.TEXTILE, colour="#f6f3ec", name=shipped("light cotton"))
_ACRYLIC = Surface(material=Material.CLEAR, name=shipped("clear acrylic"))
#: White of a transfer: drawn further back, less of it under darks, so that it bends.
_SOFT_WHITE = WHITE_UNDER.replace(treatments=(Choke(by=0.15, least=FINE_STROKE), Ease(least=55)))


def _recipe(name: str, surface: Surface, reader: Reader, *stack: Layer) -> Recipe:
    return Recipe(name=name, surface=surface, reader=reader, stack=stack)


RECIPES = (
    _recipe(shipped("light opaque piece"), Surface(name=shipped("white")), Reader.FACE, COLOUR),
    _recipe(shipped("dark opaque piece"), _DARK, Reader.FACE, *default_stack(Reader.FACE)),
    _recipe(shipped("clear, read from the face"), _CLEAR, Reader.FACE, *default_stack(Reader.FACE)),
    _recipe(shipped("clear, read through"), _CLEAR, Reader.THROUGH, *default_stack(Reader.THROUGH)),
    _recipe(
        shipped("lit from behind"), _ACRYLIC, Reader.THROUGH,
        COLOUR.replace(hits=2), WHITE_UNDER.replace(hits=2),
    ),
    _recipe(shipped("clear, read from both sides"), _CLEAR, Reader.THROUGH, *facing_stack()),
    _recipe(shipped("transfer on dark"), _COTTON, Reader.TRANSFER, COLOUR, _SOFT_WHITE),
    _recipe(shipped("transfer on light"), _LIGHT_COTTON, Reader.TRANSFER, COLOUR),
    _recipe(
        shipped("large transfer with vents"), _COTTON, Reader.TRANSFER,
        COLOUR.replace(treatments=(Holes(spacing=2.4, size=0.7, spare=1.0),)),
        _SOFT_WHITE.replace(
            treatments=(*_SOFT_WHITE.treatments, Holes(spacing=2.4, size=1.0, spare=1.0))
        ),
    ),
    _recipe(shipped("varnish only"), Surface(name=shipped("white")), Reader.FACE, VARNISH_OVER),
)  # fmt: skip


def recipe(name: str) -> Recipe:
    """The recipe of a name among those that ship; case and commas do not matter.

    Parameters
    ----------
    name : as it is typed

    Raises
    ------
    BadInput
        If there is none.
    """

    def plain(text: str) -> str:
        return " ".join(text.replace(",", " ").casefold().split())

    for found in RECIPES:
        if plain(found.name) == plain(name):
            return found
    known = "; ".join(r.name for r in RECIPES)
    raise BadInput(
        say("There is no recipe named {name}; there are: {known}.", name=name, known=known)
    )


def recipe_of(job: Faced, name: str) -> Recipe:
    """What a job is made by, as a recipe of its own.

    Parameters
    ----------
    job : as one of its faces has it
    name : as people know it
    """
    roll = job.roll
    return Recipe(
        name=name,
        surface=job.piece.surface,
        reader=job.reader,
        stack=job.stack,
        conversion=job.conversion.replace(profile=None),
        printer=job.printer,
        receiver=job.receiver,
        medium=None if roll is None else roll.replace(places=()),
        bleed=job.bleed,
        see_through=job.job.see_through,
    )


def with_recipe(job: Faced, recipe_: Recipe, *, surface: bool = False) -> Faced:
    """The job by another recipe; its surface stays unless it is wanted too.

    What the recipe does not state, the printer's profile as well, is the job's own and stays; so
    does what lies on its film.

    Parameters
    ----------
    job : as one of its faces has it
    recipe_ : another
    surface : take the recipe's surface, too

    Raises
    ------
    BadInput
        If the job cannot be made so.
    """
    profile = recipe_.conversion.profile or job.conversion.profile
    fields = recipe_.stated | {"conversion": recipe_.conversion.replace(profile=profile)}
    if job.roll is not None and isinstance(recipe_.medium, Roll):
        fields["medium"] = recipe_.medium.replace(places=job.roll.places)
    if surface:
        fields["piece"] = job.piece.replace(surface=recipe_.surface)
    if not any(layer.reader for layer in recipe_.stack):
        one = with_one_reader(job)
        return one.replace(reader=recipe_.reader, stack=recipe_.stack, **fields)
    if job.two_sided:
        raise BadInput(say("A piece that is printed on both sides is read from its faces."))
    beyond = Reader.FACE if recipe_.reader is Reader.THROUGH else Reader.THROUGH
    own = job.face.replace(reader=recipe_.reader, stack=())
    other = job.other.face if job.other is not None else Face(artworks=job.artworks)
    first, second = own, other.replace(reader=beyond, stack=())
    if job.number == 1:
        first, second = second, own
    first = first.replace(stack=recipe_.stack)
    made = job.job.replace(faces=(first, second), comes_up=SamePrint())
    return Faced(made, job.number).replace(**fields)
