"""Conditions on a curve of the first body: fields of where the second place stands in its frame.

The fields, with gradients and second derivatives by (along, across, turn), are those of
`anakinema.mechanism.fields`; here they are taken to the bodies.
"""

from __future__ import annotations

from abc import abstractmethod
from typing import Any

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.conditions.condition import (
    BOUNDLESS,
    Condition,
    Going,
    Here,
    Rows,
    Slope,
    Speeds,
    cross,
    dot,
    moving_apart,
    spins,
)
from anakinema.mechanism.conditions.directed import Across, Along
from anakinema.mechanism.conditions.plain import Turn
from anakinema.mechanism.fields import (
    Field,
    bent,
    on_track,
    over_run,
    supported,
    track_along,
    track_turn,
)

_PARTS = (Along(), Across(), Turn())


class OnCurve(Condition):
    """A function of along, across and turn; an angle is scaled by the size."""

    is_angle = False

    @abstractmethod
    def field(self, curve: Any, place: Floats, turn: Floats) -> Field:
        """The function at places (N, 2) mm and turns (N,) rad."""

    def residual(self, on: Rows) -> Floats:
        """The function's value."""
        values = [f.value.reshape(on.at.turn.shape[:-1]) for f in self._fields(on)]
        return self._scale(on.size) * np.stack(values, axis=-1)

    def partials(self, on: Rows) -> Floats:
        """Its gradient through those of along, across and turn."""
        parts = [part.partials(on) for part in _PARTS]
        parts[2] = parts[2] / on.size
        out = np.zeros(parts[0].shape)
        for k, each in enumerate(self._fields(on)):
            gradient = each.gradient.reshape(*on.at.turn.shape[:-1], 3)
            for i, part in enumerate(parts):
                out[..., k, :] += gradient[..., i, None] * part[..., k, :]
        return self._scale(on.size) * out

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """Its gradient through those of its parts, less what it bends along the way."""
        parts = [part.quadratic(on, rates) for part in _PARTS]
        moving, (spin1, spin2) = moving_apart(on, rates), spins(on, rates)
        axis, apart = on.at.axis[..., on.joints, :], on.at.apart[..., on.joints, :]
        along = spin1 * cross(axis, apart) + dot(axis, moving)
        across = -spin1 * dot(axis, apart) + cross(axis, moving)
        velocity = np.stack([along, across, spin2 - spin1], axis=-1)
        out = np.zeros(parts[0].shape)
        lead = on.at.turn.shape[:-1]
        for k, each in enumerate(self._fields(on)):
            gradient, second = each.gradient.reshape(*lead, 3), each.second.reshape(*lead, 3, 3)
            pull = sum(gradient[..., i] * parts[i][..., k] for i in range(3))
            v = velocity[..., k, :]
            out[..., k] = pull - np.einsum("...i,...ij,...j->...", v, second, v)
        return self._scale(on.size) * out

    def slope(self, here: Here) -> Slope:
        """Its gradient, turned into the plane."""
        dx, dy, ux, uy, turn, _, curve, size = here
        along, across, scale = ux * dx + uy * dy, ux * dy - uy * dx, self._scale(size)
        at = self.field(curve, np.array([[along, across]]), np.array([turn]))
        gx, gy, turning = (scale * each for each in at.gradient[0].tolist())
        swing = gx * across - gy * along - turning
        value = scale * float(at.value[0])
        return value, gx * ux - gy * uy, gx * uy + gy * ux, swing, turning

    def pull(self, here: Here, going: Going) -> float:
        """Its velocity term at one pose."""
        dx, dy, ux, uy, turn, _, curve, size = here
        mx, my, w, spin2, px, py = going
        along, across = ux * dx + uy * dy, ux * dy - uy * dx
        at = self.field(curve, np.array([[along, across]]), np.array([turn]))
        (gx, gy, _), second = at.gradient[0].tolist(), at.second[0].tolist()
        run, slip = ux * mx + uy * my, ux * my - uy * mx
        speed = (w * across + run, slip - w * along, spin2 - w)
        pull = gx * (w * w * along - 2 * w * slip + ux * px + uy * py)
        pull += gy * (w * w * across + 2 * w * run + ux * py - uy * px)
        for m in range(3):
            pull -= speed[m] * sum(second[m][n] * speed[n] for n in range(3))
        return float(self._scale(size) * pull)

    def _scale(self, size: float) -> float:
        return size if self.is_angle else 1.0

    def _fields(self, on: Rows) -> list[Field]:
        """The function of every row at all poses, their leading axes flattened."""
        out = []
        for joint in on.joints.tolist():
            axis, apart = on.at.axis[..., joint, :], on.at.apart[..., joint, :]
            place = np.stack([dot(axis, apart), cross(axis, apart)], axis=-1).reshape(-1, 2)
            turn = on.at.turn[..., joint].reshape(-1)
            out.append(self.field(on.table.curves[joint], place, turn))
        return out

    def _known(self, on: Rows, name: str) -> Floats:
        """(R,) a number of every row's curve."""
        return np.array([getattr(on.table.curves[joint], name) for joint in on.joints.tolist()])


