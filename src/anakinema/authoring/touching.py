"""Which outline pieces a joint is made of, what play they have, and how its bodies are stacked."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidPart, SolidSlab

SAME = 1e-6
LIKELY_PIN = (0.5, 1.3)
"""A round is the pin of a hole if its radius is such a share of the hole's."""


@dataclass(frozen=True, slots=True)
class Feature:
    """Something round or straight-sided at a place: a hole, a pin, a slot, a block.

    half : mm, its radius, or half its width across the direction of the place.
    edges : which edges touch, None for the whole contour. bottom, top : mm above the part's datum.
    """

    slab: str
    hole: str | None
    half: float
    edges: tuple[int, ...] | None
    bottom: float
    top: float

    @property
    def piece(self) -> model.OutlinePiece:
        """How a joint names it."""
        return model.OutlinePiece(slab=self.slab, hole=self.hole, edges=self.edges)


@dataclass(frozen=True, slots=True)
class Fit:
    """A pin in a hole or a block in a slot: both sizes across and the play between, mm."""

    first: Feature
    second: Feature
    inner: float
    outer: float

    @property
    def play(self) -> float:
        """Outer less inner size; zero or below cannot be assembled."""
        return self.outer - self.inner


def round_features(solid: SolidPart, x: float, y: float) -> list[Feature]:
    """Holes and rounds of a part that are concentric with a point of it."""
    out = []
    for slab in solid.slabs:
        for hole, keep in _rings(slab):
            edges = slab.region.edges
            centre, radius = edges.centre[keep], edges.radius[keep]
            if radius.min() <= 0 or float(np.ptp(radius)) > SAME:
                continue
            if float(np.hypot(*(centre - np.array([x, y])).T).max()) < SAME:
                out.append(Feature(slab.id, hole, float(radius[0]), None, slab.bottom, slab.top))
    return out


def straight_features(solid: SolidPart, x: float, y: float, angle: float) -> list[Feature]:
    """Holes and rims with two straight sides along a direction, the point midway between them."""
    normal = np.array([-math.sin(angle), math.cos(angle)])
    out = []
    for slab in solid.slabs:
        for hole, keep in _rings(slab):
            edges = slab.region.edges
            start, end = edges.start[keep], edges.end[keep]
            away = (start - np.array([x, y])) @ normal
            level = np.abs((end - start) @ normal) < SAME
            level &= (edges.radius[keep] == 0) & (np.hypot(*(end - start).T) > SAME)
            sides = away[level]
            if not len(sides) or sides.min() >= 0 or sides.max() <= 0:
                continue
            half = float(sides.max())
            if abs(half + float(sides.min())) > 1e-4:
                continue
            pieces = tuple(sorted(set(edges.piece[keep][level].tolist())))
            out.append(Feature(slab.id, hole, half, pieces, slab.bottom, slab.top))
    return out


def curved_slots(solid: SolidPart) -> list[Feature]:
    """The curved slots of a part: half their width is how far their rim is off their ends."""
    out = []
    for slab in solid.slabs:
        for hole, keep in _rings(slab):
            curve = solid.curves.get(hole or "")
            if hole is None or curve is None:
                continue
            end, _ = curve.at(np.zeros(1))
            half = float(np.hypot(*(slab.region.edges.start[keep] - end[0]).T).min())
            out.append(Feature(slab.id, hole, half, None, slab.bottom, slab.top))
    return out


def rims_on_cams(
    solid: SolidPart, curve: str, rider: SolidPart, x: float, y: float
) -> tuple[list[model.OutlinePiece], list[model.OutlinePiece]]:
    """Rims of a cam, and rounds and faces at a place that ride on it, as pieces of a joint."""
    cams = [
        model.OutlinePiece(slab=slab.id)
        for slab in solid.source.slabs
        if isinstance(slab.outline, model.CamOutline) and slab.outline.cam == curve
    ]
    if not cams:
        return [], []
    rounds = [f.piece for f in round_features(rider, x, y) if f.hole is None]
    faces = [
        model.OutlinePiece(slab=slab.id)
        for slab in rider.slabs
        if _belongs(slab, x, y) and model.OutlinePiece(slab=slab.id) not in rounds
    ]
    return cams, rounds or faces


