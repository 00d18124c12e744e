"""What all values of a job share."""

from typing import Annotated, Any, Self

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from farbe.said import say

MM_PER_INCH = 25.4


class BadInput(Exception):
    """Input that cannot be used. Its text is one sentence: what is wrong and what to do."""


class Value(BaseModel):
    """A frozen value; an unknown or wrong field is an error, never ignored."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def replace(self, **fields: Any) -> Self:
        """This value with other fields, validated as a new one.

        Raises
        ------
        BadInput
            If such a value cannot be.
        """
        kept = {name: getattr(self, name) for name in type(self).model_fields}
        try:
            return type(self).model_validate(kept | fields)
        except ValidationError as error:
            raise BadInput(sentence(error)) from error


def sentence(error: ValidationError) -> str:
    """The first finding of pydantic as one sentence in plain words.

    Parameters
    ----------
    error : what validation found
    """
    first = error.errors()[0]
    parts = [str(part).replace("_", " ") for part in first["loc"] if part != "function"]
    where = " ".join(part[:24] for part in parts[:6])
    what = _in_words(first["type"], first.get("ctx", {}), first["msg"])
    text = f"{where} {what}" if where else what
    return text[:1].upper() + text[1:] + "."


def _in_words(kind: str, told: dict[str, Any], message: str) -> str:
    """What pydantic found, by its name for that."""
    if kind == "value_error":
        # Our own words.
        return message.removeprefix("Value error, ")
    least, most = (told.get(a, told.get(b)) for a, b in (("ge", "gt"), ("le", "lt")))
    words = {
        "missing": say("is missing"),
        "extra_forbidden": say("is not known to this Farbe"),
        "finite_number": say("is no number that can be"),
        "greater_than": say("is not larger than {figure}", figure=_figure(least)),
        "greater_than_equal": say("is smaller than {figure}", figure=_figure(least)),
        "less_than": say("is not smaller than {figure}", figure=_figure(most)),
        "less_than_equal": say("is larger than {figure}", figure=_figure(most)),
        "string_too_short": say("is too short"),
        "string_too_long": say("has more than {most} letters", most=told.get("max_length")),
        "too_long": say("has more than {most} parts", most=told.get("max_length")),
        "too_short": say("has fewer than {least} parts", least=told.get("min_length")),
        "string_pattern_mismatch": say("is not written as it should be"),
        "enum": say("is none of {known}", known=told.get("expected")),
        "literal_error": say("is none of {known}", known=told.get("expected")),
    }
    if kind in words:
        return words[kind]
    if kind.startswith(("int", "float")):
        return say("is no number")
    return say("is not what it should be")


def _figure(value: object) -> str:
    return f"{value:g}" if isinstance(value, int | float) else str(value)


#: Millimetres: longer than any bed.
MOST = 20_000
#: A length in millimetres that a thing can have.
Length = Annotated[float, Field(gt=0, le=MOST)]
#: A length in millimetres that may be nothing.
Margin = Annotated[float, Field(ge=0, le=MOST)]
#: A place in millimetres.
Coordinate = Annotated[float, Field(ge=-MOST, le=MOST)]
#: An sRGB colour, ``#rrggbb``.
Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-fA-F]{6}$")]


def rgb(colour: str) -> tuple[int, int, int]:
    """Red, green and blue, 0 to 255, of ``#rrggbb``.

    Parameters
    ----------
    colour : ``#rrggbb``
    """
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


Name = Annotated[str, StringConstraints(min_length=1, max_length=80)]
#: The SHA-256 of a file in hexadecimal figures: what it is known by.
#: What tells artworks of a job apart: a digest, and a number where a file is there again.
ArtworkKey = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}(\.[1-9][0-9]{0,3})?$")]
Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
