"""Random machines of wheels coupled by rods through their change points, with their closed form.

Each further wheel hangs on an earlier one by one or more rods: parallelograms, kites, and other
four-bars whose shortest and longest side are as long as the other two. The way a pose goes on
over a change point is analytic: where the discriminant of the four-bar has a double zero its root
is a sine or cosine of half the angle, with its sign (derived from the law of cosines).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import brentq

from anakinema.document import model as m
from tests import mechanisms as build

Floats = np.ndarray
FULL_TURN = 2 * math.pi


@dataclass
class Coupling:
    """A rod from wheel ``of`` (pin at ``radius``, ``phase``) to the wheel that it turns."""

    of: int
    radius: float
    phase: float
    rod: float
    other: float
    """Crank of the wheel that it turns."""
    other_phase: float = 0.0


@dataclass
class Wheel:
    """A wheel on the frame: its axle, and what turns it, all of it together."""

    x: float
    y: float
    couplings: list[Coupling] = field(default_factory=list)
    direction: float = 0.0
    apart: float = 1.0


@dataclass
class Slider:
    """A crosshead on a line through a wheel's axle."""

    of: int
    radius: float
    phase: float
    rod: float
    direction: float


@dataclass
class Machine:
    """Wheels, the first driven, and crossheads; ``start`` is the first wheel's angle as drawn."""

    wheels: list[Wheel]
    sliders: list[Slider]
    start: float
    sides: list[float]
    """Which assembly each coupled wheel is drawn in, +1 or -1."""


def output(c: Coupling, apart: float, angle: Floats, side: float) -> Floats:
    """Direction of the far crank from the line of centres, for near-crank ``angle`` from it."""
    r, d, rod, far = c.radius, apart, c.rod, c.other
    span2 = d * d + r * r - 2 * d * r * np.cos(angle)
    half = 2 * math.sqrt(d * r)
    folds = abs(abs(rod - far) - abs(d - r)) < 1e-12
    stretches = abs(rod + far - d - r) < 1e-12
    one = half * np.sin(angle / 2) if folds else np.sqrt(span2 - (rod - far) ** 2)
    two = half * np.cos(angle / 2) if stretches else np.sqrt((rod + far) ** 2 - span2)
    if abs(d - r) < 1e-12:
        # The crank's end meets the other axle: the line between keeps its direction there.
        span = 2 * d * np.sin(angle / 2)
        ex, ey = np.sin(angle / 2), -np.cos(angle / 2)
        along, across = span / 2, side * two / 2
    else:
        span = np.sqrt(span2)
        ex, ey = (d - r * np.cos(angle)) / span, -r * np.sin(angle) / span
        along = (span2 + rod * rod - far * far) / (2 * span)
        across = side * one * two / (2 * span)
    bx = r * np.cos(angle) + along * ex - across * ey
    by = r * np.sin(angle) + along * ey + across * ex
    return np.arctan2(by, bx - d)


def turns(machine: Machine, driver: Floats, sides: list[float], drawn_at: int = 0) -> Floats:
    """(W, N) angles of all wheels over finely spaced driver angles, counted on from the drawing,
    which is at index ``drawn_at``: a full turn of a wheel is another branch of what hangs on it."""
    out = [driver]
    for wheel, side in zip(machine.wheels[1:], sides, strict=True):
        c = wheel.couplings[0]
        near = out[c.of] + c.phase - wheel.direction
        raw = output(c, wheel.apart, near, side)
        far = np.unwrap(raw)
        far = far + (raw[drawn_at] - far[drawn_at])
        out.append(far + wheel.direction - c.other_phase)
    return np.array(out)


def drawn(machine: Machine) -> list[float]:
    """The wheels' angles as drawn."""
    return [float(v[0]) for v in turns(machine, np.array([machine.start]), machine.sides)]


