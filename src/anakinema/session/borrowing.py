"""Units from other documents: open one, see what it offers, take it, renew it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from anakinema.building.borrowing import (
    borrowed,
    check_borrowable,
    origin_of,
    renewed,
    units_offered,
)
from anakinema.document import model
from anakinema.edits.base import Edit
from anakinema.errors import FileFormatError
from anakinema.files.native import read_document
from anakinema.session.assembling import Scene


@dataclass(frozen=True, slots=True, eq=False)
class Lender:
    """Another document: where it is, and the ids and titles of what can be taken from it."""

    path: Path
    document: model.Document
    offers: tuple[tuple[str, str], ...]


def open_lender(path: Path) -> Lender:
    """Read another document; raises an `AnakinemaError` if it is faulty or empty."""
    other = read_document(path)
    check_borrowable(other, path.name)
    return Lender(path, other, units_offered(other))


def take_unit(scene: Scene, lender: Lender, unit: str, x: float, y: float) -> tuple[Edit, str]:
    """The edit that takes a unit and stands it at x, y mm; an inner body of its use."""
    source = scene.resolved.source
    edit, use = borrowed(source, lender.document, unit, str(lender.path), x, y)
    after = edit.apply(source)
    made = model.next_by_id(after.subassemblies, model.next_by_id(after.uses, use).unit)
    inner = made.bodies[0].id if made.bodies else ""
    return edit, f"{use}__{inner}" if inner else ""


def renew_unit(document: model.Document, unit: str, beside: Path | None) -> Edit:
    """The edit that renews a copied unit from its file, or from one of that name beside ours."""
    path = Path(origin_of(model.next_by_id(document.subassemblies, unit))[0])
    if not path.exists() and beside is not None:
        path = beside.parent / path.name
    if not path.exists():
        raise FileFormatError(
            "it is not there any more.",
            where=f"document {path}",
            remedy="Put it back, or lay it beside this document.",
        )
    return renewed(document, unit, read_document(path))
