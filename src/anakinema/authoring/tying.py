"""How two bodies can go together besides a joint: one stops or pushes the other, or they mesh."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from anakinema.authoring.contacting import contact
from anakinema.authoring.coupling import couple, coupling_offers
from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.contact_kinds import contact_spec, kinds_of_contact
from anakinema.document.coupling_kinds import coupling_spec
from anakinema.document.kinds import spec_of
from anakinema.edits.base import Edit, Source


@dataclass(frozen=True, slots=True)
class Tie:
    """A way to relate two bodies: a key, words, and what makes it.

    ``make`` raises an `AnakinemaError` if what they are does not fit.
    """

    key: str
    words: str
    make: Callable[[], Edit]


def ties_of(scene: Scene, first: str, second: str) -> tuple[Tie, ...]:
    """Ways in which two bodies can be related besides a joint, the likeliest first."""
    return (*_couplings(scene, first, second), *_contacts(scene, first, second))


def _couplings(scene: Scene, first: str, second: str) -> list[Tie]:
    """Meshes and belts between a joint of each, where wheels or sizes suggest one."""
    found: list[Tie] = []
    for one in _joints(scene, first):
        for two in _joints(scene, second):
            if one == two:
                continue
            for offer in coupling_offers(scene, one, two):
                sizes = offer.first_size, offer.second_size
                words = coupling_spec(offer.kind).words
                if offer.first_size is None or any(tie.words == words for tie in found):
                    continue

                make = partial(_coupled, scene, offer.kind, one, two, sizes)
                found.append(Tie(f"couple_{offer.kind}", words, make))
    return found


def _coupled(
    scene: Scene,
    kind: model.CouplingKind,
    first: str,
    second: str,
    sizes: tuple[Source, Source | None],
) -> Edit:
    return couple(scene, kind, first, second, sizes).edit


def _joints(scene: Scene, body: str) -> list[str]:
    """Joints that a body moves by, those on what stands first."""
    document = scene.resolved.document
    fixed = {each.id for each in document.bodies if each.fixed}
    joints = [
        joint
        for joint in document.joints
        if body in (joint.first.body, joint.second.body) and spec_of(joint.kind).moves
    ]
    joints.sort(key=lambda j: not {j.first.body, j.second.body} & fixed)
    return [joint.id for joint in joints]


def _contacts(scene: Scene, first: str, second: str) -> list[Tie]:
    titles = {body.id: body.title for body in scene.resolved.document.bodies}
    if first not in titles or second not in titles:
        return []

    def make(kind: model.ContactKind) -> Edit:
        return contact(scene, kind, first, second, rolling=False).edit

    return [
        Tie(
            f"contact_{kind}",
            f"{titles[first]} {contact_spec(kind).words} {titles[second]}",
            partial(make, kind),
        )
        for kind in kinds_of_contact(alone=False)
    ]
