"""What was done with each hand-off, so that a press that was off finds its bed as it was.

Ink that lies on pieces stays there when the power fails. The press therefore writes down each
thing that it did before it says so, and does it again in its picture of the bed, without ink and
time, when it needs that picture: after it was off, and when a board that was taken out comes back.
"""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from farbe.model.base import BadInput
from farbe.press.machine import TestPress
from farbe.said import say

#: Hand-offs that are remembered.
KEPT = 300
#: Name of what has no token; only the last one of these is remembered.
UNNAMED = "unnamed"
#: Every run that was printed to its end, a line each.
LEDGER = "printed.jsonl"

Done = dict[str, Any]


class Memory:
    """A file for each hand-off in the press's spool, and which of them lies on the bed."""

    def __init__(self, spool: Path) -> None:
        self._spool = spool
        self._folder = spool / "beds"
        self._folder.mkdir(parents=True, exist_ok=True)
        self.current: Done = {}
        last = self._read(self._folder / "current")
        if last is not None:
            self.current = self._of(str(last.get("token", ""))) or {}
            self._book()

    @property
    def token(self) -> str:
        """By what the hand-off on the bed is known; empty without one."""
        return str(self.current.get("token", ""))

    @property
    def complete(self) -> frozenset[str]:
        """Runs of the hand-off on the bed that are printed."""
        return frozenset(one["run"] for one in self.current.get("done", ()) if one["do"] == "print")

    def begin(self, token: str, folder: Path, under: Done | None) -> None:
        """Another hand-off lies on the bed, on what was printed on the board before.

        Parameters
        ----------
        token : empty for one that has none
        folder : in the spool
        under : of the hand-off before, if its board stayed; see :meth:`board`
        """
        known = self._of(token) if token else None
        what = known if known is not None else {"done": [], "under": under}
        self.current = what | {"token": token, "folder": folder.name}
        self._write(self._folder / "current", {"token": token})
        self._keep()
        self._forget()

    def board(self) -> Done | None:
        """What stays when pieces are taken out and the board is left: its guide."""
        if not self.current:
            return None
        guides = [one for one in self.current["done"] if str(one.get("run")).startswith("guide")]
        if not guides and self.current["under"] is not None:
            return dict(self.current["under"])
        return {"folder": self.current["folder"], "done": guides}

    def film(self) -> Done | None:
        """What stays when the film is loaded again: all that is printed on it."""
        if not self.current:
            return None
        return self.current | {"film": True}

    @property
    def by_hand(self) -> list[str]:
        """What was done by hand with what is on the bed, in its order."""
        done = self.current.get("done", ())
        return [one["do"] for one in done if one["do"] in ("place", "turn")]

    def add(self, **done: Any) -> None:
        """Something was done; what was begun of the same run is now part of that."""
        if not self.current:
            return
        kept = [one for one in self.current["done"]
                if one["do"] != "begin" or one["run"] != done.get("run")]  # fmt: skip
        if done["do"] == "print":
            done |= {"ledger": self._ledger_bytes()}
        self.current = self.current | {"done": [*kept, done]}
        self._keep()
        self._book()

    def _book(self) -> None:
        """Put a run that was printed last into the ledger, unless it was, before the power failed.

        What is remembered of it says how long the ledger was without it.
        """
        last: Done = next(reversed(self.current.get("done", ())), {})
        if last.get("ledger") == self._ledger_bytes():
            line = json.dumps({"token": self.token, "run": last["run"]})
            with (self._spool / LEDGER).open("a", encoding="utf-8") as ledger:
                ledger.write(line + "\n")

    def _ledger_bytes(self) -> int:
        ledger = self._spool / LEDGER
        return ledger.stat().st_size if ledger.exists() else 0

    def bring_back(self, press: TestPress) -> None:
        """Give the press the bed as it was.

        Parameters
        ----------
        press : that is given what lay on its bed

        Raises
        ------
        BadInput
            If a hand-off that lay there is gone.
        """
        self._restore(press, self.current)

    def _restore(self, press: TestPress, what: Done) -> None:
        under = what.get("under")
        if under is not None:
            self._restore(press, under)
        film = under is not None and bool(under.get("film"))
        press.take(
            self._spool / what["folder"],
            keep_board=under is not None and not film, keep_film=film,
        )  # fmt: skip
        _again(press, what["done"])

    def used(self) -> frozenset[str]:
        """Names of spooled folders that are still to be read: of the bed, and of what lies under
        what is remembered."""
        known = (self._read(path) for path in self._folder.glob("*.json"))
        todo = [self.current or None, *(one.get("under") for one in known if one is not None)]
        found = set()
        for one in todo:
            while one is not None:
                found.add(str(one["folder"]))
                one = one.get("under")
        return frozenset(found)

    def _of(self, token: str) -> Done | None:
        return self._read(self._path(token))

    def _path(self, token: str) -> Path:
        plain = "".join(c for c in token if c.isalnum() or c in "-_")[:100]
        return self._folder / f"{plain or UNNAMED}.json"

    def _keep(self) -> None:
        self._write(self._path(self.token), self.current)

    @staticmethod
    def _read(path: Path) -> Done | None:
        try:
            found = json.loads(path.read_text(encoding="utf-8"))
            if not isinstance(found, dict):
                raise ValueError("not a record")
            return found
        except FileNotFoundError:
            return None
        except (OSError, ValueError) as error:
            print(
                say(
                    "{path} cannot be read ({error}); it counts as not there.",
                    path=path,
                    error=error,
                ),
                file=sys.stderr,
            )
            return None

    @staticmethod
    def _write(path: Path, what: Done) -> None:
        fresh = path.with_name(f".{path.name}.part")
        with fresh.open("w", encoding="utf-8") as file:
            json.dump(what, file)
            file.flush()
            os.fsync(file.fileno())
        fresh.replace(path)

    def _forget(self) -> None:
        """Only so many are remembered."""
        known = sorted(self._folder.glob("*.json"), key=lambda path: path.stat().st_mtime)
        for path in known[:-KEPT]:
            path.unlink(missing_ok=True)


def _again(press: TestPress, done: list[Done]) -> None:
    for one in _checked(done):
        match one["do"]:
            case "place":
                press.place()
            case "turn":
                press.slip = float(one["x"]), float(one["y"])
                press.turn_over()
            case "move":
                press.move_film(float(one["x"]), float(one["y"]))
            case "print" | "begin":
                press.nozzles_out = frozenset(one["out"])
                press.finds_lines = True
                press.print_run(one["run"], lambda *_: None, until=one.get("layers"))


def _checked(done: list[Done]) -> Iterator[Done]:
    for one in done:
        if one["do"] not in ("place", "turn", "move", "print", "begin"):
            raise BadInput(say("The press does not know what {command} was.", command=one["do"]))
        yield one
