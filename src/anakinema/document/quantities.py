"""Every quantity of a document in turn, with what it measures."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from anakinema.document import model
from anakinema.document.couplings import coupling_dimensions
from anakinema.document.dimensions import By, dimensions_of
from anakinema.document.flatten import JOINT, joint_kinds
from anakinema.document.follower_kinds import way_of
from anakinema.document.kinds import spec_of
from anakinema.document.measured import requirement_dimension
from anakinema.document.relations import VALUED
from anakinema.units import ANGULAR_SPEED, LENGTH, SPEED, Dimension

Source = float | str
M = TypeVar("M", bound=model.Model)
S = TypeVar("S")


def sources(node: Any) -> Iterator[Source]:
    """Every quantity in a document or in a piece of one, as it is stated."""
    if isinstance(node, tuple):
        for item in node:
            yield from sources(item)
    elif isinstance(node, model.Model):
        measured = dimensions_of(type(node))
        for name in type(node).model_fields:
            value = getattr(node, name)
            if name not in measured:
                yield from sources(value)
            elif value is not None:
                yield value


def rewritten(node: M, change: Callable[[Source], Source]) -> M:
    """A document, or a piece of one, in which every quantity is what ``change`` makes of it."""

    stated: M = _rebuilt(node, None, lambda scope, _: scope, lambda old, *_: change(old))
    return stated


@dataclass(frozen=True, slots=True)
class Place:
    """Where a quantity stands, and what it measures: None where its dimension cannot be stated."""

    dimension: Dimension | None
    part: model.Part | None
    words: str


def measured_anew(
    document: model.Document, change: Callable[[Source, Place], Source]
) -> model.Document:
    """The document in which every quantity is what ``change`` makes of it, at its place."""
    drivers = {driver.id: driver.joint for driver in document.program.drivers}

    def placed(old: Source, what: Dimension | By, scope: _Scope) -> Source:
        dimension = scope.by.get(what) if isinstance(what, By) else what
        return change(old, Place(dimension, scope.part, scope.words))

    stated: model.Document = _rebuilt(document, _Scope(document, drivers), _Scope.within, placed)
    return stated


@dataclass(frozen=True, slots=True)
class _Scope:
    """What a node stands in."""

    document: model.Document
    drivers: Mapping[str, str]
    kinds: Mapping[str, model.JointKind] = field(default_factory=dict)
    use: str = ""
    part: model.Part | None = None
    words: str = "document"
    by: Mapping[By, Dimension | None] = field(default_factory=dict)

    def within(self, node: model.Model) -> _Scope:
        """The scope of what a node holds."""
        title = getattr(node, "title", None)
        kind = type(node).__name__.lower()
        inner = self if title is None else replace(self, words=f"{kind} '{title}'")
        enter = _ENTER.get(type(node))
        return inner if enter is None else enter(inner, node)

    def stated(self, **by: Dimension | None) -> _Scope:
        """With dimensions by the names of `By`."""
        return replace(self, by={**self.by, **{By[name]: what for name, what in by.items()}})

    def as_joint(self, joint: str) -> _Scope:
        """Values within are those of a joint."""
        return self._as_kind(self.kinds[joint])

    def _as_kind(self, kind: model.JointKind) -> _Scope:
        dimension = spec_of(kind).dimension
        return self.stated(JOINT=dimension, RATE=SPEED if dimension == LENGTH else ANGULAR_SPEED)


def _coupling(scope: _Scope, node: model.Coupling) -> _Scope:
    first, second = coupling_dimensions(scope.kinds, node)
    return scope.stated(FIRST=first, SECOND=second)


def _part(scope: _Scope, node: model.Part) -> _Scope:
    return replace(scope, part=node)


def _cam(scope: _Scope, node: model.Cam) -> _Scope:
    return scope.stated(FOLLOWER=way_of(node.follower).lifted)


def _requirement(scope: _Scope, node: model.Requirement) -> _Scope:
    return scope.stated(REQUIREMENT=requirement_dimension(scope.kinds, node))


_ENTER: Mapping[type, Callable[[_Scope, Any], _Scope]] = {
    model.Document: lambda scope, node: replace(scope, kinds=joint_kinds(node)),
    model.Subassembly: lambda scope, node: replace(scope, kinds=joint_kinds(scope.document, node)),
    model.Instance: lambda scope, node: replace(scope, use=node.id),
    model.JointSetting: lambda scope, node: scope.as_joint(f"{scope.use}{JOINT}{node.joint}"),
    model.Joint: lambda scope, node: scope.as_joint(node.id),
    model.Driver: lambda scope, node: scope.as_joint(node.joint),
    model.Move: lambda scope, node: scope.as_joint(scope.drivers[node.driver]),
    model.Stage: lambda scope, node: scope.as_joint(scope.drivers[node.moves[0].driver]),
    model.Coupling: _coupling,
    model.Part: _part,
    model.Cam: _cam,
    model.Relation: lambda scope, node: scope.stated(RELATION=VALUED.get(node.kind)),
    model.Requirement: _requirement,
    model.DwellMeasure: lambda scope, node: scope.as_joint(node.joint),
    model.Moment: lambda scope, node: scope.as_joint(node.joint),
}
"""What the dimensions within a node depend on, by its class."""


def _rebuilt(
    node: Any,
    scope: S,
    within: Callable[[S, model.Model], S],
    change: Callable[[Source, Dimension | By, S], Source],
) -> Any:
    """A node in which every quantity is what ``change`` makes of it, in the scope of its owner."""
    if isinstance(node, tuple):
        return tuple(_rebuilt(item, scope, within, change) for item in node)
    if not isinstance(node, model.Model):
        return node
    inner, measured = within(scope, node), dimensions_of(type(node))
    update = {}
    for name in type(node).model_fields:
        old = getattr(node, name)
        if name not in measured:
            update[name] = _rebuilt(old, inner, within, change)
        elif old is not None:
            update[name] = change(old, measured[name].what, inner)
    return node.model_copy(update=update)
