"""The line of waiting entries: who is before whom, and which are printed together."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterable

from farbe.model.base import BadInput
from farbe.queue.base import FIELDS, Entry, entry_of, members_in, set_in, transaction
from farbe.queue.order import check_loose, moved, placed_before
from farbe.queue.shelf import Shelf
from farbe.queue.states import OPEN
from farbe.said import say


class Line(Shelf):
    """Entries with a place, earlier ones first; those of a nest have one place together."""

    def move(self, numbers: int | Iterable[int], up: bool) -> None:
        """Put entries before or behind their neighbours for the same printer.

        Parameters
        ----------
        numbers : of the entries; a nest moves as one, past others as one
        up : towards the front

        Raises
        ------
        BadInput
            If one of them is not in the list.
        """
        chosen = (numbers,) if isinstance(numbers, int) else tuple(numbers)
        self._reorder(chosen, lambda listed, some: moved(listed, some, up))

    def put_before(self, numbers: Iterable[int], before: int | None) -> None:
        """Put entries, in their order, before another one.

        Parameters
        ----------
        numbers : of the entries
        before : the other's number; None is behind all

        Raises
        ------
        BadInput
            If one of them is not in the list.
        """
        self._reorder(tuple(numbers), lambda listed, some: placed_before(listed, some, before))

    def _reorder(
        self,
        numbers: tuple[int, ...],
        order: Callable[[list[Entry], frozenset[int]], dict[int, float]],
    ) -> None:
        marks = ", ".join("?" * len(OPEN))
        with transaction(self.folder) as base:
            rows = base.execute(
                f"SELECT {FIELDS} FROM entry WHERE state IN ({marks}) ORDER BY place, number",
                OPEN,
            ).fetchall()
            listed = [entry_of(row) for row in rows]
            known = {entry.number for entry in listed}
            lost = next((number for number in numbers if number not in known), None)
            if lost is not None:
                raise BadInput(
                    say("Job {lost} is not waiting, so it has no place to change.", lost=lost)
                )
            places = order(listed, frozenset(numbers))
            base.executemany(
                "UPDATE entry SET place = ? WHERE number = ?",
                [(place, number) for number, place in places.items()],
            )

    def nest(self, numbers: list[int]) -> int:
        """Print entries together on one board; the entry that leads.

        Parameters
        ----------
        numbers : of the entries

        Raises
        ------
        BadInput
            If they are not two at least that wait or are held, for the same printer.
        """
        with transaction(self.folder) as base:
            wanted = {m.number: m for number in numbers for m in members_in(base, number)}
            found = [wanted[number] for number in sorted(wanted)]
            if len(found) < 2:
                raise BadInput(say("Two jobs at least are nested; choose another one."))
            for entry in found:
                check_loose(entry)
            lead = found[0]
            if any(entry.lane != lead.lane for entry in found):
                raise BadInput(say("Jobs for different printers do not lie on one board."))
            set_in(base, wanted.keys(), nest=lead.number, place=lead.place, state=lead.state,
                 asked=lead.asked, prepared=0,
                   attempt=1 + max(entry.attempt for entry in found))  # fmt: skip
        self._forget_files(found)
        return lead.number

    def take_out(self, number: int) -> None:
        """Print an entry by itself again; the others of its nest stay together.

        Parameters
        ----------
        number : of the entry

        Raises
        ------
        BadInput
            If it is in no nest, or not waiting.
        """
        with transaction(self.folder) as base:
            members = members_in(base, number)
            found = next(entry for entry in members if entry.number == number)
            if not found.nest:
                raise BadInput(
                    say("Job {number}, {name}, is in no nest.", number=number, name=found.name)
                )
            check_loose(found)
            rest = [entry.number for entry in members if entry.number != number]
            set_in(base, rest, nest=rest[0] if len(rest) > 1 else 0, prepared=0)
            set_in(base, rest, attempt=found.attempt + 1)
            # Behind its former neighbours.
            set_in(base, {number}, nest=0, prepared=0, place=found.place + 0.001,
                   attempt=found.attempt + 1)  # fmt: skip
        self._forget_files(members)

    def _forget_files(self, entries: list[Entry]) -> None:
        """Hand-offs that no longer hold what is printed together."""
        for entry in entries:
            shutil.rmtree(self.files_path(entry.token), ignore_errors=True)
