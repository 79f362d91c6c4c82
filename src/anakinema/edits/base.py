"""What all edits share: the protocol, validated copies, and several edits made as one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, fields
from typing import Protocol, TypeVar

from anakinema.document import model
from anakinema.document.model import Document

Source = float | str


class Edit(Protocol):
    """What history needs of an edit."""

    @property
    def label(self) -> str:
        """Shown behind Undo."""
        ...

    @property
    def merge_key(self) -> tuple[object, ...]:
        """Edits of equal key that follow one another while one gesture lasts are one step."""
        ...

    def apply(self, document: Document) -> Document:
        """The document after the edit; raises `KeyError` if its object is gone."""
        ...


M = TypeVar("M", bound=model.Model)


def changed(item: M, **values: object) -> M:
    """A validated copy with some fields replaced (`model_copy` would not validate)."""
    current = {name: getattr(item, name) for name in type(item).model_fields}
    return type(item).model_validate({**current, **values})


N = TypeVar(
    "N",
    bound=(
        "model.Part | model.Body | model.Joint | model.Parameter | model.Driver | model.Subassembly"
        " | model.Instance | model.Coupling | model.Contact | model.Belt | model.Requirement"
        " | model.Trial | model.KeptPose | model.Plane"
    ),
)


def replaced(items: tuple[N, ...], item: N) -> tuple[N, ...]:
    """The same items with the one of equal id replaced; raises `KeyError` if there is none."""
    if all(old.id != item.id for old in items):
        raise KeyError(item.id)
    return tuple(item if old.id == item.id else old for old in items)


class Keyed:
    """Merge key: the kind of edit and what it is about, without the new values."""

    subject: tuple[str, ...] = ()

    @property
    def merge_key(self) -> tuple[object, ...]:
        names = [f.name for f in fields(self)]  # type: ignore[arg-type]
        return (type(self), *(getattr(self, n) for n in names if n in self.subject))


@dataclass(frozen=True)
class Together(Keyed):
    """Several edits made as one step; ``gesture`` lets the steps of one drag merge."""

    label: str
    edits: tuple[Edit, ...]
    gesture: str = ""
    subject = ("label", "gesture")

    def apply(self, document: Document) -> Document:
        for edit in self.edits:
            document = edit.apply(document)
        return document


@dataclass(frozen=True)
class Around:
    """An edit with something done after it; to the history it is that edit."""

    edit: Edit

    @property
    def label(self) -> str:
        """That of the edit."""
        return self.edit.label

    @property
    def merge_key(self) -> tuple[object, ...]:
        """That of the edit."""
        return self.edit.merge_key


def fresh_id(wanted: str, taken: Iterable[str]) -> str:
    """``wanted`` as an id, with a number behind it if it is taken."""
    letters = "".join(c if c.isascii() and c.isalnum() else "_" for c in wanted.lower())
    while "__" in letters:
        letters = letters.replace("__", "_")
    base = letters.strip("_")[:48] or "item"
    base = base if base[0].isalpha() else f"n{base}"
    used = set(taken)
    if base not in used:
        return base
    stem = base.rstrip("0123456789").rstrip("_") or base
    number = 2
    while f"{stem}_{number}" in used:
        number += 1
    return f"{stem}_{number}"
