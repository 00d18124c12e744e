"""Values on their way between two processes: what the other side has is named, not sent again.

What is told apart by which one it is, as pixels and values of a job are, stays the very same thing
over there however often it is sent, for as long as it lasts here.
"""

from __future__ import annotations

import dataclasses
import io
import pickle
import struct
import weakref
from collections import OrderedDict, deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import Enum, auto
from functools import partial
from itertools import count
from socket import MSG_WAITALL, SO_RCVBUF, SO_SNDBUF, SOL_SOCKET, socket
from threading import Lock
from typing import Any

import numpy as np

from farbe.model.base import BadInput, Value

#: Bytes from which on blocks of bytes are named, too, and of how many that is remembered.
LARGE, BLOCKS = 4096, 16
#: Bytes that may lie between the two ends.
BETWEEN = 4 << 20
#: Bytes of the head and of the body of what is sent.
_SIZES = struct.Struct("<QQ")


class _Kind(Enum):
    """How a class of things is sent."""

    #: Of bytes, which need not be packed.
    ARRAY = auto()
    BYTES = auto()
    #: Of fields, each of which is told apart by which one it is.
    VALUE = auto()
    RECORD = auto()
    #: Of fields, and compared by them, so that a copy does as well.
    COPIED = auto()


class _Kinds(dict[type, _Kind | None]):
    """How classes are sent, told when they are first met; None of what is sent as it is."""

    def __missing__(self, cls: type) -> _Kind | None:
        found = self[cls] = _kind_of(cls)
        return found


_KINDS = _Kinds()


def _kind_of(cls: type) -> _Kind | None:
    if issubclass(cls, np.ndarray):
        return _Kind.ARRAY
    if cls is bytes:
        return _Kind.BYTES
    if issubclass(cls, Value):
        return _Kind.VALUE
    if not dataclasses.is_dataclass(cls):
        return None
    compared: bool = vars(cls)["__dataclass_params__"].eq
    return _Kind.COPIED if compared else _Kind.RECORD


def _fields_of(thing: Any) -> dict[str, Any]:
    """What a dataclass is made of; not what was worked out of that."""
    return {part.name: getattr(thing, part.name) for part in dataclasses.fields(thing) if part.init}


def _record(cls: Callable[..., Any], fields: Mapping[str, Any]) -> Any:
    return cls(**fields)


def _refusal(cls: type[BadInput], sentence: str, told: dict[str, Any]) -> BadInput:
    made = cls.__new__(cls, sentence)
    vars(made).update(told)
    return made


def _value(cls: type[Value], fields: dict[str, Any], told: set[str]) -> Value:
    """A value of fields that were checked when it was first made."""
    made = cls.__new__(cls)
    made.__setstate__({
        "__dict__": fields, "__pydantic_fields_set__": told,
        "__pydantic_extra__": None, "__pydantic_private__": None,
    })  # fmt: skip
    return made


@dataclass(frozen=True)
class _Block:
    """What is known of an array, or of bytes, before its bytes are there."""

    number: int
    dtype: str
    shape: tuple[int, ...]
    writeable: bool

    @classmethod
    def of(cls, number: int, thing: Any) -> _Block:
        if isinstance(thing, bytes):
            return cls(number, "", (len(thing),), writeable=False)
        return cls(number, thing.dtype.str, thing.shape, bool(thing.flags.writeable))

    def read(self, line: socket) -> Any:
        if not self.dtype:
            return bytes(_read(line, self.shape[0]))
        made = np.empty(self.shape, self.dtype)
        _read_into(line, made.reshape(-1).view(np.uint8).data)
        made.setflags(write=self.writeable)
        return made


def _bytes_of(thing: Any) -> Any:
    """The bytes of an array, or bytes themselves."""
    if isinstance(thing, bytes):
        return thing
    return np.ascontiguousarray(thing).reshape(-1).view(np.uint8).data


def _read(line: socket, size: int) -> bytearray:
    room = bytearray(size)
    _read_into(line, memoryview(room))
    return room


def _read_into(line: socket, room: memoryview) -> None:
    while room.nbytes:
        count = line.recv_into(room, 0, MSG_WAITALL)
        if not count:
            raise EOFError
        room = room[count:]