def document(machine: Machine, travel: float, count: int) -> m.Document:
    """The machine as a document, driven from its start by ``travel`` rad."""
    angles = drawn(machine)
    places: dict[str, tuple[float, ...]] = {}
    parts: list[m.Part] = []
    bodies = [build.body("base", fixed=True)]
    joints: list[m.Joint] = []
    pins: list[dict[str, tuple[float, ...]]] = [{"o": (0.0, 0.0)} for _ in machine.wheels]

    def pin(wheel: int, radius: float, phase: float) -> tuple[str, tuple[float, float]]:
        name = f"p{len(pins[wheel])}"
        pins[wheel][name] = (radius * math.cos(phase), radius * math.sin(phase))
        at = angles[wheel] + phase
        w = machine.wheels[wheel]
        return name, (w.x + radius * math.cos(at), w.y + radius * math.sin(at))

    for k, wheel in enumerate(machine.wheels):
        places[f"a{k}"] = (wheel.x, wheel.y)
        joints.append(build.joint(f"axle{k}", "revolute", f"base.a{k}", f"w{k}.o"))
        bodies.append(build.body(f"w{k}", wheel.x, wheel.y, angles[k]))
        for n, c in enumerate(wheel.couplings):
            near, a = pin(c.of, c.radius, c.phase)
            far, b = pin(k, c.other, c.other_phase)
            rod = f"rod{k}_{n}"
            parts.append(build.part(rod, a=(0, 0), b=(c.rod, 0)))
            bodies.append(build.body(rod, *a, math.atan2(b[1] - a[1], b[0] - a[0])))
            joints.append(build.joint(f"{rod}a", "revolute", f"w{c.of}.{near}", f"{rod}.a"))
            joints.append(build.joint(f"{rod}b", "revolute", f"{rod}.b", f"w{k}.{far}"))
    for n, s in enumerate(machine.sliders):
        near, a = pin(s.of, s.radius, s.phase)
        w = machine.wheels[s.of]
        lean = angles[s.of] + s.phase - s.direction
        way = s.radius * math.cos(lean) + math.sqrt(s.rod**2 - (s.radius * math.sin(lean)) ** 2)
        c = math.cos(s.direction), math.sin(s.direction)
        b = (w.x + way * c[0], w.y + way * c[1])
        places[f"s{n}"] = (w.x, w.y, s.direction)
        parts += [build.part(f"con{n}", a=(0, 0), b=(s.rod, 0)), build.part(f"head{n}", o=(0, 0))]
        bodies.append(build.body(f"con{n}", *a, math.atan2(b[1] - a[1], b[0] - a[0])))
        bodies.append(build.body(f"head{n}", *b, s.direction))
        joints += [
            build.joint(f"big{n}", "revolute", f"w{s.of}.{near}", f"con{n}.a"),
            build.joint(f"small{n}", "revolute", f"con{n}.b", f"head{n}.o"),
            build.joint(f"guide{n}", "prismatic", f"base.s{n}", f"head{n}.o"),
        ]
    parts += [build.part("base", **places)]
    parts += [build.part(f"w{k}", **p) for k, p in enumerate(pins)]
    doc = build.document(parts, bodies, joints)
    return build.driven(doc, ("axle0", machine.start, machine.start + travel), count=count)


def random_machine(random: np.random.Generator) -> Machine:
    """Two to four loops among up to five wheels, ratios up to 30, now and then crossheads."""
    while True:
        machine = _drawn_up(random)
        if machine is not None:
            return machine


