"""Rows become orders, or are refused with a reason."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError

from farbe.files.store import ArtStore
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput, sentence
from farbe.orders.columns import Columns
from farbe.orders.dates import day_first, day_of
from farbe.orders.listfile import ListOfRows, Row
from farbe.orders.order import MOST_OF_ONE, MOST_PIECES, Order, Refused
from farbe.orders.product import Product, Products
from farbe.render.raster import Report, unwatched
from farbe.said import say

#: What says yes in a column.
YES = ("yes", "y", "x", "1", "true", "ja", "j")
NO = ("", "no", "n", "0", "false", "nein")
#: Stands for a text that is meant to be empty.
NOTHING = "-"


class ArtShelf:
    """Artwork that lists name, each file read once."""

    def __init__(self, folder: Path, store: ArtStore) -> None:
        self._folder, self._store = folder, store
        self._known: dict[Path, ArtworkFile | str] = {}

    def path(self, name: str) -> Path:
        """Where the file of a name is, beside the list or wherever its path leads.

        Parameters
        ----------
        name : as the list writes it
        """
        return self._folder / name.replace("\\", "/")

    def artwork(self, name: str) -> ArtworkFile:
        """The artwork of a name.

        Parameters
        ----------
        name : as the list writes it

        Raises
        ------
        BadInput
            If it is not there, or cannot be read.
        """
        path = self.path(name)
        if path not in self._known:
            self._known[path] = self._read(path, name)
        found = self._known[path]
        if isinstance(found, str):
            raise BadInput(found)
        return found

    def _read(self, path: Path, name: str) -> ArtworkFile | str:
        # A fault is kept as well: a thousand rows may name one file.
        if not _is_file(path):
            return say("The file {name} is not there; put it beside the list.", name=name[:200])
        try:
            return self._store.add_artwork(path)
        except BadInput as error:
            return str(error)


def _is_file(path: Path) -> bool:
    """Whether there is such a file; names that no file can have are none."""
    try:
        return path.is_file()
    except (OSError, ValueError):
        return False


@dataclass(frozen=True)
class Sorted:
    """What a list asks for.

    Attributes
    ----------
    orders : that can be made
    refused : rows that cannot
    remarks : what is odd about orders that can be made
    """

    orders: tuple[Order, ...]
    refused: tuple[Refused, ...]
    remarks: tuple[str, ...]


def orders_of(
    rows: ListOfRows,
    columns: Columns,
    products: Products,
    shelf: ArtShelf,
    report: Report = unwatched,
) -> Sorted:
    """The orders of a list.

    Parameters
    ----------
    rows : as they are written
    columns : which says what
    products : that may be named
    shelf : of the artwork
    report : told the share that is done, 0 to 1
    """
    by_day = day_first(columns.value(row.fields, "due") for row in rows.rows)
    reader = _Reader(columns, products, shelf, by_day)
    for at, row in enumerate(rows.rows, start=1):
        reader.take(row)
        report(at / len(rows.rows))
    return Sorted(tuple(reader.orders), tuple(reader.refused), tuple(reader.remarks))


class _Reader:
    """Takes row after row."""

    def __init__(
        self, columns: Columns, products: Products, shelf: ArtShelf, by_day: bool | None
    ) -> None:
        self._columns, self._products, self._shelf = columns, products, shelf
        self._by_day = by_day
        self._lines: dict[str, int] = {}
        self._pieces = 0
        self.orders: list[Order] = []
        self.refused: list[Refused] = []
        self.remarks: list[str] = []

    def take(self, row: Row) -> None:
        try:
            order = self._order(row)
        except BadInput as error:
            number = self._columns.value(row.fields, "order")[:60]
            self.refused.append(
                Refused(line=row.line, order=number, reason=str(error), fields=row.written)
            )
            return
        self._lines[order.number] = row.line
        if not order.cancelled:
            self._pieces += order.quantity
        self.orders.append(order)

    def _order(self, row: Row) -> Order:
        if row.fault:
            raise BadInput(row.fault)
        of = self._columns.value
        number = of(row.fields, "order")
        if not number:
            raise BadInput(say("It has no order number."))
        if number in self._lines:
            raise BadInput(
                say("Order {number} is on line {line} already; number them apart.",
                    number=number[:60], line=self._lines[number])
            )  # fmt: skip
        cancelled = _yes(of(row.fields, "cancelled"))
        product = self._product(of(row.fields, "product"))
        texts = self._texts(row, product, number)
        artwork = of(row.fields, "artwork")
        digest = self._shelf.artwork(artwork).digest if artwork and not cancelled else None
        # On film every piece is an artwork.
        bare = not artwork and not product.own_artwork and (product.on_film or not texts)
        if bare and not cancelled:
            raise BadInput(
                say("It has no artwork, and {product} has none of its own.", product=product.name)
            )
        quantity = _quantity(of(row.fields, "quantity"))
        if self._pieces + quantity > MOST_PIECES:
            raise BadInput(
                say("With it there are more than {most} pieces; split the list.", most=MOST_PIECES)
            )
        try:
            return Order(
                number=number, product=product.name,
                artwork=str(self._shelf.path(artwork).absolute()) if artwork else "",
                digest=digest, texts=texts, quantity=quantity,
                due=day_of(of(row.fields, "due"), self._by_day),
                note=of(row.fields, "note"), line=row.line, cancelled=cancelled,
            )  # fmt: skip
        except ValidationError as error:
            raise BadInput(sentence(error)) from error

    def _product(self, name: str) -> Product:
        if not name:
            raise BadInput(say("It names no product."))
        found = self._products.named(name)
        if found is None:
            known = ", ".join(self._products.names) or say("none")
            raise BadInput(
                say("There is no product {name}; there are: {known}.",
                    name=name[:80], known=known[:400])
            )  # fmt: skip
        return found

    def _texts(self, row: Row, product: Product, number: str) -> tuple[tuple[str, str], ...]:
        folded = {column.casefold(): column for column in self._columns.texts}
        found = []
        for name in product.columns:
            column = folded.get(name.casefold())
            words = row.fields.get(column, "").strip() if column is not None else ""
            if not words:
                raise BadInput(
                    say("{product} needs its text {name}; write it, or - for none.",
                        product=product.name, name=name)
                )  # fmt: skip
            found.append((name, "" if words == NOTHING else words))
        asked = {name.casefold() for name in product.columns}
        more = [column for column in self._columns.texts
                if column.casefold() not in asked and row.fields.get(column, "").strip()
                and column.casefold() == "text"]  # fmt: skip
        if more:
            self.remarks.append(
                say("Order {number} has a text, and {product} has no place for it.",
                    number=number[:60], product=product.name)
            )  # fmt: skip
        return tuple(found)


def _yes(words: str) -> bool:
    plain = words.casefold()
    if plain in YES:
        return True
    if plain in NO:
        return False
    raise BadInput(
        say("“{words}” in the column for cancelled orders is neither yes nor no.", words=words[:40])
    )


def _quantity(words: str) -> int:
    """As whole numbers are written; one where the list does not say."""
    if not words:
        return 1
    if re.fullmatch(r"[0-9]{1,12}(?:[.,]0{1,2})?", words) is None:
        raise BadInput(say("“{words}” is no number of pieces.", words=words[:40]))
    count = int(re.split("[.,]", words)[0])
    if count < 1:
        raise BadInput(say("It asks for no pieces; strike it out, or say how many."))
    if count > MOST_OF_ONE:
        raise BadInput(
            say("It asks for {count} pieces; {most} are the most of one order.",
                count=count, most=MOST_OF_ONE)
        )  # fmt: skip
    return count
