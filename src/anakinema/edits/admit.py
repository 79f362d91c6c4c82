"""An edit is only admitted if the document it makes could be read from a file again.

Every part of the document that an edit makes anew is held to the same bounds as the reader
holds a file to; what it shares with the document before is not looked at again.
"""

from __future__ import annotations

import weakref
from collections.abc import Callable, Sequence
from typing import TypeVar

from pydantic import ValidationError

from anakinema.document.model import MOST_BYTES, Document, Model
from anakinema.document.refusals import refusal_words
from anakinema.edits.base import Edit
from anakinema.errors import EditRefusedError

M = TypeVar("M", bound=Model)
T = TypeVar("T")
MARGIN = 0.98
"""Share of the greatest file that a document may take as counted here."""


def made(make: Callable[[], T], where: str) -> T:
    """What ``make`` gives; raises `EditRefusedError` if what it is about is gone, or the model
    refuses it. ``where`` says what was being done."""
    try:
        return make()
    except (KeyError, StopIteration) as error:
        name = str(error.args[0]).replace("_", " ") if error.args else "what it is about"
        raise EditRefusedError(
            f"“{name}” is not there (any more), or is there already.",
            where=where,
            remedy="Nothing was changed.",
        ) from error
    except ValidationError as error:
        raise EditRefusedError(
            refusal_words(error), where=where, remedy="Nothing was changed."
        ) from error


def admitted(document: Document, edit: Edit) -> Document:
    """The document after an edit.

    Raises `EditRefusedError` if what the edit is about is gone, or a file could not hold it.
    """

    def sound_after() -> Document:
        after = edit.apply(document)
        return document if after is document else _made_again(document, after)

    sound = made(sound_after, edit.label)
    if _bytes_of(sound) > MARGIN * MOST_BYTES:
        raise EditRefusedError(
            f"the document would take more than the {MOST_BYTES / 1e6:.0f} MB that a file may.",
            where=edit.label,
            remedy="Take pictures or detailed outlines away first. Nothing was changed.",
        )
    return sound


def _made_again(before: object, after: M) -> M:
    """``after`` with all it does not share with ``before`` validated anew."""
    if after is before:
        return after
    values: dict[str, object] = {}
    for name in type(after).model_fields:
        old = getattr(before, name) if type(before) is type(after) else None
        new = getattr(after, name)
        if isinstance(new, Model):
            values[name] = _made_again(old, new)
        elif isinstance(new, tuple) and new is not old:
            values[name] = _items_again(old if isinstance(old, tuple) else (), new)
        else:
            values[name] = new
    return type(after).model_validate(values)


def _items_again(before: Sequence[object], after: Sequence[object]) -> list[object]:
    known = {getattr(item, "id", None): item for item in before}
    same = set(map(id, before))
    out: list[object] = []
    for place, item in enumerate(after):
        if isinstance(item, Model) and id(item) not in same:
            name = getattr(item, "id", None)
            beside = before[place] if place < len(before) else None
            out.append(_made_again(known.get(name) if name is not None else beside, item))
        else:
            out.append(item)
    return out


_counted: dict[int, tuple[weakref.ref[Model], int]] = {}


def _bytes_of(document: Document) -> int:
    """Bytes of a document as compact JSON; items that were counted before are not again."""
    total = 1000
    for name in Document.model_fields:
        value = getattr(document, name)
        for item in value if isinstance(value, tuple) else (value,):
            if isinstance(item, Model):
                total += _count(item)
            elif isinstance(item, str):
                total += len(item.encode())
    return total


def _count(item: Model) -> int:
    key = id(item)
    known = _counted.get(key)
    if known is not None and known[0]() is item:
        return known[1]
    size = len(item.__pydantic_serializer__.to_json(item, exclude_defaults=True)) + 4
    _counted[key] = (weakref.ref(item, lambda _: _counted.pop(key, None)), size)
    return size
