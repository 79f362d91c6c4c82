"""Couplings, loops and contacts of a document or a unit: what ties bodies and joints together
besides joints. They go wherever all they tie goes: into a unit, out of it, into copies."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from anakinema.document import model

Tie = model.Coupling | model.Loop | model.Contact


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