class _Packer(pickle.Pickler):
    """Packs one thing, and keeps what becomes known over there by that."""

    def __init__(
        self, file: io.BytesIO, number_of: Callable[[object], int | None], numbers: count[int]
    ) -> None:
        super().__init__(file, protocol=5)
        self._number_of, self._numbers = number_of, numbers
        #: What is new, by its number.
        self.new: dict[int, Any] = {}
        self._new: dict[int, int] = {}

    def persistent_id(self, thing: Any) -> Any:
        # This is asked of everything that is sent, most of which is plain.
        kind = _KINDS[type(thing)]
        if kind is None:
            return None
        if (
            kind is _Kind.COPIED
            or (kind is _Kind.BYTES and len(thing) < LARGE)
            or (kind is _Kind.ARRAY and thing.dtype.hasobject)
        ):
            return None
        number = self._new.get(id(thing)) or self._number_of(thing)
        if number is not None:
            return number
        number = next(self._numbers)
        self.new[number], self._new[id(thing)] = thing, number
        if kind is _Kind.VALUE:
            own = vars(thing)
            fields = {name: own[name] for name in type(thing).model_fields}
            return number, _value, type(thing), fields, set(thing.model_fields_set)
        if kind is _Kind.RECORD:
            return number, _record, type(thing), _fields_of(thing)
        return number

    def reducer_override(self, thing: Any) -> Any:
        if isinstance(thing, BadInput):
            return _refusal, (type(thing), str(thing), vars(thing))
        if _KINDS[type(thing)] is not _Kind.COPIED:
            return NotImplemented
        return _record, (type(thing), _fields_of(thing))


class _Unpacker(pickle.Unpickler):
    def __init__(self, file: io.BytesIO, known: dict[int, Any]) -> None:
        super().__init__(file)
        self._known = known

    def persistent_load(self, told: Any) -> Any:
        if isinstance(told, int):
            return self._known[told]
        number, make, *of = told
        made = self._known[number] = make(*of)
        return made


class _Sent:
    """What the other side knows by number, for as long as it lasts here."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[int, Callable[[], object]]] = {}
        self._blocks: OrderedDict[int, bytes] = OrderedDict()
        self._gone: deque[int] = deque()

    def number_of(self, thing: object) -> int | None:
        known = self._known.get(id(thing))
        return known[0] if known is not None and known[1]() is thing else None

    def learn(self, number: int, thing: Any) -> None:
        if not isinstance(thing, bytes):
            forget = partial(self._forget, id(thing), number)
            self._known[id(thing)] = number, weakref.ref(thing, forget)
            return
        # Nobody is told when bytes go.
        self._blocks[number] = thing
        self._known[id(thing)] = number, lambda: thing
        if len(self._blocks) > BLOCKS:
            oldest, block = self._blocks.popitem(last=False)
            self._forget(id(block), oldest)

    def _forget(self, place: int, number: int, _: object = None) -> None:
        self._known.pop(place, None)
        self._gone.append(number)

    def gone(self) -> tuple[int, ...]:
        """What has gone since this was asked last."""
        return tuple(self._gone.popleft() for _ in range(len(self._gone)))


class Line:
    """One end of a connection between two processes.

    Parameters
    ----------
    end : of a pair of connected stream sockets
    """

    def __init__(self, end: socket) -> None:
        self._end = end
        for which in (SO_SNDBUF, SO_RCVBUF):
            end.setsockopt(SOL_SOCKET, which, BETWEEN)
        self._numbers = count(1)
        self._sent, self._received = _Sent(), dict[int, Any]()
        self._lock = Lock()

    def send(self, thing: Any) -> None:
        """Send something; any thread may.

        Parameters
        ----------
        thing : that can be pickled; functions are sent by their names

        Raises
        ------
        OSError
            If the other end is closed.
        """
        # In one turn: the other side has to hear of all in the order in which it is numbered.
        with self._lock:
            body = io.BytesIO()
            packer = _Packer(body, self._sent.number_of, self._numbers)
            packer.dump(thing)
            blocks = [
                (number, one) for number, one in packer.new.items()
                if isinstance(one, bytes | np.ndarray)
            ]  # fmt: skip
            told = tuple(_Block.of(number, one) for number, one in blocks)
            head = pickle.dumps((self._sent.gone(), told))
            self._end.sendall(_SIZES.pack(len(head), body.tell()) + head)
            for _, one in blocks:
                self._end.sendall(_bytes_of(one))
            self._end.sendall(body.getbuffer())
            for number, one in packer.new.items():
                self._sent.learn(number, one)

    def receive(self) -> Any:
        """What the other end sent next; one thread may wait for it.

        Raises
        ------
        EOFError, OSError
            If the other end is closed.
        """
        head, body = _SIZES.unpack(_read(self._end, _SIZES.size))
        gone, blocks = pickle.loads(_read(self._end, head))
        for block in blocks:
            self._received[block.number] = block.read(self._end)
        thing = _Unpacker(io.BytesIO(_read(self._end, body)), self._received).load()
        for number in gone:
            del self._received[number]
        return thing

    def close(self) -> None:
        """Send and receive no more."""
        self._end.close()