class Track(OnCurve):
    """How far the second place is off its curve."""

    def field(self, curve: Any, place: Floats, turn: Floats) -> Field:
        """As `anakinema.mechanism.fields` has it."""
        return on_track(curve, place, turn)

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """Change of J·v on a curve of curvature up to ``bend``.

        With V the most that the second place moves in the curve's frame and A the most that this
        velocity changes: |∇f| A + |∇²f| reach V², both at their largest.
        """
        there, change = _seen_from_first(most)
        bend, sharp = self._known(on, "most_curvature"), self._known(on, "most_curvature_rate")
        # How far the places are off their curves, either side.
        off = np.abs(_TRACK.residual(on))
        farther = off + most.reach * there
        room = 1.0 - bend * farther
        with np.errstate(divide="ignore", invalid="ignore"):
            q = np.where(room > 0.05, 1.0 / room, np.inf)
            steep, curved = self._steepest(bend, sharp, q, farther)
            bound = steep * change + curved * most.reach * there**2
        return self._scale(on.size) * np.where(np.isfinite(bound), bound, BOUNDLESS)

    def _steepest(
        self, bend: Floats, sharp: Floats, q: Floats, farther: Floats
    ) -> tuple[Floats, Floats]:
        """The most of |∇f| and |∇²f|, with q = 1 / (1 − κ d) at its largest."""
        return np.ones_like(q), bend * q


_TRACK = Track()


class TrackAlong(Track):
    """The way along the curve to the foot of the second place."""

    def field(self, curve: Any, place: Floats, turn: Floats) -> Field:
        """As `anakinema.mechanism.fields` has it."""
        return track_along(curve, place, turn)

    def _steepest(
        self, bend: Floats, sharp: Floats, q: Floats, farther: Floats
    ) -> tuple[Floats, Floats]:
        return q, 2 * q**2 * bend + q**3 * sharp * farther


class TrackTurn(TrackAlong):
    """The turn of the second body against the curve's direction at that foot."""

    is_angle = True

    def field(self, curve: Any, place: Floats, turn: Floats) -> Field:
        """As `anakinema.mechanism.fields` has it."""
        return track_turn(curve, place, turn)

    def _steepest(
        self, bend: Floats, sharp: Floats, q: Floats, farther: Floats
    ) -> tuple[Floats, Floats]:
        steep, curved = super()._steepest(bend, sharp, q, farther)
        return bend * steep, bend * curved + sharp * q**2


class Support(OnCurve):
    """How far a face of the second body is off a convex curve."""

    def field(self, curve: Any, place: Floats, turn: Floats) -> Field:
        """As `anakinema.mechanism.fields` has it."""
        return supported(curve, place, turn)

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """|∂²f/∂α²| is at most the curve's radius of curvature."""
        there, change = _seen_from_first(most)
        spin, least = most.spin1 + most.spin2, self._known(on, "least_curvature")
        with np.errstate(divide="ignore", invalid="ignore"):
            radius = np.where(least > 0, 1.0 / least, np.inf)
            bound = change + most.reach * (2 * there * spin + radius * spin**2)
        return np.asarray(np.where(np.isfinite(bound), bound, BOUNDLESS))


class Bent(OnCurve):
    """The turn that a universal joint passes on."""

    is_angle = True

    def field(self, curve: Any, place: Floats, turn: Floats) -> Field:
        """As `anakinema.mechanism.fields` has it."""
        return bent(curve, place, turn)

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """By the most that it bends."""
        bends = self._known(on, "most_bend")
        return np.asarray(on.size * bends * (most.spin1 + most.spin2) ** 2 * most.reach)


class OverRun(OnCurve):
    """The belt between marks on two wheels."""

    def field(self, curve: Any, place: Floats, turn: Floats) -> Field:
        """As `anakinema.mechanism.fields` has it."""
        return over_run(curve, place, turn)

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """Its direction turns by what crosses it over its length.

        Seen from the plane the turns of both wheels only add, so however fast they run, they do
        not change it.
        """
        across = self._known(on, "across")
        along = np.sqrt(np.maximum(most.apart**2 - across**2, 0.0)) - most.reach * most.moving
        with np.errstate(divide="ignore", invalid="ignore"):
            bound = most.turning + most.reach * most.moving**2 / np.where(along > 0, along, np.nan)
        return np.asarray(np.where(np.isfinite(bound), bound, BOUNDLESS))


def _seen_from_first(most: Speeds) -> tuple[Floats, Floats]:
    """The most that a second place moves in the first's frame, and that this velocity changes."""
    farthest = most.apart + most.reach * most.moving
    there = most.moving + most.spin1 * farthest
    turning = most.spin1 * (2 * most.moving + most.spin1 * farthest)
    return there, most.turning + most.reach * turning
