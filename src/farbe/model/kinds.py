"""Families of values that are told apart by their kind, and grow by one class each."""

from collections.abc import Iterator, Mapping
from typing import Any, Generic, TypeVar

from pydantic import BeforeValidator, SerializeAsAny

from farbe.model.base import Value
from farbe.said import say, spoken

Member = TypeVar("Member", bound=Value)


class Kinds(Generic[Member]):
    """The kinds of one family, by the word that stands for each in files.

    Parameters
    ----------
    family : the class that all members derive from
    words : what a member is called in messages: "treatment"
    needs : fields or properties that each member must have
    """

    def __init__(self, family: type[Member], words: str, *, needs: tuple[str, ...] = ()) -> None:
        self.family, self.words, self.needs = family, words, needs
        self._known: dict[str, type[Member]] = {}

    def enter(self, member: type[Member]) -> type[Member]:
        """Take a class into the family; used as a decorator.

        Parameters
        ----------
        member : a class with a ``kind``

        Returns
        -------
        The class as it is.

        Raises
        ------
        TypeError
            If it does not derive from the family, has no kind of its own, says nothing of what it
            is, or another class has that kind.
        """
        field = member.model_fields.get("kind")
        kind = field.default if field is not None else None
        if not issubclass(member, self.family):
            raise TypeError(f"{member.__name__} is no {self.words}")
        if not isinstance(kind, str) or not kind:
            raise TypeError(f"the {self.words} {member.__name__} needs a kind with a default")
        if kind in self._known:
            raise TypeError(f"there is a {self.words} of kind {kind!r} already")
        for name in self.needs:
            if name not in member.model_fields and not hasattr(member, name):
                raise TypeError(f"the {self.words} {member.__name__} lacks its {name}")
        if not member.__doc__:
            raise TypeError(f"the {self.words} {member.__name__} needs to say what it is")
        self._known[kind] = member
        return member

    def leave(self, member: type[Member]) -> None:
        """Take a class out of the family again.

        Parameters
        ----------
        member : of the family
        """
        self._known = {kind: known for kind, known in self._known.items() if known is not member}

    def __iter__(self) -> Iterator[type[Member]]:
        return iter(tuple(self._known.values()))

    def _made(self, given: object) -> object:
        if not isinstance(given, Mapping):
            return given
        kind = given.get("kind")
        if not isinstance(kind, str) or kind not in self._known:
            known = ", ".join(self._known)
            raise ValueError(
                say(
                    "there is no {words} of kind {kind}; there are: {known}",
                    words=spoken(self.words),
                    kind=f"{kind!r}",
                    known=known,
                )
            )
        return self._known[kind].model_validate(given)

    def field(self) -> Any:
        """What makes a field hold any member: ``Annotated[Family, *kinds.field()]``."""
        return BeforeValidator(self._made), SerializeAsAny()  # type: ignore[type-arg]
