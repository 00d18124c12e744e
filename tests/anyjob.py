"""Any legal job: one in which some parts are other ones, as the model's own types allow."""

from __future__ import annotations

import contextlib
import datetime
import enum
import types
import typing
from collections.abc import Callable, Iterator
from functools import cache, partial
from typing import Any

import annotated_types
from hypothesis import strategies as st
from pydantic import ValidationError
from pydantic.fields import FieldInfo

from farbe.model.base import Value
from farbe.model.job import Job
from farbe.model.medium import MEDIA
from farbe.model.piece import SHAPES
from farbe.model.source import SOURCES
from farbe.model.treatment import TREATMENTS

FAMILIES = {kinds.family: kinds for kinds in (MEDIA, SHAPES, SOURCES, TREATMENTS)}
#: Files that are not there say nothing; outlines that cross themselves are refused with their file.
LEFT_OUT = {"kind", "digest", "file_name", "font", "profile", "lit", "rings", "machine"}
#: Words that people type, paste and forget.
WORDS = ("a", "Ida", "A\n\nB", "{#}", "{name}", "{serial} {#}", "{nope}", "Ω漢", "x" * 60, "\u200b",
         "{", "}", "{{}}", "é", "مرحبا", "0123456789", "  b  ", "a?b=c&d", "\u202eabc", "👍", "#",
         "-", "1,5", "")  # fmt: skip
#: Parts of a job from which most follows.
OFTEN = {"faces": 14, "piece": 5, "jig": 4, "medium": 4, "see_through": 3, "printer": 2, "marks": 2}
#: Figures that are nothing special, and those that are.
FIGURES = (0.0, 0.01, 0.1, 1.0, 5.0, 33.3, 45.0, 90.0, 179.999, 360.0, -1.0, -90.0)
#: Larger than any board here, as small as leaves something to be worked out.
MOST = 400.0


def figures(whole: bool, metadata: tuple[Any, ...]) -> st.SearchStrategy[Any]:
    """Numbers within their bounds, which are among them."""
    low, high = -MOST, MOST
    for one in metadata:
        if isinstance(one, annotated_types.Ge):
            low = max(low, float(one.ge))  # type: ignore[arg-type]
        elif isinstance(one, annotated_types.Gt):
            low = max(low, float(one.gt) + (1.0 if whole else 0.01))  # type: ignore[arg-type]
        elif isinstance(one, annotated_types.Le):
            high = min(high, float(one.le))  # type: ignore[arg-type]
        elif isinstance(one, annotated_types.Lt):
            high = min(high, float(one.lt) - 0.01)  # type: ignore[arg-type]
    if whole:
        return st.integers(int(low), int(high))
    usual = [one for one in (*FIGURES, low, high) if low <= one <= high]
    return st.sampled_from(usual) | st.floats(low, high).map(
        lambda one: min(high, max(low, round(one, 3)))
    )


def words(metadata: tuple[Any, ...]) -> st.SearchStrategy[str]:
    """Text, or what a pattern asks for."""
    patterns = [p for one in metadata if (p := getattr(one, "pattern", None))]
    if any("{6}" in pattern for pattern in patterns):
        return st.sampled_from(["#000000", "#ffffff", "#d02020", "#1d3b31"])
    return st.sampled_from([word for word in WORDS if word or not metadata])


def any_of(annotation: Any, metadata: tuple[Any, ...] = ()) -> st.SearchStrategy[Any]:
    """What a field of a model may hold, as data that is not looked at yet."""
    origin, parts = typing.get_origin(annotation), typing.get_args(annotation)
    if origin is typing.Annotated:
        return any_of(parts[0], (*flat(parts[1:]), *metadata))
    if origin in (typing.Union, types.UnionType):
        return st.one_of(*(any_of(part, metadata) for part in parts))
    if origin is typing.Literal:
        return st.sampled_from(parts)
    if origin in (tuple, frozenset):
        if origin is tuple and parts[1:] != (...,):
            return st.tuples(*(any_of(part) for part in parts))
        return st.lists(any_of(parts[0]), max_size=3).map(tuple)
    if annotation in PLAIN:
        return PLAIN[annotation](metadata)
    return (
        st.sampled_from(list(annotation))
        if issubclass(annotation, enum.Enum)
        else any_value(annotation)
    )


#: Types without parts, with what is said of the field.
PLAIN: dict[type, Callable[[tuple[Any, ...]], st.SearchStrategy[Any]]] = {
    types.NoneType: lambda _: st.none(),
    bool: lambda _: st.booleans(),
    int: partial(figures, True),
    float: partial(figures, False),
    str: words,
    datetime.date: lambda _: st.dates(datetime.date(2026, 1, 1), datetime.date(2027, 12, 31)),
}


def flat(metadata: tuple[Any, ...]) -> tuple[Any, ...]:
    """What is said of a field, without the fields in it that say it."""
    return tuple(
        inner for one in metadata
        for inner in (one.metadata if isinstance(one, FieldInfo) else (one,))
    )  # fmt: skip


@cache
def any_value(model: type[Value]) -> st.SearchStrategy[dict[str, Any]]:
    """Any value of a model, or of its family."""
    if model in FAMILIES:
        return st.deferred(lambda: st.one_of(*map(any_value, FAMILIES[model])))

    def made() -> st.SearchStrategy[dict[str, Any]]:
        needed, others = dict[str, Any](), dict[str, Any]()
        for name, field in model.model_fields.items():
            if name == "kind":
                needed[name] = st.just(field.default)
            elif field.is_required():
                needed[name] = any_of(field.annotation, flat(tuple(field.metadata)))
            elif name not in LEFT_OUT:
                others[name] = any_of(field.annotation, flat(tuple(field.metadata)))
        return st.fixed_dictionaries(needed, optional=others)

    return st.deferred(made)


Path = tuple[str | int, ...]


def places(value: Any, path: Path = ()) -> Iterator[tuple[Path, st.SearchStrategy[Any]]]:
    """All that can be another one in a value, with what it may be."""
    for name, field in type(value).model_fields.items():
        if name in LEFT_OUT:
            continue
        yield (*path, name), any_of(field.annotation, flat(tuple(field.metadata)))
        held = getattr(value, name)
        if isinstance(held, Value):
            yield from places(held, (*path, name))
        elif isinstance(held, tuple):
            for at, one in enumerate(held):
                if isinstance(one, Value):
                    yield from places(one, (*path, name, at))


def put(data: Any, path: Path, held: Any) -> Any:
    """Data with something else in one place."""
    if not path:
        return held
    at, *rest = path
    if isinstance(at, int):
        return (*data[:at], put(data[at], tuple(rest), held), *data[at + 1 :])
    return data | {at: put(data[at], tuple(rest), held)}


@st.composite
def any_job(draw: st.DrawFn, job: Job) -> Job:
    """A job with up to four things in it that are another; what cannot be stays as it was."""
    for _ in range(draw(st.integers(1, 4))):
        found: dict[str | int, list[tuple[Path, st.SearchStrategy[Any]]]] = {}
        for path, of in places(job):
            found.setdefault(path[0], []).append((path, of))
        # Large parts of a job have many places, and small ones matter, too.
        parts = [part for part in sorted(found, key=str) for _ in range(OFTEN.get(str(part), 1))]
        path, of = draw(st.sampled_from(found[draw(st.sampled_from(parts))]))
        with contextlib.suppress(ValidationError):
            job = Job.model_validate(put(job.model_dump(), path, draw(of)))
    return job