def _drawn_up(random: np.random.Generator) -> Machine | None:
    wheels = [Wheel(0.0, 0.0)]
    loops = int(random.integers(2, 5))
    sides: list[float] = []
    while loops:
        of = int(random.integers(len(wheels)))
        kind = str(random.choice(["parallel", "crossed", "kite", "long kite", "other"]))
        radius = float(10 ** random.uniform(0.7, 1.7))
        ratio = float(10 ** random.uniform(0.1, math.log10(30)))
        direction = float(random.choice([0.0, 0.0, random.uniform(-3, 3)]))
        phase = float(random.choice([0.0, 0.0, random.uniform(-3, 3)]))
        side = float(random.choice([-1.0, 1.0]))
        apart = radius * ratio
        rods = 1
        if kind == "parallel" or kind == "crossed":
            rod, other = apart, radius
            # Parallel: the far crank's pin stands off the near one by the line of centres.
            rods = min(loops, int(random.choice([1, 1, 2, 3]))) if kind == "parallel" else 1
        elif kind == "kite":
            apart, rod = radius, radius * max(ratio, 1.2)
            other = rod
        elif kind == "long kite":
            rod, other = radius, apart
        else:
            # Shortest plus longest as long as the other two, the near crank shortest.
            rod = radius * float(random.uniform(1.3, 8.0))
            other = radius * float(random.uniform(1.3, 8.0))
            long_one = rod + other - radius
            apart = long_one
        wheel = Wheel(
            wheels[of].x + apart * math.cos(direction),
            wheels[of].y + apart * math.sin(direction),
            direction=direction,
            apart=apart,
        )
        for n in range(rods):
            same = 1.0 if n == 0 else float(random.uniform(0.1, 3.0))
            turned = 0.0 if n == 0 or random.random() < 0.6 else float(random.uniform(-3, 3))
            near = Coupling(of, radius * same, phase + turned, rod, other * same)
            wheel.couplings.append(near)
        wheels.append(wheel)
        sides.append(_parallel_side(wheel, kind) if kind in ("parallel", "crossed") else side)
        loops -= rods
    start = float(random.choice([0.0, math.pi, random.uniform(-3, 3), random.uniform(-3, 3)]))
    machine = Machine(wheels, [], start, sides)
    # The wheels are drawn at no particular angle.
    for k in range(1, len(wheels)):
        turned = float(random.choice([0.0, random.uniform(-1, 1)]))
        for c in wheels[k].couplings:
            c.other_phase = (
                c.phase - wheels[k].direction + wheels[k].direction + turned
                if len(wheels[k].couplings) > 1
                else turned
            )
    for _ in range(int(random.integers(0, 3))):
        of = int(random.integers(len(wheels)))
        radius = float(10 ** random.uniform(0.7, 1.5))
        machine.sliders.append(
            Slider(
                of,
                radius,
                float(random.choice([0.0, random.uniform(-3, 3)])),
                radius * float(random.uniform(1.15, 8.0)),
                float(random.choice([0.0, math.pi, random.uniform(-3, 3)])),
            )
        )
    return machine


def _parallel_side(wheel: Wheel, kind: str) -> float:
    """The side on which the far crank keeps parallel to the near one, or not."""
    probe = np.array([0.7])
    near = output(wheel.couplings[0], wheel.apart, probe, 1.0)
    is_parallel = abs(float(near[0]) - 0.7) < 1e-9
    return 1.0 if is_parallel == (kind == "parallel") else -1.0


@dataclass
class Truth:
    """What the closed form says over a travel: places are shares of it, 0 to 1."""

    changes: list[float]
    extremes: dict[str, list[float]]


