"""The job of a load: a product's, with its orders' artwork and words in the places."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.lengths import first_lengths, strip_room
from farbe.layout.packboxes import go_on_a_sheet
from farbe.layout.rolls import film_strip, packed
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.face import Face
from farbe.model.job import Job
from farbe.model.pick import Pick
from farbe.model.roll import Packing, Roll
from farbe.model.text import Table
from farbe.orders.filling import Item
from farbe.orders.plan import Placed
from farbe.orders.rows import ArtShelf
from farbe.plan.spots import with_plates
from farbe.render.footprints import ganged
from farbe.said import say

#: The column of a load's table that names the artwork of each place.
ARTWORK = "artwork"
#: Of the table: the list's own words for each piece.
TABLE = "orders"


@dataclass(frozen=True)
class MadeLoad:
    """A load's job, and where its pieces lie."""

    job: Job
    places: tuple[Placed, ...]


def _artwork(item: Item, shelf: ArtShelf) -> ArtworkFile | None:
    """What a piece prints, as wide as the product's own artwork; None for words alone."""
    own = item.product.job.faces[0].artworks
    if not item.order.artwork:
        return own[0].replace(quantity=None) if own else None
    found = shelf.artwork(item.order.artwork)
    if not own:
        return found
    wide = own[0].width
    return found.replace(width=wide, height=found.height * wide / found.width)


def _arts(
    items: Sequence[Item], shelf: ArtShelf
) -> tuple[list[ArtworkFile], list[ArtworkFile | None]]:
    """The different artworks of pieces, told apart by key and name; and which each one prints."""
    known: dict[ArtworkFile, ArtworkFile] = {}
    names, keys = Counter[str](), Counter[str]()
    each: list[ArtworkFile | None] = []
    for item in items:
        plain = _artwork(item, shelf)
        if plain is None:
            each.append(None)
            continue
        if plain not in known:
            folded = plain.file_name.casefold()
            number, copy = names[folded], keys[plain.digest]
            names[folded] += 1
            keys[plain.digest] += 1
            known[plain] = plain.replace(
                file_name=_numbered(plain.file_name, number), copy_number=copy
            )
            names[known[plain].file_name.casefold()] += number > 0
        each.append(known[plain])
    return list(known.values()), each


def _numbered(name: str, number: int) -> str:
    """A file's name, told from others of the same name in other folders."""
    if not number:
        return name
    stem, dot, suffix = name.rpartition(".")
    mark = f" ({number + 1})"
    return f"{stem[: 70 - len(suffix)]}{mark}.{suffix}" if dot else name[:70] + mark


def _table(items: Sequence[Item], arts: Sequence[ArtworkFile | None]) -> Table:
    """One row a piece: whose it is, what it prints, its words."""
    of_orders = ("order", "product", "note", "due")
    texts = [name for name in items[0].product.columns if name not in (*of_orders, ARTWORK)]
    rows = []
    for item, art in zip(items, arts, strict=True):
        order, words = item.order, dict(item.order.texts)
        due = order.due.isoformat() if order.due is not None else ""
        rows.append(
            (order.number, order.product, order.note, due, art.file_name if art else "",
             *(words.get(name, "") for name in texts))
        )  # fmt: skip
    return Table(file_name=TABLE, columns=(*of_orders, ARTWORK, *texts), rows=tuple(rows))


def _filled(face: Face, table: Table, serial: int) -> Face:
    first = face.serial.start + serial * face.serial.step
    return face.replace(table=table, serial=face.serial.replace(start=max(0, first)))


def _picks(items: Sequence[Item], numbers: Sequence[int]) -> tuple[Pick, ...]:
    return tuple(
        Pick(number=number, order=item.order.number, note=item.order.note)
        for item, number in zip(items, numbers, strict=True)
    )


def made_load(
    items: Sequence[Item], name: str, serial: int, shelf: ArtShelf, store: ArtStore
) -> MadeLoad:
    """The job of a load.

    Parameters
    ----------
    items : of one group, as many as go onto a board, or a sheet of film
    name : of the job
    serial : how many pieces had a serial number before
    shelf : of the orders' artwork
    store : that holds their files

    Raises
    ------
    BadInput
        If an artwork does not fit, or cannot be read any more.
    """
    pattern = items[0].product.job
    orders = {item.order.number for item in items}
    base = pattern.replace(
        name=name, made_guide=None, guesses=(), load=0,
        order=next(iter(orders)) if len(orders) == 1 else "",
    )  # fmt: skip
    return _film(base, items, serial, shelf, store) if items[0].product.on_film else _board(
        base, items, serial, shelf
    )  # fmt: skip


