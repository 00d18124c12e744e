"""What each pocket prints: its artwork, where it lies, and its text."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from farbe.kept import Kept, once
from farbe.layout.faced import Faced
from farbe.layout.lettering import resolved
from farbe.layout.pockets import Pocket
from farbe.layout.tiling import centred, parts_of
from farbe.model.artwork import ArtworkFile
from farbe.model.medium import Bed
from farbe.model.piece import Rectangle
from farbe.model.placing import Placing, PocketChange
from farbe.model.text import SERIAL, Serial, TextBox


@dataclass(frozen=True)
class PocketPrint:
    """What one pocket prints. Without an artwork in a job that has some, nothing prints there.

    ``opposite`` is what the reader on the other side of a clear piece sees there. On a roll the
    artwork is a piece of its own, ``turned`` by so many degrees.
    """

    artwork: ArtworkFile | None
    placing: Placing
    texts: tuple[TextBox, ...]
    opposite: PocketPrint | None = None
    turned: int | None = None

    def __hash__(self) -> int:
        return self._hash

    @once
    def _hash(self) -> int:
        # Deep values, which are asked for their hash at every look into what is kept.
        return hash((self.artwork, self.placing, self.texts, self.opposite, self.turned))

    @once
    def plain(self) -> PocketPrint:
        """The same without its text."""
        if not self.texts and self.opposite is None:
            return self
        other = self.opposite
        return replace(self, texts=(), opposite=other.plain if other else None)

    @property
    def content(self) -> dict[str, Any]:
        """The fields of a job whose pockets all print this."""
        return {
            "artworks": () if self.artwork is None else (self.artwork,),
            "placing": self.placing,
            "texts": self.texts,
            "changes": (),
            "table": None,
            "serial": Serial(),
            "artwork_column": None,
            "parts": None,
        }


@dataclass(frozen=True)
class Allotment:
    """Artworks over the pockets.

    Attributes
    ----------
    prints : what each pocket that is on prints, by its number; pockets left empty are not in it
    empty : numbers of pockets that are on and get no artwork
    missing : artworks for which pockets are missing, and how many
    """

    prints: dict[int, PocketPrint]
    empty: tuple[int, ...]
    missing: tuple[tuple[ArtworkFile, int], ...]

    @once
    def counted(self) -> Counter[str]:
        """How often each artwork is printed, by its key."""
        return Counter(
            what.artwork.key for what in self.prints.values() if what.artwork is not None
        )

    @once
    def different(self) -> tuple[tuple[PocketPrint, tuple[int, ...]], ...]:
        """Every different print, in the order of the first place that has it, and its places."""
        found: dict[PocketPrint, list[int]] = {}
        for number, what in self.prints.items():
            found.setdefault(what, []).append(number)
        return tuple((what, tuple(numbers)) for what, numbers in found.items())


def one_print(job: Faced, what: PocketPrint) -> Faced:
    """The job as if all its pockets printed this.

    Parameters
    ----------
    job : the job as one of its faces has it
    what : a print
    """
    other = job.other
    if what.turned is not None and what.artwork is not None:
        return _on_its_own(job, what, what.artwork)
    made = job.with_values(what.content)
    if other is None or not job.two_readers:
        return made
    seen = what.opposite or PocketPrint(None, other.placing, ())
    return Faced(Faced(made.job, other.number).with_values(seen.content).job, job.number)


def _on_its_own(job: Faced, what: PocketPrint, artwork: ArtworkFile) -> Faced:
    """A print on film as a job of one piece that has the artwork's size."""
    return lone_piece(job, what.turned or 0, artwork.cropped).with_values(what.content)


def lone_piece(job: Faced, turned: int, size: tuple[float, float]) -> Faced:
    """A job of one piece of its own on film.

    Parameters
    ----------
    job : on film, as one of its faces has it
    turned : degrees, anticlockwise
    size : width and height in mm
    """
    shape = Rectangle(width=size[0], height=size[1])
    return Faced(
        job.job.model_copy(
            update={
                "faces": (job.face,),
                "comes_up": None,
                "piece": job.piece.model_copy(update={"shape": shape}),
                "jig": job.jig.model_copy(update={"turned": turned, "off": frozenset()}),
                "medium": Bed(),
            }
        )
    )


def size_of(what: PocketPrint) -> tuple[float, float] | None:
    """Width and height in mm of the artwork that is printed; None without one.

    Parameters
    ----------
    what : a print
    """
    return None if what.artwork is None else what.artwork.cropped


def over_pockets(job: Faced, used: Sequence[Pocket]) -> Allotment:
    """The artworks of one reader over the pockets that are on, in the order of the numbers.

    A pocket whose artwork is chosen takes one of that artwork's quantity. The others are filled
    artwork by artwork; the one without a quantity takes what the others leave. Where a column of
    the table names the artworks, it fills them, and no quantity counts.

    Parameters
    ----------
    job : as one of its faces has it
    used : the pockets that are on, of which the numbers count

    Returns
    -------
    The same object for all jobs that agree in what prints follow from.
    """
    numbers = tuple(pocket.number for pocket in used)
    # Most edits move pockets or change what has nothing to do with them. Parts follow from much.
    asked = (
        job.artworks, job.placing, job.changes, job.texts, job.table, job.serial,
        job.artwork_column, job.job.load, numbers, None if job.parts is None else job,
    )  # fmt: skip
    return _ALLOTTED.get(asked, lambda: _over_pockets(job, used))


#: By all that they follow from.
_ALLOTTED: Kept[tuple[object, ...], Allotment] = Kept(8)


