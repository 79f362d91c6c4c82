"""Keeps exceptions from leaving Python where Qt calls it by overriding.

From there they would come out somewhere else, or end the program: the library that binds Qt reads
the arguments of an exception that has none.
"""

from __future__ import annotations

import functools
import sys
from collections.abc import Callable
from typing import Any, TypeVar

C = TypeVar("C", bound=type)
OTHERS = ("event", "eventFilter", "sizeHint", "minimumSizeHint", "mimeData", "wheelEvent")


def guarded(kind: C) -> C:
    """A widget class whose overrides hand what escapes them to the hook for that."""
    for name, member in list(vars(kind).items()):
        if callable(member) and (name.endswith("Event") or name in OTHERS):
            setattr(kind, name, _guard(member, getattr(super(kind, kind), name)))
    return kind


def _guard(override: Callable[..., Any], plain: Callable[..., Any]) -> Callable[..., Any]:
    @functools.wraps(override)
    def call(*arguments: Any) -> Any:
        try:
            return override(*arguments)
        except Exception as error:
            sys.excepthook(type(error), error, error.__traceback__)
        return plain(*arguments)

    return call
