"""Units taken from another document: copies that know where they came from and can be renewed.

A copy brings the parts, units and parameters that it needs. What this document has already, equal
in every number, is shared; what is called the same but is not the same comes under another name,
and expressions follow.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar

from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.flatten import flatten
from anakinema.document.names import lost_in
from anakinema.document.quantities import rewritten, sources
from anakinema.document.resolve import resolve
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.parts import ReplacePart
from anakinema.edits.structure import Add
from anakinema.edits.subassemblies import ReplaceSubassembly
from anakinema.errors import FileFormatError, MissingNameError, ValueOutOfRangeError
from anakinema.expressions import parse, with_names
from anakinema.files.native import read_document
from anakinema.units import LENGTH, UnitSystem

WHOLE = ""
"""Stands for a whole document taken as one unit."""
MARK = "#"
"""Between the file and the unit in an origin."""


def units_offered(other: model.Document) -> tuple[tuple[str, str], ...]:
    """What can be taken from a document: the whole of it, and each of its units; ids and titles."""
    whole = ((WHOLE, f"all of {other.name}"),) if other.bodies or other.instances else ()
    return (*whole, *((unit.id, unit.title) for unit in other.subassemblies))


def borrowed(
    document: model.Document, other: model.Document, unit_id: str, path: str, x: float, y: float
) -> tuple[Edit, str]:
    """The edit that takes a unit from another document and stands a use of it at x, y mm; the use.

    Raises an `AnakinemaError` if the other document is faulty, has no such unit, or cannot be put
    in this one's units.
    """
    source = _source(document, other)
    wanted = _wanted(source, unit_id)
    copy = _Copy(document, source)
    unit = copy.unit(wanted).model_copy(
        update={"origin": f"{path}{MARK}{unit_id}", "name": wanted.title}
    )
    taken = {b.id for b in document.bodies} | {u.id for u in document.instances}
    factor = UnitSystem(document.units.length, document.units.angle).factor(LENGTH)
    use = model.Instance(
        id=fresh_id(unit.id, taken),
        subassembly=unit.id,
        pose=model.Pose(x=x / factor, y=y / factor),
    )
    edit = Add(
        f"Take {wanted.title}",
        parameters=tuple(copy.parameters),
        parts=tuple(copy.parts),
        units=(*copy.units, unit),
        instances=(use,),
    )
    resolve(edit.apply(document))
    return edit, use.id


def origin_of(unit: model.Subassembly) -> tuple[str, str]:
    """File and unit that a unit was copied from; raises `MissingNameError` if from none."""
    path, mark, name = unit.origin.rpartition(MARK)
    if not mark:
        raise MissingNameError(
            "it was not taken from another document.", where=f"subassembly '{unit.title}'"
        )
    return path, name


def renewed(document: model.Document, unit_id: str, other: model.Document) -> Edit:
    """The edit that brings a copied unit to what its origin is now; all its uses follow.

    Poses, limits and drivers that the uses have stay; so do this document's parameters. Raises an
    `AnakinemaError` where something here names a body, joint or place that is no longer there.
    """
    old = model.next_by_id(document.subassemblies, unit_id)
    source = _source(document, other)
    copy = _Copy(document, source, is_renewal=True)
    unit = copy.unit(_wanted(source, origin_of(old)[1]), old)
    unit = unit.model_copy(update={"origin": old.origin, "name": old.name, "note": old.note})
    edits: list[Edit] = [ReplacePart(part) for part in copy.changed_parts]
    edits += [
        Add(
            "Bring",
            parameters=tuple(copy.parameters),
            parts=tuple(copy.parts),
            units=tuple(copy.units),
        ),
        *(ReplaceSubassembly(each) for each in copy.changed_units),
        ReplaceSubassembly(unit),
    ]
    edit = Together(f"Renew {old.title}", tuple(edits))
    after = edit.apply(document)
    resolve(after)
    _loses_nothing(document, after)
    return edit


def _loses_nothing(document: model.Document, after: model.Document) -> None:
    """Raise a `MissingNameError` if something is asked of what an edit takes away."""
    before, then = _lost(document), _lost(after)
    for name, words in then.items():
        if name not in before:
            raise MissingNameError(f"{words}", where=f"what is asked or shown as '{name}'")


def _lost(document: model.Document) -> dict[str, str]:
    flat = flatten(document).document
    return lost_in(flat, flat.requirements) | lost_in(flat, flat.measures)


def _source(document: model.Document, other: model.Document) -> model.Document:
    resolve(other)
    units = document.units
    return SetUnits(units.length, units.angle).apply(other)


def _wanted(source: model.Document, unit_id: str) -> model.Subassembly:
    if unit_id != WHOLE:
        try:
            return model.next_by_id(source.subassemblies, unit_id)
        except KeyError as error:
            raise MissingNameError(
                f"there is no subassembly '{unit_id}' in it any more.",
                where=f"document '{source.name}'",
                remedy="Take another from it, or keep the copy as it is.",
            ) from error
    resolved = resolve(source)
    factor = resolved.units.factor(LENGTH)
    heights = {
        body.id: round(float(height) / factor, 9)
        for body, height in zip(resolved.document.bodies, resolved.heights, strict=True)
    }
    bodies = tuple(
        body.model_copy(update={"height": heights.get(body.id, body.height)})
        for body in source.bodies
    )
    joints = tuple(joint.model_copy(update={"rise": None}) for joint in source.joints)
    return model.Subassembly(
        id=fresh_id(source.name, ()),
        name=source.name,
        bodies=bodies,
        joints=joints,
        instances=source.instances,
        couplings=source.couplings,
        belts=source.belts,
        contacts=source.contacts,
    )


M = TypeVar("M", bound=model.Model)


@dataclass(slots=True)
class _Copy:
    """Brings units with all they need from one document to another."""

    document: model.Document
    source: model.Document
    is_renewal: bool = False
    parameters: list[model.Parameter] = field(default_factory=list)
    parts: list[model.Part] = field(default_factory=list)
    units: list[model.Subassembly] = field(default_factory=list)
    changed_parts: list[model.Part] = field(default_factory=list)
    changed_units: list[model.Subassembly] = field(default_factory=list)
    _names: dict[str, str] = field(default_factory=dict)
    _part_names: dict[str, str] = field(default_factory=dict)
    _unit_names: dict[str, str] = field(default_factory=dict)

    def unit(
        self, unit: model.Subassembly, old: model.Subassembly | None = None
    ) -> model.Subassembly:
        """The unit in this document's names; as ``old`` was called, if it is to replace it."""
        bodies = []
        parts = {body.id: body.part for body in old.bodies} if old is not None else {}
        for body in unit.bodies:
            part = self._part(body.part, parts.get(body.id))
            bodies.append(body.model_copy(update={"part": part}))
        instances = []
        inner = {use.id: use.subassembly for use in old.instances} if old is not None else {}
        for use in unit.instances:
            instances.append(
                use.model_copy(
                    update={"subassembly": self._inner_unit(use.subassembly, inner.get(use.id))}
                )
            )
        made = unit.model_copy(update={"bodies": tuple(bodies), "instances": tuple(instances)})
        self._need(made)
        name = old.id if old is not None else fresh_id(unit.id, self._taken_units())
        return self._stated(made).model_copy(update={"id": name})

    def _taken_units(self) -> list[str]:
        return [u.id for u in (*self.document.subassemblies, *self.units)]

    def _inner_unit(self, unit_id: str, old_id: str | None) -> str:
        if unit_id in self._unit_names:
            return self._unit_names[unit_id]
        known = {unit.id: unit for unit in self.document.subassemblies}
        found = model.next_by_id(self.source.subassemblies, unit_id)
        if old_id in known and self.is_renewal:
            made = self.unit(found, known[str(old_id)])
            self.changed_units.append(made)
        else:
            made = self.unit(found)
            same = known.get(found.id)
            if same is not None and same == made.model_copy(update={"id": same.id}):
                self._unit_names[unit_id] = same.id
                return same.id
            self.units.append(made)
        self._unit_names[unit_id] = made.id
        return made.id

    def _part(self, part_id: str, old_id: str | None = None) -> str:
        """Id here of a part of the source, brought along if need be."""
        if part_id in self._part_names:
            return self._part_names[part_id]
        known = {part.id: part for part in self.document.parts}
        found = self.source.part(part_id)
        if self.is_renewal and old_id in known:
            self._part_names[part_id] = str(old_id)
        elif known.get(part_id) == found:
            self._part_names[part_id] = part_id
            self._need(found)
            return part_id
        else:
            taken = [part.id for part in (*self.document.parts, *self.parts)]
            self._part_names[part_id] = fresh_id(part_id, taken)
        new = self._part_names[part_id]
        self._need(found)
        stated = self._stated(found).model_copy(update={"id": new})
        if self.is_renewal and old_id in known:
            if known[new] != stated:
                self.changed_parts.append(stated)
        else:
            self.parts.append(stated)
        return new

    def _need(self, node: model.Model) -> None:
        """Bring the parameters and parts that expressions of something lean on."""
        own = {d.id for d in node.dimensions} if isinstance(node, model.Part) else set()
        for text in filter(lambda stated: isinstance(stated, str), sources(node)):
            for name in parse(str(text)).names:
                part, dot, dimension = name.partition(".")
                if dot:
                    if any(each.id == part for each in self.source.parts):
                        self._names[name] = f"{self._part(part)}.{dimension}"
                elif name not in own and name not in self._names:
                    self._parameter(name)

    def _parameter(self, name: str) -> None:
        found = next((p for p in self.source.parameters if p.id == name), None)
        if found is None:
            return
        here = next((p for p in self.document.parameters if p.id == name), None)
        if here is not None and (self.is_renewal or here.value == found.value):
            self._names[name] = name
            return
        taken = [p.id for p in (*self.document.parameters, *self.parameters)]
        self._names[name] = fresh_id(name, taken)
        self._need(found)
        self.parameters.append(self._stated(found).model_copy(update={"id": self._names[name]}))

    def _stated(self, node: M) -> M:
        """Something with every name in its expressions as it is called here."""
        own = {d.id for d in node.dimensions} if isinstance(node, model.Part) else set()
        names = {old: new for old, new in self._names.items() if old not in own and old != new}
        return renamed(node, names) if names else node


def renamed(node: M, names: Mapping[str, str]) -> M:
    """A part, unit, cam or parameter with some names in all its expressions given otherwise."""
    return rewritten(
        node, lambda stated: with_names(stated, names) if isinstance(stated, str) else stated
    )


def check_borrowable(other: model.Document, path: str) -> None:
    """Refuse a document that has nothing to take; raises `ValueOutOfRangeError`."""
    if not units_offered(other):
        raise ValueOutOfRangeError(
            "there is nothing in it to take.",
            where=f"document {path}",
            remedy="Choose one that has bodies.",
        )


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
    made = model.next_by_id(after.subassemblies, model.next_by_id(after.instances, use).subassembly)
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
