"""The contacts of a document as pairs of features that can face one another."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anakinema.document import model
from anakinema.document.contact_kinds import ContactSpec, contact_spec
from anakinema.document.pieces import edges_of
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import is_inside
from anakinema.geometry.features import Feature, Features, Indices, Pairs, features_of
from anakinema.geometry.region import Region
from anakinema.mechanism.kernels import Kernel
from anakinema.mechanism.slab_pairs import SlabPair, slab_pairs
from anakinema.mechanism.touch import Touch

INWARDS = 3.0
"""Depths that a point near a corner lies inside its body: where two outlines are flush at a
side, the corner itself lies on the other's rim."""


@dataclass(frozen=True, slots=True, eq=False)
class Facing:
    """Two slabs of two bodies that a contact is about; ``contact`` is its index.

    compared : the edge pairs it is about. far : (2,) mm, how far the features of each lie from
    their body's origin at most.
    """

    contact: int
    kind: model.ContactKind
    rolls: bool
    first_body: int
    second_body: int
    pairs: Pairs
    regions: tuple[Region, Region]
    compared: SlabPair
    far: tuple[float, float]

    @property
    def spec(self) -> ContactSpec:
        """What its contact does."""
        return contact_spec(self.kind)

    def overlaps(self, pair: int, pose: Floats, depth: float) -> bool:
        """Whether the sharper feature of a pair really lies ``depth`` mm in the other's material.

        ``pose`` (3,) of the second in the first's frame. At a sharp corner a point may be behind
        a face and yet beside the body.
        """
        one, two = self.pairs.witnesses(pair, pose)
        i, j = int(self.pairs.one[pair]), int(self.pairs.two[pair])
        a, b = self.pairs.first, self.pairs.second
        is_first = a.kind[i] == Feature.ROUND and (
            b.kind[j] != Feature.ROUND or a.radius[i] < b.radius[j]
        )
        if not is_first:
            inner = two - INWARDS * depth * _tip(b, j, float(pose[2]))
            return any(is_inside(self.regions[0], point, depth) for point in (two, inner))
        inner = one - INWARDS * depth * _tip(a, i, 0.0)
        c, s = math.cos(pose[2]), math.sin(pose[2])
        turned = np.array([[c, -s], [s, c]])
        return any(
            is_inside(self.regions[1], (point - pose[:2]) @ turned, depth) for point in (one, inner)
        )

    @property
    def bodies(self) -> tuple[int, int]:
        """Both body indices."""
        return self.first_body, self.second_body

    @property
    def extent(self) -> float:
        """mm, the radius of the smaller of the two slabs: what is small is small against that."""
        return min(region.radius for region in self.regions)

    @property
    def key(self) -> bytes:
        """Equal for equal facings."""
        arrays = [
            getattr(features, name)
            for features in (self.pairs.first, self.pairs.second)
            for name in ("kind", "point", "radius", "middle", "half", "direction", "length")
        ]
        head = (
            f"{self.contact} {self.kind} {self.rolls} {self.first_body} {self.second_body}".encode()
        )
        return b"|".join([head, *(np.ascontiguousarray(a).tobytes() for a in arrays)])

    def touch(self, pair: int) -> Touch | None:
        """The condition that a pair of its features is in touch; None for two corners."""
        i, j = int(self.pairs.one[pair]), int(self.pairs.two[pair])
        a, b = self.pairs.first, self.pairs.second
        if b.kind[j] == Feature.LINE or b.kind[j] == Feature.BOWL:
            return _touch(b, a, j, i, self.second_body, self.first_body)
        return _touch(a, b, i, j, self.first_body, self.second_body)

    def roll(self, pair: int, size: float) -> Touch | None:
        """The condition that a pair rolls without slip, its sum not yet set.

        Equal arcs pass on both: R dβ on each round, β the direction to the touch seen from its
        body; on a line the arc is the way along it. Derived in docs/methods.md, "Contact".
        """
        touch = self.touch(pair)
        if touch is None:
            return None
        i, j = int(self.pairs.one[pair]), int(self.pairs.two[pair])
        one, two = float(self.pairs.first.radius[i]), float(self.pairs.second.radius[j])
        if touch.first != self.first_body:
            one, two = two, one
        terms: tuple[tuple[Kernel, float], ...] = (
            (Kernel.POLAR, (one + touch.sign * two) / size),
            (Kernel.TURN, -touch.sign * two / size),
        )
        if touch.kernel is Kernel.ACROSS:
            terms = ((Kernel.ALONG, 1.0), (Kernel.TURN, two / size))
        return replace(touch, kernel=Kernel.COUPLED, terms=terms)

    def neighbours(self, pair: int) -> Indices:
        """Pairs that a pair passes into, itself among them: nothing else touches next to it."""
        ones = self.pairs.first.around(int(self.pairs.one[pair]))
        twos = self.pairs.second.around(int(self.pairs.two[pair]))
        near = np.isin(self.pairs.one, list(ones)) & np.isin(self.pairs.two, list(twos))
        return np.flatnonzero(near)


