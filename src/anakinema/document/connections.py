"""Couplings, loops and contacts of a document or a unit: what ties bodies and joints together
besides joints. They go wherever all they tie goes: into a unit, out of it, into copies."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import TypeAlias

from anakinema.document import model

Connection: TypeAlias = model.Coupling | model.Belt | model.Contact


@dataclass(frozen=True, slots=True)
class Connections:
    """Couplings, loops and contacts that belong to one document or unit."""

    couplings: tuple[model.Coupling, ...] = ()
    belts: tuple[model.Belt, ...] = ()
    contacts: tuple[model.Contact, ...] = ()

    def __iter__(self) -> Iterator[Connection]:
        yield from self.couplings
        yield from self.belts
        yield from self.contacts

    @property
    def fields(self) -> dict[str, tuple[Connection, ...]]:
        """By kind, as fields of a document or unit."""
        return {"couplings": self.couplings, "belts": self.belts, "contacts": self.contacts}

    def changed(self, change: Callable[[Connection], Connection]) -> Connections:
        """Each of them changed."""
        return connections_of_all(change(connection) for connection in self)

    def kept(self, wanted: Callable[[Connection], bool]) -> Connections:
        """Some of them."""
        return connections_of_all(connection for connection in self if wanted(connection))

    def __add__(self, other: Connections) -> Connections:
        return connections_of_all((*self, *other))


def connections_of(holder: model.Document | model.Subassembly) -> Connections:
    """All ties of a document or a unit."""
    return Connections(holder.couplings, holder.belts, holder.contacts)


def connections_of_all(connections: Iterable[Connection]) -> Connections:
    """Any ties, each kind in the order given."""
    connections = tuple(connections)
    return Connections(
        tuple(connection for connection in connections if isinstance(connection, model.Coupling)),
        tuple(connection for connection in connections if isinstance(connection, model.Belt)),
        tuple(connection for connection in connections if isinstance(connection, model.Contact)),
    )
