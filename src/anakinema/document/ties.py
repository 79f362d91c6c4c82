"""Couplings, loops and contacts of a document or a unit: what ties bodies and joints together
besides joints. They go wherever all they tie goes: into a unit, out of it, into copies."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from anakinema.document import model

Tie = model.Coupling | model.Loop | model.Contact
Name = Callable[[str], str]


@dataclass(frozen=True, slots=True)
class Ties:
    """Couplings, loops and contacts that belong to one document or unit."""

    couplings: tuple[model.Coupling, ...] = ()
    loops: tuple[model.Loop, ...] = ()
    contacts: tuple[model.Contact, ...] = ()

    def __iter__(self) -> Iterator[Tie]:
        yield from self.couplings
        yield from self.loops
        yield from self.contacts

    @property
    def fields(self) -> dict[str, tuple[Tie, ...]]:
        """By kind, as fields of a document or unit."""
        return {"couplings": self.couplings, "loops": self.loops, "contacts": self.contacts}

    def changed(self, change: Callable[[Tie], Tie]) -> Ties:
        """Each of them changed."""
        return ties_of_all(change(tie) for tie in self)

    def kept(self, wanted: Callable[[Tie], bool]) -> Ties:
        """Some of them."""
        return ties_of_all(tie for tie in self if wanted(tie))

    def __add__(self, other: Ties) -> Ties:
        return ties_of_all((*self, *other))


def ties_of(holder: model.Document | model.Unit) -> Ties:
    """All ties of a document or a unit."""
    return Ties(holder.couplings, holder.loops, holder.contacts)


def ties_of_all(ties: Iterable[Tie]) -> Ties:
    """Any ties, each kind in the order given."""
    ties = tuple(ties)
    return Ties(
        tuple(tie for tie in ties if isinstance(tie, model.Coupling)),
        tuple(tie for tie in ties if isinstance(tie, model.Loop)),
        tuple(tie for tie in ties if isinstance(tie, model.Contact)),
    )


def joints_tied(tie: Tie) -> tuple[str, ...]:
    """The joints that it names."""
    if isinstance(tie, model.Coupling):
        return tie.first, tie.second
    if isinstance(tie, model.Loop):
        return tuple(wheel.joint for wheel in tie.wheels)
    return ()


def bodies_tied(tie: Tie) -> tuple[str, ...]:
    """The bodies that it names."""
    if isinstance(tie, model.Coupling):
        return () if tie.carrier is None else (tie.carrier,)
    if isinstance(tie, model.Contact):
        return tuple(face.body for face in (tie.first, tie.second) if face is not None)
    return ()


def with_names(tie: Tie, body: Name, joint: Name) -> Tie:
    """The same of bodies and joints that are called otherwise."""
    update: dict[str, object]
    if isinstance(tie, model.Coupling):
        carrier = None if tie.carrier is None else body(tie.carrier)
        update = {"first": joint(tie.first), "second": joint(tie.second), "carrier": carrier}
    elif isinstance(tie, model.Loop):
        update = {
            "wheels": tuple(
                wheel.model_copy(update={"joint": joint(wheel.joint)}) for wheel in tie.wheels
            )
        }
    else:
        update = {
            key: None if face is None else face.model_copy(update={"body": body(face.body)})
            for key, face in (("first", tie.first), ("second", tie.second))
        }
    return tie.model_copy(update=update)
