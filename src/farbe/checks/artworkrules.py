"""Checks of the artwork's files: what their plates are for, and what they do not bring along."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from farbe.art.artwork import Stated
from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.layout.faced import Faced
from farbe.layout.figures import sizes, square
from farbe.model.artwork import ArtworkFile, PlateUse
from farbe.model.base import BadInput
from farbe.model.meaning import Meaning
from farbe.model.placing import Fit
from farbe.plan.sentence import piece_words
from farbe.plan.spots import prints_plate, with_plates, with_use
from farbe.plan.stations import Station
from farbe.said import say

#: Meanings that need a layer to print.
_PRINTED = (Meaning.WHITE, Meaning.VARNISH, Meaning.INK)
#: Mm² of a plate that may lie under other things unsaid.
LEAST_KNOCKED = 0.2


@dataclass(frozen=True)
class _Read:
    file: ArtworkFile
    stated: Stated


def _each(facts: Facts) -> Iterator[_Read]:
    """The artworks that can be read; others are named elsewhere."""
    for file in facts.job.artworks:
        try:
            yield _Read(file, facts.sources.stated(file, facts.job))
        except BadInput:
            continue


def _plates(facts: Facts) -> Iterator[tuple[_Read, PlateUse]]:
    for read in _each(facts):
        for use in read.file.plates:
            if use.name in read.stated.plates:
                yield read, use


def _meaning(job: Faced, *, key: str, use: PlateUse, **fields: object) -> Faced:
    return with_use(job, key, use.replace(guessed=False, **fields))


@rule("plate-unknown", "plate-guessed")
def plates_are_told(facts: Facts) -> Iterator[Check]:
    """It is known what every plate of a file is for."""
    guessed: list[str] = []
    for read, use in _plates(facts):
        if use.meaning is Meaning.UNKNOWN:
            yield Check(
                "plate-unknown",
                Weight.STOP,
                say(
                    "Nothing tells what the plate {use} of {file_name} is for. Say it under "
                    "Plates of the file: white, varnish, colour, ink, a cut line, or nothing.",
                    use=use.name,
                    file_name=read.file.file_name,
                ),
                Station.LAYERS,
                Fix(
                    say("It is colour"),
                    partial(_meaning, key=read.file.key, use=use, meaning=Meaning.COLOUR),
                ),
                about=use.name,
            )
        elif use.guessed:
            guessed.append(say("{use} as {meaning}", use=use.name, meaning=use.meaning.words))
    if guessed:
        yield Check(
            "plate-guessed",
            Weight.NOTE,
            say(
                "Taken by their names alone: {plates}.",
                plates=", ".join(dict.fromkeys(guessed)),
            ),
            Station.LAYERS,
        )


@rule("plate-not-printed")
def plates_are_printed(facts: Facts) -> Iterator[Check]:
    """Plates that are ink go to a layer that prints."""
    job = facts.job
    for read, use in _plates(facts):
        if use.meaning not in _PRINTED or prints_plate(job, use):
            continue
        ink = "white" if use.meaning is Meaning.WHITE else (
            "varnish" if use.meaning is Meaning.VARNISH else say("an ink of its own"))  # fmt: skip
        made = with_plates(job, read.file.replace(plates=(use,)))
        yield Check(
            "plate-not-printed",
            Weight.STOP,
            say(
                "The plate {use} of {file_name} is meant as {ink}, and no layer prints it. "
                "Add a layer for it, with an ink that the printer has, or say that it is for "
                "nothing.",
                use=use.name,
                file_name=read.file.file_name,
                ink=ink,
            ),
            Station.LAYERS,
            Fix(say("Add a layer for it"), partial(with_use, key=read.file.key, made=use))
            if made != job
            else None,
            about=use.name,
        )


@rule("plate-knocked-out")
def plates_are_whole(facts: Facts) -> Iterator[Check]:
    """White and varnish of a file reach under what lies above them."""
    for read, use in _plates(facts):
        area = read.stated.knocked.get(use.name, 0.0)
        if use.meaning not in _PRINTED or use.whole or area < LEAST_KNOCKED:
            continue
        yield Check(
            "plate-knocked-out",
            Weight.CAUTION,
            say(
                "The plate {use} of {file_name} leaves out {area} that lie under other things "
                "of the drawing: there is none of it there.",
                use=use.name,
                file_name=read.file.file_name,
                area=square(area),
            ),
            Station.LAYERS,
            Fix(
                say("Take the plate whole"),
                partial(_meaning, key=read.file.key, use=use, whole=True),
            ),
            figure=area,
            unit="mm²",
            about=use.name,
        )


@rule("facts-guessed")
def facts_are_stated(facts: Facts) -> Iterator[Check]:
    """What the piece is was stated, and not guessed."""
    guesses = facts.job.guesses
    if guesses:
        words = ", ".join(guess.words for guess in guesses)
        yield Check(
            "facts-guessed",
            Weight.CAUTION,
            say(
                "Nobody stated {facts}: {guess} is a guess.",
                facts=words,
                guess=piece_words(facts.job),
            ),
            Station.PIECE,
            Fix(say("It is right"), partial(Faced.replace, guesses=())),
        )


@rule("file-incomplete")
def files_bring_all(facts: Facts) -> Iterator[Check]:
    """Files bring their fonts and pictures along."""
    for read in _each(facts):
        for sentence in (*read.stated.lost, *((read.stated.remark,) * bool(read.stated.remark))):
            yield Check(
                "file-incomplete",
                Weight.CAUTION,
                f"{read.file.file_name}: {sentence}",
                Station.LAYERS,
                about=read.file.file_name,
            )


@rule("size-not-stated")
def size_is_stated(facts: Facts) -> Iterator[Check]:
    """Pictures say how large they are."""
    if facts.job.placing.fit is not Fit.ACTUAL:
        return
    for read in _each(facts):
        file = read.file
        if not read.stated.sized and _as_assumed(read.stated, file):
            yield Check(
                "size-not-stated",
                Weight.CAUTION,
                say(
                    "{file_name} says no resolution; at an assumed 300 dpi it is {width}. Set its "
                    "size, or say that it is meant.",
                    file_name=file.file_name,
                    width=sizes(round(file.width, 1), round(file.height, 1)),
                ),
                Station.BED,
                figure=file.width,
                unit="mm",
                about=file.file_name,
            )


def _as_assumed(stated: Stated, file: ArtworkFile) -> bool:
    """Whether an artwork's size is what was assumed, and nobody changed it."""
    return not file.edits and abs(file.width - stated.in_mm[0]) < 1e-6
