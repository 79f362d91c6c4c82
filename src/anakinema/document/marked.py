"""Marks that stand in the types of fields, such as what a number measures or what an id names."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import Annotated, Any, TypeVar, get_args, get_origin

from pydantic import BaseModel

M = TypeVar("M")


@cache
def marks_of(kind: type[BaseModel], mark: type[M]) -> dict[str, M]:
    """The fields of a class that carry a mark of a type, with it. Those within tuples do not."""
    found = {}
    for name, field in kind.model_fields.items():
        own = next(_of_type(field.metadata, mark), None) or _within(field.annotation, mark)
        if own is not None:
            found[name] = own
    return found


def _of_type(metadata: Any, mark: type[M]) -> Iterator[M]:
    return (each for each in metadata if isinstance(each, mark))


def _within(annotation: Any, mark: type[M]) -> M | None:
    """Of ``Length | None``."""
    if get_origin(annotation) is Annotated:
        return next(_of_type(get_args(annotation), mark), None)
    if get_origin(annotation) is tuple:
        return None
    return next(filter(None, (_within(each, mark) for each in get_args(annotation))), None)
