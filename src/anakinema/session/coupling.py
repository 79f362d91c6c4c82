"""Coupling two joints of the scene: what can be, sizes to begin with, and what would come."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.building.coupling import (
    CouplingDraft,
    Source,
    coupled_with,
    coupling_kinds,
    likely_sizes,
)
from anakinema.document import model
from anakinema.document.coupling_kinds import Sizes, coupling_spec
from anakinema.document.kinds import spec_of
from anakinema.session.assembling import Scene


@dataclass(frozen=True, slots=True)
class CouplingOffer:
    """A kind of coupling that two joints can have, and sizes to begin with."""

    kind: model.CouplingKind
    first_size: Source
    second_size: Source | None


def couplable(scene: Scene) -> tuple[tuple[str, str], ...]:
    """(id, title) of all joints that a coupling can take."""
    joints = scene.resolved.document.joints
    return tuple((joint.id, joint.title) for joint in joints if spec_of(joint.kind).moves)


def coupling_offers(scene: Scene, first: str, second: str) -> tuple[CouplingOffer, ...]:
    """What two joints can be coupled by, the likeliest first."""
    return tuple(
        CouplingOffer(kind, *likely_sizes(scene.resolved, kind, first, second))
        for kind in coupling_kinds(scene.resolved, first, second)
    )


def size_words(document: model.Document, coupling: model.Coupling) -> tuple[str, ...]:
    """What the sizes of a coupling of a flat document are called, one or two."""
    first, second = (document.joint(each).title for each in (coupling.first, coupling.second))
    sizes = coupling_spec(coupling.kind).sizes
    if sizes is Sizes.RIM:
        return (f"{sizes.value} of {first}",)
    if sizes is Sizes.ANGLE:
        return (sizes.value,)
    if sizes is Sizes.WAYS:
        return f"while {first} moves", f"{second} moves"
    return f"{sizes.value} of {first}", f"{sizes.value} of {second}"


def couple(
    scene: Scene,
    kind: model.CouplingKind,
    first: str,
    second: str,
    sizes: tuple[Source, Source | None],
) -> CouplingDraft:
    """The edit that couples two joints, and what is to be said of it.

    Raises an `AnakinemaError` if they cannot be coupled so.
    """
    return coupled_with(scene.resolved, scene.poses, kind, first, second, sizes)
