"""Which pieces print together: pure, and the same for the same orders."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from farbe.orders.order import Order
from farbe.orders.plan import Load
from farbe.orders.product import Product


@dataclass(frozen=True)
class Item:
    """A piece that is to be laid.

    Attributes
    ----------
    order : whose it is
    piece : which of the order's, from 1
    product : that it is
    """

    order: Order
    piece: int
    product: Product

    @property
    def key(self) -> tuple[str, int]:
        """What tells it from all others."""
        return self.order.number, self.piece

    @property
    def group(self) -> str:
        """What lies on one board or film has it in common; where some have artwork, all have."""
        bare = not self.order.artwork and not self.product.own_artwork
        return f"{self.product.group}-words" if bare else self.product.group


#: Whether pieces go onto one sheet of film.
Fits = Callable[[Sequence[Item]], bool]
Filled = tuple[Item, ...]


def content_of(items: Iterable[Item]) -> str:
    """What pieces look like and which they are, as one word.

    Parameters
    ----------
    items : in any order
    """
    told = sorted(
        [item.order.number, item.piece, item.group, item.order.product,
         item.order.digest or "", item.order.texts, item.order.note]
        for item in items
    )  # fmt: skip
    return hashlib.sha256(json.dumps(told).encode("utf-8")).hexdigest()[:16]


def free_items(
    orders: Sequence[Order],
    products: Mapping[str, Product],
    taken: frozenset[tuple[str, int]],
    *,
    until: date | None = None,
) -> dict[str, list[Item]]:
    """The pieces that no load has for good, by what they have in common, due ones first.

    Parameters
    ----------
    orders : in the order of the list
    products : by the names that orders have
    taken : pieces that stay where they are
    until : those that are due later wait; None lays all
    """
    found: dict[str, list[Item]] = {}
    wanted = (one for one in orders if not one.cancelled and not one.packed)
    for order in sorted(wanted, key=lambda one: one.by):
        if until is not None and order.by > until:
            continue
        product = products[order.product]
        for piece in range(1, order.quantity + 1):
            if (order.number, piece) not in taken:
                item = Item(order, piece, product)
                found.setdefault(item.group, []).append(item)
    return found


def boards(items: Sequence[Item], pockets: int) -> list[Filled]:
    """Pieces on as few boards as hold them, in their order.

    Parameters
    ----------
    items : of one group
    pockets : of a board
    """
    return [tuple(items[at : at + pockets]) for at in range(0, len(items), pockets)]


def films(items: Sequence[Item], fits: Fits, first: int) -> list[Filled]:
    """Pieces on sheets of film: onto each goes as much of what is left as it takes, in order.

    Parameters
    ----------
    items : of one group; each goes onto a sheet by itself
    fits : whether some go onto one sheet
    first : how many are likely to
    """
    found: list[Filled] = []
    start, guess = 0, max(1, first)
    while start < len(items):
        guess = _most(items[start:], fits, guess)
        found.append(tuple(items[start : start + guess]))
        start += guess
    return found


def _most(items: Sequence[Item], fits: Fits, guess: int) -> int:
    """How many of the first fit; what fits in fewer is taken to fit as well."""
    low, high = 1, len(items) + 1
    at = min(guess, len(items))
    step = max(1, at // 8)
    while high - low > 1:
        if fits(items[:at]):
            low = at
            at = min(at + step, high - 1) if high > len(items) else (low + high) // 2
        else:
            high = at
            at = max(low + (high - low) // 2, high - step) if low == 1 else (low + high) // 2
        at = min(max(at, low + 1), high - 1)
        step *= 2
    return low


@dataclass(frozen=True)
class Wanted:
    """A load that is to be made anew.

    Attributes
    ----------
    items : its pieces
    group : what they have in common
    content : what they look like
    """

    items: Filled
    group: str
    content: str

    @property
    def by(self) -> date:
        """The first day by which one of them is due."""
        return min(item.order.by for item in self.items)


@dataclass(frozen=True)
class Refilled:
    """What becomes of a plan's loads.

    Attributes
    ----------
    kept : loads that stay as they are, in their order
    gone : loads that are no more
    wanted : those to be made, due ones first
    """

    kept: tuple[Load, ...]
    gone: tuple[Load, ...]
    wanted: tuple[Wanted, ...]


def refilled(
    loads: Sequence[Load],
    free: Mapping[str, Sequence[Item]],
    fill: Callable[[Sequence[Item]], list[Filled]],
) -> Refilled:
    """Plan what may be planned anew, and leave the rest.

    Loads that stay are kept, and all of a group whose pieces are those that they were. Otherwise
    the group is laid anew; of that, what comes out as it was is kept.

    Parameters
    ----------
    loads : as they are
    free : pieces that no load has for good, by group
    fill : lays the pieces of a group
    """
    kept = {load.number for load in loads if load.stays}
    open_loads = [load for load in loads if not load.stays]
    wanted: list[Wanted] = []
    for group, items in free.items():
        own = [load for load in open_loads if load.group == group]
        if _as_they_were(own, items):
            kept |= {load.number for load in own}
            continue
        known = {load.content: load for load in own}
        for some in fill(items):
            content = content_of(some)
            same = known.pop(content, None)
            if same is not None:
                kept.add(same.number)
            else:
                wanted.append(Wanted(some, group, content))
    return Refilled(
        tuple(load for load in loads if load.number in kept),
        tuple(load for load in loads if load.number not in kept),
        tuple(sorted(wanted, key=lambda one: one.by)),
    )


def _as_they_were(loads: Sequence[Load], items: Sequence[Item]) -> bool:
    """Whether loads print just these pieces, looking as they do."""
    by_key = {item.key: item for item in items}
    if sum(len(load.places) for load in loads) != len(items):
        return False
    for load in loads:
        keys = [(place.order, place.piece) for place in load.places]
        if any(key not in by_key for key in keys):
            return False
        if content_of(by_key[key] for key in keys) != load.content:
            return False
    return True


def in_print_order(
    kept: Sequence[Load], made: Sequence[Load], by: Mapping[int, date]
) -> list[Load]:
    """Loads in the order of printing: those that were there as they stood, new ones by their day.

    Parameters
    ----------
    kept : in their order
    made : new ones, due first
    by : the first day by which each load is due, by its number
    """
    result = list(kept)
    for load in made:
        later = (
            at
            for at, one in enumerate(result)
            if not one.stays and by[one.number] > by[load.number]
        )
        result.insert(next(later, len(result)), load)
    return result
