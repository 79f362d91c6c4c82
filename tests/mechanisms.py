"""Named mechanisms for tests, demos' checks and benchmarks; lengths in mm, angles in radians."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.motion.events import stopped_at_limits
from anakinema.motion.motion import Motion
from anakinema.motion.sweep import sweep

FULL_TURN = 2.0 * math.pi


def side(text: str) -> m.Side:
    """``body.place``."""
    body, _, place = text.partition(".")
    return m.Side(body=body, place=place)


def joint(name: str, kind: str, first: str, second: str, **more: Any) -> m.Joint:
    """A joint between two ``body.place``."""
    return m.Joint(id=name, kind=kind, first=side(first), second=side(second), **more)


def part(name: str, **places: tuple[float, ...]) -> m.Part:
    """A part that is only places (x, y) or (x, y, angle)."""
    return m.Part(
        id=name,
        places=tuple(
            m.Place(id=key, x=xy[0], y=xy[1], angle=xy[2] if len(xy) > 2 else 0.0)
            for key, xy in places.items()
        ),
    )


def body(name: str, x: float = 0, y: float = 0, angle: float = 0, **more: Any) -> m.Body:
    """A body that uses the part of the same name."""
    pose = m.Pose(x=x, y=y, angle=angle)
    return m.Body(id=name, part=more.pop("part", name), pose=pose, **more)


def coupling(
    name: str, kind: str, first: str, second: str, one: float, two: float | None = None, **more: Any
) -> m.Coupling:
    return m.Coupling.model_validate(
        {
            "id": name,
            "kind": kind,
            "first": first,
            "second": second,
            "first_size": one,
            "second_size": two,
            **more,
        }
    )


BOUNDS = ("least", "greatest", "comfort")


def asked(name: str, kind: str, reduce: str = "least", **more: Any) -> m.Requirement:
    """A requirement: bounds, and what its measure of a kind names."""
    bounds = {key: more.pop(key) for key in BOUNDS if key in more}
    measure = {"kind": kind, **more}
    return m.Requirement.model_validate(
        {"id": name, "measure": measure, "reduce": reduce, **bounds}
    )


def kept_distance(name: str, first: m.Side, second: m.Side) -> m.KeptMeasure:
    """A distance kept on show."""
    measure = m.DistanceMeasure(kind="distance", first=first, second=second)
    return m.KeptMeasure(id=name, measure=measure)


def document(
    parts: Sequence[m.Part], bodies: Sequence[m.Body], joints: Sequence[m.Joint], **more: Any
) -> m.Document:
    """A document in mm and radians."""
    return m.Document(
        units=m.Units(angle="rad"),
        parts=tuple(parts),
        bodies=tuple(bodies),
        joints=tuple(joints),
        **more,
    )


def driven(
    doc: m.Document, *moves: tuple[str, float, float], count: int = 360, **options: Any
) -> m.Document:
    """The document with drivers (joint, start, end) moved together in one stage, 1 unit/s."""
    drivers = tuple(
        m.Driver(id=f"d{k}", joint=j, start=a, rate=1.0) for k, (j, a, _) in enumerate(moves)
    )
    stage = m.Stage(
        moves=tuple(m.Move(driver=f"d{k}", to=b) for k, (_, _, b) in enumerate(moves)), count=count
    )
    program = m.Program(drivers=drivers, stages=(stage,), **options)
    return doc.model_copy(update={"program": program})


def mechanism(doc: m.Document) -> Mechanism:
    """Resolved and compiled."""
    return compile_mechanism(resolve(doc))


def motion(doc: m.Document) -> Motion:
    """Swept, and stopped at limits if the program says so."""
    whole = sweep(mechanism(doc))
    return stopped_at_limits(whole, run_past=doc.program.past_limits)


def wheels(*axes: tuple[float, float], on: str = "base") -> m.Document:
    """Wheels w0, w1, ... on axes of the base."""
    places = {f"p{k}": xy for k, xy in enumerate(axes)}
    bodies = [body("base", fixed=True)]
    joints = []
    for k, (x, y) in enumerate(axes):
        bodies.append(body(f"w{k}", x, y, 0.1 * k, part="wheel"))
        joints.append(joint(f"j{k}", "revolute", f"{on}.p{k}", f"w{k}.o"))
    parts = [part("base", **places), part("wheel", o=(0, 0), rim=(20, 0))]
    return document(parts, bodies, joints)


def four_bar_angles(
    a: float, b: float, c: float, d: float, theta: float, *, is_open: bool = True
) -> tuple[float, float]:
    """Coupler and rocker angle in closed form (law of cosines); B left of A→B0 when open."""
    ax, ay = a * math.cos(theta), a * math.sin(theta)
    span = math.hypot(d - ax, ay)
    lean = math.acos(min(1.0, max(-1.0, (span**2 + b**2 - c**2) / (2 * span * b))))
    theta3 = math.atan2(-ay, d - ax) + (lean if is_open else -lean)
    bx, by = ax + b * math.cos(theta3), ay + b * math.sin(theta3)
    return theta3, math.atan2(by, bx - d)


def four_bar(
    a: float, b: float, c: float, d: float, theta: float, *, is_open: bool = True
) -> m.Document:
    """Crank a, coupler b, rocker c, ground d, drawn exactly at crank angle ``theta``."""
    theta3, theta4 = four_bar_angles(a, b, c, d, theta, is_open=is_open)
    return document(
        [
            part("base", a=(0, 0), b=(d, 0)),
            part("crank", a=(0, 0), b=(a, 0)),
            part("coupler", a=(0, 0), b=(b, 0)),
            part("rocker", a=(0, 0), b=(c, 0)),
        ],
        [
            body("base", fixed=True),
            body("crank", 0, 0, theta),
            body("coupler", a * math.cos(theta), a * math.sin(theta), theta3),
            body("rocker", d, 0, theta4),
        ],
        [
            joint("crank_pivot", "revolute", "base.a", "crank.a"),
            joint("crank_pin", "revolute", "crank.b", "coupler.a"),
            joint("rocker_pin", "revolute", "coupler.b", "rocker.b"),
            joint("rocker_pivot", "revolute", "base.b", "rocker.a"),
        ],
    )


def crank_slider(
    r: float, length: float, offset: float, theta: float, *, to_right: bool = True
) -> m.Document:
    """Crank, rod and a slide on the level line y = offset."""
    ax, ay = r * math.cos(theta), r * math.sin(theta)
    reach = math.sqrt(length**2 - (ay - offset) ** 2)
    x = ax + reach if to_right else ax - reach
    return document(
        [
            part("base", a=(0, 0), line=(0, offset)),
            part("crank", a=(0, 0), b=(r, 0)),
            part("rod", a=(0, 0), b=(length, 0)),
            part("slide", pin=(0, 0)),
        ],
        [
            body("base", fixed=True),
            body("crank", 0, 0, theta),
            body("rod", ax, ay, math.atan2(offset - ay, x - ax)),
            body("slide", x, offset),
        ],
        [
            joint("crank_pivot", "revolute", "base.a", "crank.a"),
            joint("crank_pin", "revolute", "crank.b", "rod.a"),
            joint("slide_pin", "revolute", "rod.b", "slide.pin"),
            joint("guide", "prismatic", "base.line", "slide.pin"),
        ],
    )


def inverted_slider(
    d: float, a: float, c: float, theta: float, *, on_left: bool = True
) -> m.Document:
    """Crank pin that slides on an arm: ground d, crank a, arm c with its slide line square."""
    ax, ay = a * math.cos(theta) - d, a * math.sin(theta)
    span = math.hypot(ax, ay)
    swing = math.acos(c / span)
    theta4 = math.atan2(ay, ax) + (-swing if on_left else swing)
    return document(
        [
            part("base", a=(0, 0), b=(d, 0)),
            part("crank", a=(0, 0), b=(a, 0)),
            part("arm", a=(0, 0), b=(c, 0, math.pi / 2)),
        ],
        [body("base", fixed=True), body("crank", 0, 0, theta), body("arm", d, 0, theta4)],
        [
            joint("crank_pivot", "revolute", "base.a", "crank.a"),
            joint("slot", "pin_in_slot", "arm.b", "crank.b"),
            joint("arm_pivot", "revolute", "base.b", "arm.a"),
        ],
    )


def slotted_arm(r: float, below: float, theta: float) -> m.Document:
    """A crank pin in the slot of an arm pivoted ``below`` the crank centre (quick returns)."""
    ax, ay = r * math.cos(theta), r * math.sin(theta)
    return document(
        [
            part("base", a=(0, 0), b=(0, -below)),
            part("crank", a=(0, 0), b=(r, 0)),
            part("arm", a=(0, 0)),
        ],
        [
            body("base", fixed=True),
            body("crank", 0, 0, theta),
            body("arm", 0, -below, math.atan2(ay + below, ax)),
        ],
        [
            joint("crank_pivot", "revolute", "base.a", "crank.a"),
            joint("slot", "pin_in_slot", "arm.a", "crank.b"),
            joint("arm_pivot", "revolute", "base.b", "arm.a"),
        ],
    )


def parallel_cranks(
    throw: float, pitch: float, theta: float, *, count: int = 3, third: tuple[float, float] = (0, 0)
) -> m.Document:
    """Equal cranks on one bar; ``third`` moves the pivots of the third crank off the line."""
    places = {f"p{k}": (pitch * k, 0.0) for k in range(count)}
    if count > 2:
        places["p2"] = (2 * pitch + third[0], third[1])
    bodies = [body("base", fixed=True)]
    joints = []
    for k, (x, y) in enumerate(places.values()):
        bodies.append(body(f"crank{k}", x, y, theta, part="crank"))
        joints.append(joint(f"pivot{k}", "revolute", f"base.p{k}", f"crank{k}.a"))
        joints.append(joint(f"pin{k}", "revolute", f"crank{k}.b", f"bar.p{k}"))
    bodies.append(body("bar", throw * math.cos(theta), throw * math.sin(theta)))
    return document(
        [part("base", **places), part("crank", a=(0, 0), b=(throw, 0)), part("bar", **places)],
        bodies,
        joints,
    )


def bars(
    points: dict[str, tuple[float, float]], links: Sequence[str], base: Sequence[str]
) -> m.Document:
    """Straight bars "AB" between named points, pins where they meet; ``base`` points are fixed.

    A pin of k links is k-1 revolute joints, as the count by Grübler's formula has it.
    """
    parts = [part("base", **{p.lower(): points[p] for p in base})]
    bodies = [body("base", fixed=True)]
    ends: dict[str, list[str]] = {p: [f"base.{p.lower()}"] for p in base}
    for link in links:
        (x0, y0), (x1, y1) = points[link[0]], points[link[1]]
        length, angle = math.hypot(x1 - x0, y1 - y0), math.atan2(y1 - y0, x1 - x0)
        name = f"l{link.lower()}"
        parts.append(part(name, **{link[0].lower(): (0, 0), link[1].lower(): (length, 0)}))
        bodies.append(body(name, x0, y0, angle))
        for p in link:
            ends.setdefault(p, []).append(f"{name}.{p.lower()}")
    joints = []
    for p, sides in ends.items():
        for k in range(1, len(sides)):
            joints.append(joint(f"pin_{p.lower()}{k}", "revolute", sides[k - 1], sides[k]))
    return document(parts, bodies, joints)


def hung_weight(throw: float) -> m.Document:
    """A crank with a weight hung free on its pin, its origin off the pin."""
    return document(
        [
            part("base", a=(0, 0)),
            part("crank", a=(0, 0), b=(throw, 0)),
            part("weight", eye=(0, 25)),
        ],
        [body("base", fixed=True), body("crank"), body("weight", throw, -25)],
        [
            joint("pivot", "revolute", "base.a", "crank.a"),
            joint("eye", "revolute", "crank.b", "weight.eye"),
        ],
    )


def ten_bar() -> m.Document:
    """A crank, four dyads in a row: nine moving bodies, one freedom."""
    points = {
        "A": (0.0, 0.0),
        "B": (40.0, 0.0),
        "C": (130.0, 70.0),
        "D": (150.0, -10.0),
        "E": (230.0, 90.0),
        "F": (260.0, -20.0),
        "G": (340.0, 80.0),
        "H": (370.0, -10.0),
        "I": (450.0, 90.0),
        "J": (480.0, -10.0),
    }
    return bars(
        points, ["AB", "BC", "DC", "CE", "FE", "EG", "HG", "GI", "JI"], ["A", "D", "F", "H", "J"]
    )


def turned(doc: m.Document, angle: float, dx: float, dy: float) -> m.Document:
    """The whole document turned about the origin and moved."""
    c, s = math.cos(angle), math.sin(angle)
    bodies = []
    for item in doc.bodies:
        x, y = float(item.pose.x), float(item.pose.y)
        pose = m.Pose(
            x=c * x - s * y + dx, y=s * x + c * y + dy, angle=float(item.pose.angle) + angle
        )
        bodies.append(item.model_copy(update={"pose": pose}))
    return doc.model_copy(update={"bodies": tuple(bodies)})


def wrap(angle: float | np.ndarray) -> np.ndarray:
    """Angles in (-pi, pi]."""
    return np.asarray(np.remainder(np.asarray(angle) + np.pi, FULL_TURN) - np.pi)
