"""What is particular to each kind of contact; whatever asks by kind asks here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args

from anakinema.document.model import ContactKind


@dataclass(frozen=True, slots=True)
class ContactSpec:
    """A kind of contact.

    words : between the titles of its bodies. verb : in names. pushes : joints may give way.
    keeps : the two stay in touch; such a contact needs a second body, and may roll.
    """

    words: str
    verb: str
    pushes: bool = False
    keeps: bool = False

    @property
    def stops(self) -> bool:
        """Whether it ends the motion where the two touch."""
        return not (self.pushes or self.keeps)


_SPECS: Mapping[ContactKind, ContactSpec] = {
    "stop": ContactSpec("stops at", "stops at"),
    "push": ContactSpec("pushes", "pushes", pushes=True),
    "keep": ContactSpec("stays in touch with", "stays on", keeps=True),
}


def contact_spec(kind: ContactKind) -> ContactSpec:
    """What is particular to a kind of contact."""
    return _SPECS[kind]


def kinds_of_contact(*, alone: bool) -> tuple[ContactKind, ...]:
    """Kinds of contact, ``alone`` those without a second body."""
    kinds: tuple[ContactKind, ...] = get_args(ContactKind)
    return tuple(kind for kind in kinds if not (alone and _SPECS[kind].keeps))