def _tip(features: Features, index: int, turn: float) -> Floats:
    """(2,) the direction in which a corner points, its body turned by ``turn``; 0 of a round."""
    if features.radius[index] > 0.0:
        return np.zeros(2)
    angle = float(features.middle[index]) + turn
    return np.array([math.cos(angle), math.sin(angle)])


def _touch(a: Features, b: Features, i: int, j: int, first: int, second: int) -> Touch | None:
    """Touch of feature i of a, which may be a line or a bowl, with the round j of b."""
    one, two = (
        (float(a.point[i, 0]), float(a.point[i, 1])),
        (float(b.point[j, 0]), float(b.point[j, 1])),
    )
    r1, r2 = float(a.radius[i]), float(b.radius[j])
    if a.kind[i] == Feature.LINE:
        angle = float(a.direction[i])
        return Touch(Kernel.ACROSS, first, second, one, two, first_angle=angle, target=r2)
    if a.kind[i] == Feature.BOWL:
        return Touch(Kernel.CIRCLE, first, second, one, two, radius=r1 - r2, sign=-1.0)
    if r1 + r2 <= 0.0:
        return None
    return Touch(Kernel.CIRCLE, first, second, one, two, radius=r1 + r2)


def facings(resolved: Resolved) -> tuple[Facing, ...]:
    """All facings of a document's contacts."""
    document = resolved.document
    if not document.contacts:
        return ()
    index = {body.id: k for k, body in enumerate(document.bodies)}
    found: list[Facing] = []
    taken: set[tuple[int, int]] = set()
    every = slab_pairs(resolved)
    # What names both bodies says more than what names one.
    order = sorted(range(len(document.contacts)), key=lambda k: document.contacts[k].second is None)
    for k in order:
        contact = document.contacts[k]
        pairs: set[tuple[int, int]] = set()
        for each in _of_contact(contact, index, every):
            if each.bodies in taken:
                continue
            pairs.add(each.bodies)
            facing = _facing(k, contact, index, each)
            if facing is not None:
                found.append(facing)
        taken |= pairs
    return tuple(found)


def _of_contact(
    contact: model.Contact, index: Mapping[str, int], every: Iterable[SlabPair]
) -> list[SlabPair]:
    first = index[contact.first.body]
    if contact.second is None:
        return [each for each in every if first in each.bodies]
    wanted = {first, index[contact.second.body]}
    return [each for each in every if set(each.bodies) == wanted]


def _facing(
    k: int, contact: model.Contact, index: Mapping[str, int], each: SlabPair
) -> Facing | None:
    chosen: list[npt.NDArray[np.bool_]] = [
        np.asarray(each.compared.any(axis=1)),
        np.asarray(each.compared.any(axis=0)),
    ]
    for surface in (contact.first, contact.second):
        if surface is None or not surface.pieces:
            continue
        side = each.bodies.index(index[surface.body])
        slab = (each.first, each.second)[side]
        named = [edges_of(slab.region, p) for p in surface.pieces if p.slab == slab.id]
        wanted = np.zeros(len(chosen[side]), dtype=np.bool_)
        for mask in named:
            wanted |= mask
        chosen[side] = chosen[side] & wanted
    if not (chosen[0].any() and chosen[1].any()):
        return None
    one = features_of(each.first.region, chosen[0])
    two = features_of(each.second.region, chosen[1])
    return Facing(
        k,
        contact.kind,
        contact.rolling,
        each.first_body,
        each.second_body,
        Pairs.all_of(one, two),
        (each.first.region, each.second.region),
        replace(each, compared=np.outer(*chosen)),
        (_far(one), _far(two)),
    )


def beside_contacts(resolved: Resolved, found: Iterable[Facing]) -> tuple[SlabPair, ...]:
    """What clearance compares: all that can touch, less what contact keeps from overlapping."""

    def slabs(each: SlabPair) -> tuple[int, str, int, str]:
        return each.first_body, each.first.id, each.second_body, each.second.id

    kept = {slabs(facing.compared): facing.compared.compared for facing in found}
    out = []
    for each in slab_pairs(resolved):
        taken = kept.get(slabs(each))
        left = each if taken is None else replace(each, compared=each.compared & ~taken)
        if left.compared.any():
            out.append(left)
    return tuple(out)


def _far(features: Features) -> float:
    middle, reach = features.centres()
    return float((np.hypot(middle[:, 0], middle[:, 1]) + reach).max(initial=0.0))
