"""What each pocket prints: its artwork, where it lies, and its text."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from farbe.layout.lettering import resolved
from farbe.layout.pockets import Pocket, footprint, job_pockets, used_pockets
from farbe.layout.rolls import lain_size, missing
from farbe.layout.sides import turned_over
from farbe.model.job import Job
from farbe.model.piece import Rectangle
from farbe.model.placing import Placing, PocketChange
from farbe.model.roll import Roll
from farbe.model.side import ArtworkFile, Content
from farbe.model.text import TextBox


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

    @property
    def plain(self) -> PocketPrint:
        """The same without its text."""
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
        }


@dataclass(frozen=True)
class Spread:
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


def one_print(job: Job, what: PocketPrint) -> Job:
    """The job as if all its pockets printed this."""
    fields = what.content
    if job.opposite is not None:
        other = what.opposite or PocketPrint(None, job.opposite.placing, ())
        fields["opposite"] = Content(**other.content)
    if what.turned is not None and what.artwork is not None:
        wide, high = what.artwork.cropped
        shape = Rectangle(width=wide, height=high)
        fields |= {
            "piece": job.piece.model_copy(update={"shape": shape}),
            "jig": job.jig.model_copy(
                update={"turned": what.turned, "off": frozenset(), "over": None}
            ),
            "roll": None,
        }
    return job.model_copy(update=fields)


def alone(job: Job, number: int) -> Job:
    """The job as the piece in a pocket sees it; only on a roll do pieces differ in their size."""
    if job.roll is None:
        return job
    return one_print(job, spread(job).prints[number])


def pocket_size(job: Job, number: int) -> tuple[float, float]:
    """Width and height in mm that the piece in a pocket takes as it lies."""
    if job.roll is not None:
        return lain_size(job, job.roll.lain[number - 1])
    return footprint(job.jig, job.piece.shape)


def first_print(job: Job) -> PocketPrint:
    """What the first pocket prints that prints at all; else what none does."""
    other = None if job.opposite is None else PocketPrint(None, job.opposite.placing, ())
    return next(iter(spread(job).prints.values()), PocketPrint(None, job.placing, (), other))


@lru_cache(maxsize=8)
def spread(job: Job) -> Spread:
    """Lay the artworks over the pockets that are on, in the order of the numbers.

    A pocket whose artwork is chosen takes one of that artwork's quantity. The others are filled
    artwork by artwork; the one without a quantity takes what the others leave. Where a piece has
    two readers, each of them has artworks and words for every pocket.
    """
    if job.opposite is None:
        return _spread(job)
    own, other = _spread(job), _spread(turned_over(job))
    prints = {}
    for number in sorted(own.prints.keys() | other.prints.keys()):
        mine = own.prints.get(number) or PocketPrint(None, job.placing, ())
        prints[number] = replace(mine, opposite=other.prints.get(number))
    return Spread(prints, own.empty, own.missing)


def _spread(job: Job) -> Spread:
    """The artworks of one reader over the pockets."""
    if job.roll is not None:
        return _on_roll(job, job.roll)
    used = used_pockets(job)
    changes = {change.pocket: change for change in job.changes}
    by_digest = {art.digest: art for art in job.artworks}
    taken = {
        pocket.number: by_digest[change.artwork]
        for pocket in used
        if (change := changes.get(pocket.number)) is not None and change.artwork in by_digest
    }
    free = [pocket for pocket in used if pocket.number not in taken]
    queue, missing = _queue(job.artworks, Counter(a.digest for a in taken.values()), len(free))
    found: dict[int, ArtworkFile | None] = dict(taken)
    found |= {pocket.number: art for pocket, art in zip(free, queue, strict=False)}
    prints = {}
    for row, pocket in enumerate(used):
        art = found.get(pocket.number)
        if art is not None or not job.artworks:
            prints[pocket.number] = PocketPrint(
                art, _changed(job.placing, changes.get(pocket.number)), _texts(job, pocket, row)
            )
    empty = tuple(p.number for p in used if p.number not in prints)
    return Spread(prints, empty, missing)


def _on_roll(job: Job, roll: Roll) -> Spread:
    """What lies on a roll's film; artworks that the job no longer has are left out."""
    known = {art.digest: art for art in job.artworks}
    # What was found to be off is side A's measure; side B is made to fit it.
    scale = 100.0 - roll.offset.scale if job.jig.over is not None else 100.0
    prints = {
        pocket.number: PocketPrint(
            known[lain.artwork], Placing(scale=scale), _texts(job, pocket, row), turned=lain.turned
        )
        for row, (pocket, lain) in enumerate(zip(job_pockets(job), roll.lain, strict=True))
        if lain.artwork in known
    }
    short = tuple((art, count) for art, count in missing(job) if count > 0)
    return Spread(prints, (), short)


def _queue(
    artworks: tuple[ArtworkFile, ...], taken: Counter[str], room: int
) -> tuple[list[ArtworkFile], tuple[tuple[ArtworkFile, int], ...]]:
    """Artworks one by one for ``room`` pockets, and those that find no room."""
    wanted = {
        art.digest: max(0, art.quantity - taken[art.digest])
        for art in artworks
        if art.quantity is not None
    }
    rest = max(0, room - sum(wanted.values()))
    queue = [art for art in artworks for _ in range(wanted.get(art.digest, rest))]
    over = Counter(art.digest for art in queue[room:])
    return queue[:room], tuple((art, over[art.digest]) for art in artworks if over[art.digest])


def _changed(placing: Placing, change: PocketChange | None) -> Placing:
    """A placing with a pocket's own change on top."""
    if change is None:
        return placing
    return placing.model_copy(
        update={
            "offset_x": placing.offset_x + change.offset_x,
            "offset_y": placing.offset_y + change.offset_y,
            "rotation": (placing.rotation + change.rotation) % 360.0,
            "scale": placing.scale * change.scale / 100.0,
            "mirror": placing.mirror is not change.mirror,
        }
    )


def _texts(job: Job, pocket: Pocket, row: int) -> tuple[TextBox, ...]:
    """The boxes with this pocket's words; boxes without words are left out."""
    values = {"#": str(pocket.number)}
    if job.table is not None and row < len(job.table.rows):
        values |= dict(zip(job.table.columns, job.table.rows[row], strict=True))
    filled = ((box, resolved(box.text, values).strip()) for box in job.texts)
    return tuple(box.model_copy(update={"text": words}) for box, words in filled if words)
