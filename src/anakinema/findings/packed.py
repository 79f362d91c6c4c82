"""An evaluation as bytes, from one of our own processes to another that has read the same document.

What follows from the document alone is left out: its numbers and the outlines of its slabs. The
other side puts its own in their place, so that what it compares by identity stays comparable.
Never read from a file: bytes like these can run code.
"""

from __future__ import annotations

import copyreg
import io
import pickle  # noqa: TID251  (between our own processes only)
import threading
from collections.abc import Callable
from typing import Any

from anakinema.document.model import Document
from anakinema.document.resolve import Resolved
from anakinema.errors import AnakinemaError
from anakinema.geometry.region import Region

_own = threading.local()
"""The numbers of the document, in the thread that unpacks."""


def pack(answer: object, resolved: Resolved) -> bytes:
    """An answer about a document as bytes, without what follows from the document alone."""
    places = _Places(resolved)

    def of_region(region: Region) -> Any:
        place = places.of(region)
        own = place is not None
        return (_own_region, place) if own else region.__reduce_ex__(pickle.HIGHEST_PROTOCOL)

    def of_numbers(numbers: Resolved) -> Any:
        own = numbers is resolved
        return (_own_numbers, ()) if own else numbers.__reduce_ex__(pickle.HIGHEST_PROTOCOL)

    def of_document(document: Document) -> Any:
        if document is resolved.source:
            return _own_source, ()
        own = document is resolved.document
        return (_own_document, ()) if own else document.__reduce_ex__(pickle.HIGHEST_PROTOCOL)

    written = io.BytesIO()
    pickler = pickle.Pickler(written, pickle.HIGHEST_PROTOCOL)
    by_type: dict[type, Callable[[Any], Any]] = {
        Region: of_region,
        Resolved: of_numbers,
        Document: of_document,
    }
    pickler.dispatch_table = {**copyreg.dispatch_table, **by_type}
    pickler.dump(answer)
    return written.getvalue()


def pack_error(error: AnakinemaError) -> bytes:
    """Why a document is refused, as bytes."""
    return pickle.dumps(error)


def unpack(content: bytes, resolved: Resolved | None = None) -> Any:
    """The answer, about the numbers of the same document as they were read on this side; or the
    error."""
    _own.resolved = resolved
    try:
        return pickle.loads(content)  # noqa: S301  (written by `pack` in our own process)
    finally:
        del _own.resolved


class _Places:
    """Which slab of which part a region is of, and whether it is that one turned over."""

    def __init__(self, resolved: Resolved) -> None:
        self._own = [
            (slab.region, (name, k))
            for name, part in resolved.parts.items()
            for k, slab in enumerate(part.slabs)
        ]
        self._upright = {id(region): (*place, False) for region, place in self._own}
        self._turned: dict[int, tuple[str, int, bool]] | None = None

    def of(self, region: Region) -> tuple[str, int, bool] | None:
        """None if it is of no slab of the document."""
        upright = self._upright.get(id(region))
        if upright is not None:
            return upright
        if self._turned is None:
            self._turned = {id(own.turned_over()): (*place, True) for own, place in self._own}
        return self._turned.get(id(region))


def _own_numbers() -> Resolved:
    resolved: Resolved = _own.resolved
    return resolved


def _own_source() -> Document:
    return _own_numbers().source


def _own_document() -> Document:
    return _own_numbers().document


def _own_region(part: str, slab: int, is_turned: bool) -> Region:
    region = _own_numbers().parts[part].slabs[slab].region
    return region.turned_over() if is_turned else region