def _over_pockets(job: Faced, used: Sequence[Pocket]) -> Allotment:
    changes = {change.pocket: change for change in job.changes}
    if job.parts is not None and job.artwork is not None:
        return _in_parts(job, job.artwork, used, changes)
    by_digest = {art.key: art for art in job.artworks}
    taken = {
        pocket.number: by_digest[change.artwork]
        for pocket in used
        if (change := changes.get(pocket.number)) is not None and change.artwork in by_digest
    }
    free = [pocket for pocket in used if pocket.number not in taken]
    found: dict[int, ArtworkFile | None] = dict(taken)
    named = artwork_names(job)
    missing: tuple[tuple[ArtworkFile, int], ...] = ()
    if named is not None:
        by_name = {art.file_name.casefold(): art for art in reversed(job.artworks)}
        start = job.job.load * len(used)
        rows = {pocket.number: row for row, pocket in enumerate(used, start=start)}
        for pocket in free:
            row = rows[pocket.number]
            name = named[row].casefold() if row < len(named) else ""
            found[pocket.number] = by_name.get(name)
    else:
        queue, missing = _queue(job.artworks, Counter(a.key for a in taken.values()), len(free))
        found |= {pocket.number: art for pocket, art in zip(free, queue, strict=False)}
    prints = {}
    # Those that are alike are one and the same, so that a thousand are compared in no time.
    alike: dict[tuple[str | None, tuple[TextBox, ...]], PocketPrint] = {}
    for row, pocket in enumerate(used, start=job.job.load * len(used)):
        art, change = found.get(pocket.number), changes.get(pocket.number)
        if art is None and job.artworks:
            continue
        texts = texts_of(job, pocket.number, row)
        made = PocketPrint(art, _changed(job.placing, change), texts)
        if change is None:
            made = alike.setdefault((None if art is None else art.key, texts), made)
        prints[pocket.number] = made
    empty = tuple(p.number for p in used if p.number not in prints)
    return Allotment(prints, empty, missing)


def _in_parts(
    job: Faced, art: ArtworkFile, used: Sequence[Pocket], changes: dict[int, PocketChange]
) -> Allotment:
    """The parts of an artwork over the pockets; those that no part is left for stay empty."""
    centre, moves, prints = centred(job).placing, parts_of(job), {}
    for part, pocket in enumerate(used, start=job.job.load * len(used)):
        if part < len(moves):
            x, y = moves[part]
            placing = centre.model_copy(update={"offset_x": x, "offset_y": y})
            prints[pocket.number] = PocketPrint(
                art, _changed(placing, changes.get(pocket.number)),
                texts_of(job, pocket.number, part),
            )  # fmt: skip
    # Other artworks find no pocket.
    missing = tuple((other, other.quantity or 1) for other in job.artworks[1:])
    idle = tuple(pocket.number for pocket in used if pocket.number not in prints)
    return Allotment(prints, idle if len(moves) < len(used) else (), missing)


def artwork_names(job: Faced) -> tuple[str, ...] | None:
    """Names of the files that the rows of the table want, in their order; None without a column.

    Folders before a name do not count.

    Parameters
    ----------
    job : as one of its faces has it
    """
    table, column = job.table, job.artwork_column
    if table is None or column is None or column not in table.columns:
        return None
    at = table.columns.index(column)
    return tuple(row[at].replace("\\", "/").rsplit("/", 1)[-1].strip() for row in table.rows)


def lacking_files(job: Faced) -> tuple[str, ...]:
    """Files that rows of the table name and the job does not have, each once.

    Parameters
    ----------
    job : as one of its faces has it
    """
    named = dict.fromkeys(name for name in artwork_names(job) or () if name)
    there = {art.file_name.casefold() for art in job.artworks} if named else set()
    return tuple(name for name in named if name.casefold() not in there)


def _queue(
    artworks: tuple[ArtworkFile, ...], taken: Counter[str], room: int
) -> tuple[list[ArtworkFile], tuple[tuple[ArtworkFile, int], ...]]:
    """Artworks one by one for ``room`` pockets, and those that find no room."""
    wanted = {
        art.key: max(0, art.quantity - taken[art.key])
        for art in artworks
        if art.quantity is not None
    }
    rest = max(0, room - sum(wanted.values()))
    queue = [art for art in artworks for _ in range(wanted.get(art.key, rest))]
    over = Counter(art.key for art in queue[room:])
    return queue[:room], tuple((art, over[art.key]) for art in artworks if over[art.key])


def _changed(placing: Placing, change: PocketChange | None) -> Placing:
    """A placing with a pocket's own change on top."""
    if change is None:
        return placing
    own = {
        field: value
        for field in ("fit", "across", "along", "margin")
        if (value := getattr(change, field)) is not None
    }
    return placing.model_copy(
        update=own
        | {
            "offset_x": placing.offset_x + change.offset_x,
            "offset_y": placing.offset_y + change.offset_y,
            "rotation": (placing.rotation + change.rotation) % 360.0,
            "scale": placing.scale * change.scale / 100.0,
            "mirror": placing.mirror is not change.mirror,
        }
    )


def texts_of(job: Faced, number: int, row: int) -> tuple[TextBox, ...]:
    """The boxes with a place's words; boxes without words are left out.

    Parameters
    ----------
    job : the job as one of its faces has it
    number : of the place, from 1
    row : of the table, from 0
    """
    values = {"#": str(number), SERIAL: job.serial.at(row)}
    if job.table is not None and row < len(job.table.rows):
        values |= dict(zip(job.table.columns, job.table.rows[row], strict=True))
    filled = ((box, resolved(box.text, values).strip()) for box in job.texts)
    return tuple(box.model_copy(update={"text": words}) for box, words in filled if words)
