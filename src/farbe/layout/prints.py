"""What each pocket prints: its artwork, where it lies, and its text."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from functools import lru_cache

from farbe.layout.lettering import resolved
from farbe.layout.pockets import Pocket, used_pockets
from farbe.model.job import Job
from farbe.model.placing import Placing, PocketChange
from farbe.model.side import ArtworkFile
from farbe.model.text import TextBox


@dataclass(frozen=True)
class PocketPrint:
    """What one pocket prints. Without an artwork in a job that has some, nothing prints there."""

    artwork: ArtworkFile | None
    placing: Placing
    texts: tuple[TextBox, ...]

    @property
    def plain(self) -> PocketPrint:
        """The same without its text."""
        return PocketPrint(self.artwork, self.placing, ())


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
    return job.model_copy(
        update={
            "artworks": () if what.artwork is None else (what.artwork,),
            "placing": what.placing,
            "texts": what.texts,
            "changes": (),
            "table": None,
        }
    )


@lru_cache(maxsize=8)
def spread(job: Job) -> Spread:
    """Lay the artworks over the pockets that are on, in the order of the numbers.

    A pocket whose artwork is chosen takes one of that artwork's quantity. The others are filled
    artwork by artwork; the one without a quantity takes what the others leave.
    """
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