def truth(machine: Machine, travel: float, sides: list[float]) -> Truth:
    """Change points, and extremes of axles and guides, over a travel from the start."""
    t = np.concatenate([np.linspace(-0.01, 0.0, 120)[:-1], np.linspace(0.0, 1.01, 11_900)])
    driver = machine.start + travel * t
    fine = turns(machine, driver, sides, 119)

    def at(share: float) -> Floats:
        """All angles at a share, counted on as on the fine raster."""
        k = int(np.clip(np.searchsorted(t, share), 1, len(t) - 1))
        near = turns(machine, machine.start + travel * np.array([share]), sides)[:, 0]
        out = []
        for row, raw in enumerate(near):
            expected = np.interp(share, t[k - 1 : k + 1], fine[row, k - 1 : k + 1])
            out.append(raw + FULL_TURN * round((expected - raw) / FULL_TURN))
        return _counted(machine, travel, share, sides, np.array(out))

    changes: list[float] = []
    for wheel in machine.wheels:
        if not wheel.couplings:
            continue
        if any(
            abs(math.remainder(c.phase - wheel.couplings[0].phase, math.pi)) > 1e-9
            for c in wheel.couplings
        ):
            continue
        c = wheel.couplings[0]
        folds = abs(abs(c.rod - c.other) - abs(wheel.apart - c.radius)) < 1e-12
        stretches = abs(c.rod + c.other - wheel.apart - c.radius) < 1e-12
        for fits, shift in ((folds, 0.0), (stretches, math.pi)):
            if fits:

                def off(share: float, c: Coupling = c, w: Wheel = wheel, s: float = shift) -> float:
                    return math.sin((at(share)[c.of] + c.phase - w.direction - s) / 2)

                line = np.sin((fine[c.of] + c.phase - wheel.direction - shift) / 2)
                changes += _roots(off, t, line)
    extremes: dict[str, list[float]] = {}
    for k in range(1, len(machine.wheels)):
        extremes[f"axle{k}"] = _stands(lambda s, k=k: at(s)[k], t, fine[k])
    for n, s in enumerate(machine.sliders):

        def way(angle: Floats | float, s: Slider = s) -> Floats:
            lean = angle + s.phase - s.direction
            return s.radius * np.cos(lean) + np.sqrt(s.rod**2 - (s.radius * np.sin(lean)) ** 2)

        extremes[f"guide{n}"] = _stands(
            lambda share, way=way, s=s: float(way(at(share)[s.of])), t, way(fine[s.of])
        )
    return Truth(sorted(changes), extremes)


def _counted(
    machine: Machine, travel: float, share: float, sides: list[float], out: Floats
) -> Floats:
    """Angles at a share with each wheel worked out from the counted angle of the one before."""
    out[0] = machine.start + travel * share
    for k, (wheel, side) in enumerate(zip(machine.wheels[1:], sides, strict=True), 1):
        c = wheel.couplings[0]
        near = np.array([out[c.of] + c.phase - wheel.direction])
        raw = float(output(c, wheel.apart, near, side)[0]) + wheel.direction - c.other_phase
        out[k] = raw + FULL_TURN * round((out[k] - raw) / FULL_TURN)
    return out


def _roots(function, t: Floats, line: Floats) -> list[float]:  # type: ignore[no-untyped-def]
    if np.ptp(line) < 1e-9:
        # A loop whose wheels stand still stands at its change point all along, and passes none.
        return []
    found = [float(x) for x in t[line == 0.0]]
    for k in np.flatnonzero(line[:-1] * line[1:] < 0):
        found.append(float(brentq(function, t[k], t[k + 1], xtol=1e-15)))
    return [x for x in found if -1e-9 <= x <= 1 + 1e-9]


def _stands(function, t: Floats, line: Floats) -> list[float]:  # type: ignore[no-untyped-def]
    """Where a value momentarily stands: roots of its exact central difference quotient."""
    step = 2e-5

    def slope(x: float) -> float:
        # Fourth order, so that the place is that of the value to some 1e-10.
        near = [function(x + k * step) for k in (-2, -1, 1, 2)]
        return (near[0] - 8 * near[1] + 8 * near[2] - near[3]) / (12 * step)

    if np.ptp(line) < 1e-9:
        return []
    change = np.diff(line)
    tiny = 1e-12 * float(np.ptp(line))
    change[np.abs(change) < tiny] = 0.0
    moves = np.flatnonzero(change)
    found = []
    for k, after in zip(moves[:-1], moves[1:], strict=True):
        if change[k] * change[after] < 0:
            found.append(float(brentq(slope, t[k], t[after + 1], xtol=1e-13)))
    return [x for x in found if 1e-7 < x < 1 - 1e-7]