def _rings(slab: SolidSlab) -> list[tuple[str | None, np.ndarray]]:
    names = (None, *slab.region.hole_names)
    return [(name, slab.region.ring == k) for k, name in enumerate(names)]


def fits(
    kind: model.JointKind,
    first: tuple[SolidPart, float, float, float],
    second: tuple[SolidPart, float, float, float],
) -> list[Fit]:
    """Pairs of features that a joint between two places (part, x, y, angle) is made of.

    Only a pin and a hole, or a block and a slot, that are about of one size.
    """
    a, b = first, second
    if kind in ("revolute", "rigid"):
        mine, other = round_features(a[0], a[1], a[2]), round_features(b[0], b[1], b[2])
    elif kind == "prismatic":
        mine, other = straight_features(*a), straight_features(*b)
    elif kind == "pin_in_slot":
        mine, other = straight_features(*a), round_features(b[0], b[1], b[2])
        mine = [feature for feature in mine if feature.hole is not None]
    elif kind == "pin_on_curve":
        mine, other = curved_slots(a[0]), round_features(b[0], b[1], b[2])
    else:
        return []
    found = []
    for one in mine:
        for two in other:
            hole, pin = (one, two) if one.hole is not None else (two, one)
            if (one.hole is None) == (two.hole is None):
                continue
            if LIKELY_PIN[0] < pin.half / hole.half < LIKELY_PIN[1]:
                found.append(Fit(one, two, 2 * pin.half, 2 * hole.half))
    return found


def sharing(found: list[Fit], rise: float) -> list[Fit]:
    """The fits whose features share heights when the second body stands ``rise`` mm above."""
    return [
        fit
        for fit in found
        if min(fit.first.top, fit.second.top + rise)
        > max(fit.first.bottom, fit.second.bottom + rise) + SAME
    ]


def seated_rise(
    found: list[Fit],
    first: tuple[SolidPart, float, float],
    second: tuple[SolidPart, float, float],
    manner: str = "face",
) -> float:
    """Height of the second body above the first, mm, for a join.

    manner : 'face' seats a hole on the shoulder of its pin, or the second body on top of the
    first where there is no pin; 'below' puts it under; 'middle' sets the features, or else the
    bodies, middle to middle.
    """
    if found and manner != "below":
        fit = found[0]
        if manner == "middle":
            return (fit.first.bottom + fit.first.top - fit.second.bottom - fit.second.top) / 2
        return fit.first.bottom - fit.second.bottom
    low, high = _heights_at(*first), _heights_at(*second)
    if manner == "middle":
        return (sum(low) - sum(high)) / 2
    if manner == "below":
        return low[0] - high[1]
    return low[1] - high[0]


def _heights_at(solid: SolidPart, x: float, y: float) -> tuple[float, float]:
    """Lowest and highest face of the slabs that a place belongs to, else of the whole part."""
    here = [slab for slab in solid.slabs if _belongs(slab, x, y)] or list(solid.slabs)
    if not here:
        return 0.0, 0.0
    return min(slab.bottom for slab in here), max(slab.top for slab in here)


def _belongs(slab: SolidSlab, x: float, y: float) -> bool:
    region = slab.region
    away = math.hypot(x - region.centre[0], y - region.centre[1])
    if away > region.radius:
        return False
    low = region.edges.start.min(axis=0) - SAME
    high = region.edges.start.max(axis=0) + SAME
    return bool(low[0] <= x <= high[0] and low[1] <= y <= high[1])


def joint_fits(resolved: Resolved, joint: model.Joint) -> list[Fit]:
    """Fits of a joint of the flat document that share heights as the bodies stand."""
    index = {body.id: i for i, body in enumerate(resolved.document.bodies)}
    sides = []
    for side in (joint.first, joint.second):
        solid = resolved.part_of(resolved.document.bodies[index[side.body]])
        sides.append((solid, *solid.places[side.place]))
    heights = resolved.heights
    rise = float(heights[index[joint.second.body]] - heights[index[joint.first.body]])
    return sharing(fits(joint.kind, sides[0], sides[1]), rise)