def _board(base: Job, items: Sequence[Item], serial: int, shelf: ArtShelf) -> MadeLoad:
    pockets = items[0].product.pockets
    if len(items) > len(pockets):
        raise BadInput(say("A board holds {most} pieces.", most=len(pockets)))
    arts, each = _arts(items, shelf)
    table = _table(items, each)
    first, *others = (_filled(face, table, serial) for face in base.faces)
    counts = Counter(art.key for art in each if art is not None)
    first = first.replace(
        artworks=tuple(art.replace(quantity=counts[art.key]) for art in arts),
        artwork_column=ARTWORK if arts else None,
        changes=tuple(change.replace(artwork=None) for change in first.changes),
    )  # fmt: skip
    used = pockets[: len(items)]
    job = base.replace(
        faces=(first, *others), picks=_picks(items, used),
        jig=base.jig.replace(off=base.jig.off | frozenset(pockets[len(items) :])),
    )  # fmt: skip
    shown = base.jig.count_from - 1
    places = tuple(
        Placed(order=item.order.number, piece=item.piece, pocket=number + shown)
        for item, number in zip(items, used, strict=True)
    )
    return MadeLoad(_with_all_plates(job), places)


def _with_all_plates(job: Job) -> Job:
    face = Faced(job)
    for art in job.faces[0].artworks:
        face = with_plates(face, art)
    return face.job


def _film(
    base: Job, items: Sequence[Item], serial: int, shelf: ArtShelf, store: ArtStore
) -> MadeLoad:
    arts, each = _arts(items, shelf)
    counts = Counter(art.key for art in each if art is not None)
    made = Faced(_with_all_plates(_on_film(base, arts, counts)))
    laid = ganged(made, store)
    roll = laid.roll
    if roll is None or len(first_lengths(laid.job)) > 1:
        raise BadInput(say("A sheet of film does not hold these {count} pieces.", count=len(items)))
    waiting: dict[str, list[int]] = {}
    for at, art in enumerate(each):
        if art is not None:
            waiting.setdefault(art.key, []).append(at)
    ordered = [items[waiting[place.artwork].pop(0)] for place in roll.places]
    by_key = {art.key: art for art in arts}
    table = _table(ordered, [by_key[place.artwork] for place in roll.places])
    numbers = range(1, len(ordered) + 1)
    job = laid.job.replace(
        faces=tuple(_filled(face, table, serial) for face in laid.job.faces),
        picks=_picks(ordered, numbers),
    )
    shown = base.jig.count_from - 1
    places = tuple(
        Placed(order=item.order.number, piece=item.piece, place=number + shown)
        for item, number in zip(ordered, numbers, strict=True)
    )
    return MadeLoad(job, places)


def _on_film(base: Job, arts: Sequence[ArtworkFile], counts: Counter[str]) -> Job:
    """A job on film with these artworks, and nothing laid yet."""
    first, *others = base.faces
    made = tuple(art.replace(quantity=counts[art.key]) for art in arts)
    medium = base.medium
    if isinstance(medium, Roll):
        medium = medium.replace(places=())
    return base.replace(faces=(first.replace(artworks=made, changes=()), *others), medium=medium)


def fits_on_film(shelf: ArtShelf) -> Callable[[Sequence[Item]], bool]:
    """Whether pieces go onto one sheet of their film, by their rectangles.

    True shapes are never laid worse than rectangles are.

    Parameters
    ----------
    shelf : of the orders' artwork
    """

    def fits(items: Sequence[Item]) -> bool:
        arts = (_artwork(item, shelf) for item in items)
        sizes = [art.cropped for art in arts if art is not None]
        return go_on_a_sheet(sizes, film_strip(Faced(items[0].product.job)))

    return fits


def refuse_too_large(item: Item, shelf: ArtShelf) -> None:
    """Refuse a piece that is larger than a sheet of its film.

    Parameters
    ----------
    item : of a product on film
    shelf : of the orders' artwork

    Raises
    ------
    BadInput
        If it does not fit.
    """
    art = _artwork(item, shelf)
    if art is None:
        return
    job = _on_film(item.product.job, [art], Counter([art.key]))
    roll = job.medium
    if isinstance(roll, Roll):
        packed(Faced(job.replace(medium=roll.replace(packing=Packing.BOXES))), {})


def likely_on_film(items: Sequence[Item], shelf: ArtShelf) -> int:
    """How many of some pieces are likely to fill a sheet, by their areas.

    Parameters
    ----------
    items : of one group
    shelf : of the orders' artwork
    """
    roll = items[0].product.job.medium
    if not isinstance(roll, Roll):
        return 1
    job = items[0].product.job
    grow = roll.gap + 2 * job.bleed
    room = roll.room * (roll.longest - roll.lead - roll.trail - strip_room(job))
    taken, count = 0.0, 0
    for item in items:
        art = _artwork(item, shelf)
        if art is None:
            continue
        wide, high = art.cropped
        taken += (wide + grow) * (high + grow)
        if taken > 0.9 * room:
            break
        count += 1
    return max(1, count)
