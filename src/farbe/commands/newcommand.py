"""``farbe new ART...``."""

import tempfile
from contextlib import closing
from pathlib import Path
from typing import Annotated

import typer

from farbe.model.base import BadInput
from farbe.said import say


def new(
    art: Annotated[
        list[Path],
        typer.Argument(metavar="ART...", help=say("Pictures, drawings, or folders of them.")),
    ],
    output: Annotated[Path, typer.Option("-o", "--output", metavar="JOB.farbe")],
    recipe: Annotated[
        str, typer.Option(metavar="NAME|X.recipe.json", help=say("Surface, reader and layers."))
    ] = "dark opaque piece",
    piece: Annotated[
        str | None,
        typer.Option(metavar="WxH|'round D'", help=say("In mm; the artwork's size if not.")),
    ] = None,
    count: Annotated[
        int | None, typer.Option(metavar="N", min=1, max=100_000, help=say("Pieces on the bed."))
    ] = None,
    surface: Annotated[
        str | None, typer.Option(metavar="clear|#RRGGBB", help=say("What is printed on."))
    ] = None,
    printer: Annotated[
        str | None, typer.Option(metavar="NAME", help=say("One that ships, or that is kept."))
    ] = None,
    page: Annotated[
        list[int] | None,
        typer.Option(metavar="N", min=1, help=say("Of a PDF or TIFF; more than one.")),
    ] = None,
) -> None:
    """Make a job from artwork; what is not stated is a guess until it is confirmed."""
    from farbe.art.limited import HELPERS

    HELPERS.warm_up()
    from farbe.files.artfiles import artwork_files
    from farbe.files.jobfile import save_job
    from farbe.files.printerfile import printer_by
    from farbe.files.recipefile import lent, recipe_by
    from farbe.files.store import ArtStore
    from farbe.layout.faced import Faced
    from farbe.plan.newjob import job_for
    from farbe.plan.spots import with_plates
    from farbe.plan.words import shape_of, surface_of

    if output.suffix != ".farbe":
        raise BadInput(say("{output} should end in .farbe.", output=output.name))
    by, shape = recipe_by(recipe), shape_of(piece) if piece else None
    stated = surface_of(surface) if surface else None
    with tempfile.TemporaryDirectory(prefix="farbe-new-") as folder:
        store = ArtStore(Path(folder))
        made_by, on = lent(by, store), printer_by(printer, store) if printer else None
        found = []
        with closing(store.add_artworks(artwork_files(art))) as added:
            for one in added:
                if isinstance(one, BadInput):
                    raise one
                found += [store.at_page(one, number) for number in (page or [1])]
        numbered = [
            one.replace(copy_number=sum(other.digest == one.digest for other in found[:at]))
            for at, one in enumerate(found)
        ]
        job = job_for(numbered, made_by, shape=shape, count=count, surface=stated, printer=on)
        face = Faced(job)
        for one in job.faces[0].artworks:
            face = with_plates(face, one)
        save_job(face.job, store, output)
        guesses = ", ".join(guess.words for guess in face.job.guesses)
        typer.echo(
            say("{output}: {numbered} artworks", output=output.name, numbered=len(numbered))
            if len(numbered) > 1
            else output.name
        )
        if guesses:
            typer.echo(say("Guessed, as nobody stated it: {guesses}.", guesses=guesses))
