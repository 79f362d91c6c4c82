"""What a piece of a document names: bodies and joints, stated by the types of its fields.

`model` gives every such field the type ``BodyName`` or ``JointName``; what goes with a body, what
is switched off with it and what is renamed with it need no list of kinds. Names inside a use of a
unit (of its placements and settings) are not meant: they belong to the unit.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Any, TypeVar

from pydantic import BaseModel

from anakinema.document.marked import marks_of

Name = Callable[[str], str]
N = TypeVar("N")


class Of(Enum):
    """Kinds of things that are named."""

    BODY = "body"
    JOINT = "joint"


@dataclass(frozen=True, slots=True)
class Names:
    """Stands in the type of a field that holds the id of a body or a joint."""

    what: Of


def bodies_named(node: Any) -> Iterator[str]:
    """Ids of all bodies that a piece of a document, or a tuple of pieces, names."""
    return _named(node, Of.BODY)


def joints_named(node: Any) -> Iterator[str]:
    """Ids of all joints that a piece of a document, or a tuple of pieces, names."""
    return _named(node, Of.JOINT)


def _named(node: Any, of: Of) -> Iterator[str]:
    if isinstance(node, tuple):
        for item in node:
            yield from _named(item, of)
    elif isinstance(node, BaseModel):
        names = marks_of(type(node), Names)
        for field in type(node).model_fields:
            value = getattr(node, field)
            if field not in names:
                yield from _named(value, of)
            elif value is not None and names[field].what is of:
                yield value


def renamed(node: N, body: Name, joint: Name) -> N:
    """A piece of a document, or a tuple of pieces, whose bodies and joints are called otherwise."""
    made: N = _renamed(node, {Of.BODY: body, Of.JOINT: joint})
    return made


def _renamed(node: Any, by: Mapping[Of, Name]) -> Any:
    if isinstance(node, tuple):
        return tuple(_renamed(item, by) for item in node)
    if not isinstance(node, BaseModel):
        return node
    names = marks_of(type(node), Names)
    update = {}
    for field in type(node).model_fields:
        old = getattr(node, field)
        if old is None:
            continue
        new = by[names[field].what](old) if field in names else _renamed(old, by)
        if new != old:
            update[field] = new
    return node.model_copy(update=update) if update else node
