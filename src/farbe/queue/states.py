"""What an entry of the queue can be doing, and how it gets from one to the other.

This is the whole state machine; ``docs/queue.md`` says it in words, and every change of a state
goes through :data:`MOVES`.
"""

from __future__ import annotations

from dataclasses import dataclass

from farbe.said import Spoken, say


class State(Spoken):
    """What an entry is doing."""

    HELD = "held"
    WAITING = "waiting"
    PRINTING = "printing"
    STOPPED = "stopped"
    HANDED = "handed over"
    TAKEN = "taken"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"
    ASIDE = "set aside"


#: Entries that are still to come to an end, and those that are past.
OPEN = (
    State.PRINTING, State.STOPPED, State.HANDED, State.TAKEN, State.WAITING, State.HELD,
    State.ASIDE,
)  # fmt: skip
PAST = (State.DONE, State.FAILED, State.CANCELLED)


@dataclass(frozen=True)
class Move:
    """A change of state: from which states, to which, and what is said where it cannot be."""

    since: tuple[State, ...]
    to: State
    refusal: str


MOVES = {
    "hold": Move((State.WAITING, State.STOPPED), State.HELD, say("it cannot be held")),
    "release": Move(
        (State.HELD, State.STOPPED, State.CANCELLED), State.WAITING, say("it cannot be released")
    ),
    "ask": Move(
        (State.WAITING, State.HELD, State.STOPPED), State.WAITING, say("it cannot be printed")
    ),
    "begin": Move(
        (State.WAITING, State.HELD, State.STOPPED), State.PRINTING, say("it cannot be printed")
    ),
    "stop": Move((State.PRINTING,), State.STOPPED, say("it is not printing")),
    "give back": Move((State.PRINTING,), State.WAITING, say("it is not printing")),
    "finish": Move((State.PRINTING,), State.DONE, say("it is not printing")),
    "hand over": Move((State.PRINTING,), State.HANDED, say("it is not being handed over")),
    "take": Move((State.HANDED,), State.TAKEN, say("it was not handed over")),
    "printed": Move(
        (State.HANDED, State.TAKEN, State.STOPPED, State.DONE), State.DONE,
        say("it was not handed over"),
    ),
    "failed": Move(
        (State.HANDED, State.TAKEN, State.STOPPED, State.DONE), State.FAILED,
        say("it was not handed over"),
    ),
    "cancel": Move(
        (State.WAITING, State.HELD, State.PRINTING, State.STOPPED, State.HANDED, State.TAKEN,
         State.ASIDE),
        State.CANCELLED, say("it cannot be cancelled"),
    ),
    "withdraw": Move((State.WAITING, State.HELD), State.CANCELLED, say("it cannot be withdrawn")),
    "anew": Move(
        (State.WAITING, State.HELD, State.STOPPED), State.WAITING, say("it cannot begin anew")
    ),
}  # fmt: skip
