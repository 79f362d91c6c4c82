"""The cam studio's answers: a cam's diagrams and shape, doubts about it, its smallest base."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Literal

import numpy as np

from anakinema.authoring.cam_parts import CamWish
from anakinema.authoring.camming import free_place, new_cam
from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.cams import cam_shape
from anakinema.document.follower_kinds import face_of, way_of
from anakinema.document.reading import Reader, named_quantities
from anakinema.edits.base import Edit
from anakinema.edits.cams import SetCam
from anakinema.edits.values import SetDimension
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.geometry.cams import (
    CamTable,
    Follower,
    cam_table,
    check_followable,
    rings,
    smallest_base,
    start_angle,
)
from anakinema.geometry.contour import Floats
from anakinema.geometry.fitting import as_arcs, as_cubics
from anakinema.units import ANGLE, LENGTH, UnitSystem

LOOKS = 720
PROFILE = 1e-4
"""mm that arcs and cubics of a profile may be off."""
ProfileForm = Literal["points", "arcs", "curves"]
"""Degrees of pressure angle that are usually not passed (common practice, no source)."""


@dataclass(frozen=True, slots=True, eq=False)
class Diagram:
    """One curve over the cam's angle: its values (N,), their unit and how to tell the peak."""

    title: str
    values: Floats
    unit: str
    peak: str


@dataclass(frozen=True, slots=True, eq=False)
class CamView:
    """A cam as the studio shows it.

    angle : (N,) deg. profile, path : rings (N, 2) mm on the cam; a flat face has no path.
    place : (N, 2) mm, where the follower touches its cam or has its centre; lean : (N,) rad, the
    face's or arm's angle. facts : rows of words; doubts : what speaks against it.
    """

    angle: Floats
    diagrams: tuple[Diagram, ...]
    profile: Floats
    path: Floats | None
    base: float
    follower: Follower
    place: Floats
    lean: Floats
    facts: tuple[tuple[str, str], ...]
    diagnostics: tuple[str, ...]


def cams_in(document: model.Document) -> tuple[tuple[str, str, str], ...]:
    """(part, cam, words) of all cams of a document."""
    return tuple(
        (part.id, cam.id, part.title if len(part.cams) == 1 else f"{part.title}: {cam.title}")
        for part in document.parts
        for cam in part.cams
    )


def cam_view(document: model.Document, part_id: str, cam_id: str) -> CamView:
    """The cam with all that is to be known of it; raises an `AnakinemaError` if it has no lift."""
    units = UnitSystem(document.units.length, document.units.angle)
    part = document.part(part_id)
    cam = model.next_by_id(part.cams, cam_id)
    reader = Reader(units, named_quantities(document)).within(part)
    shape = cam_shape(cam, reader, f"part '{part.title}'")
    numbers, follower = shape.numbers, shape.numbers.follower
    table = cam_table(shape.lift, numbers.base, follower, LOOKS)
    diagnostics: list[str] = []
    profile, path = rings(table, numbers.base, follower)
    try:
        check_followable(table, numbers.base, follower)
    except AnakinemaError as error:
        diagnostics.append(error.advice)
    steep = way_of(cam.follower).steep
    worst = math.degrees(float(np.abs(table.pressure).max()))
    if worst > steep:
        diagnostics.append(
            f"The pressure angle comes to {worst:.1f}°; {steep:.0f}° is usually not passed."
            " A larger base or a gentler lift lowers it."
        )
    if face_of(cam.follower).wears:
        diagnostics.append("A knife edge wears fast: for slow and light work only.")
    if cam.follower.returns != "groove":
        diagnostics.append(
            f"Its {cam.follower.returns} must hold the follower down at every speed: the greatest"
            " downward acceleration says how strongly."
        )
    place, lean = _follower_at(table.lift[:, 0], table.reach, numbers.base, follower)
    return CamView(
        np.degrees(table.angle),
        _diagrams(units, table, follower),
        profile,
        path,
        numbers.base,
        follower,
        place,
        lean,
        _facts(units, table, follower),
        tuple(diagnostics),
    )


def _diagrams(units: UnitSystem, table: CamTable, follower: Follower) -> tuple[Diagram, ...]:
    factor, unit = (
        (180 / math.pi, "°")
        if follower.is_swinging
        else (1 / units.factor(LENGTH), f" {units.length}")
    )
    names = ("lift", "speed", "acceleration", "jerk")
    ends = ("", "/rad", "/rad²", "/rad³")
    out = []
    for k, (name, end) in enumerate(zip(names, ends, strict=True)):
        values = table.lift[:, k] * factor
        most = float(np.abs(values).max())
        out.append(Diagram(name, values, f"{unit}{end}", f"{most:.4g}{unit}{end}"))
    if follower.is_flat and not follower.is_swinging:
        reach = table.reach / units.factor(LENGTH)
        most = float(np.abs(reach).max())
        out.append(
            Diagram("touch on the face", reach, f" {units.length}", f"{most:.4g} {units.length}")
        )
    else:
        pressure = np.degrees(table.pressure)
        out.append(Diagram("pressure angle", pressure, "°", f"{np.abs(pressure).max():.3g}°"))
    limit = 8 * float(np.median(np.abs(table.radius)))
    radius = np.where(np.abs(table.radius) < limit, table.radius, np.nan) / units.factor(LENGTH)
    least = float(np.nanmin(np.abs(radius)))
    out.append(
        Diagram("curve radius", radius, f" {units.length}", f"least {least:.4g} {units.length}")
    )
    return tuple(out)


def _facts(units: UnitSystem, table: CamTable, follower: Follower) -> tuple[tuple[str, str], ...]:
    degrees = np.degrees(table.angle)
    rows: list[tuple[str, str]] = []
    lifted = ANGLE if follower.is_swinging else LENGTH
    rows.append(("Lift", units.format(float(np.ptp(table.lift[:, 0])), lifted)))
    if follower.is_flat and not follower.is_swinging:
        reach = table.reach
        rows.append(
            (
                "Face needs",
                f"{units.format(float(reach.max()), LENGTH)} and"
                f" {units.format(float(-reach.min()), LENGTH)} from its axis",
            )
        )
    else:
        k = int(np.abs(table.pressure).argmax())
        rows.append(
            (
                "Greatest pressure angle",
                f"{math.degrees(table.pressure[k]):.2f}° at {degrees[k]:.1f}°",
            )
        )
    convex = np.where(table.radius + follower.radius > 0, table.radius, np.inf)
    k = int(convex.argmin())
    rows.append(
        ("Least convex radius", f"{units.format(float(convex[k]), LENGTH)} at {degrees[k]:.1f}°")
    )
    hollow = np.where(table.radius + follower.radius < 0, -table.radius, np.inf)
    if np.isfinite(hollow).any():
        k = int(hollow.argmin())
        rows.append(
            (
                "Least hollow radius",
                f"{units.format(float(hollow[k]), LENGTH)} at {degrees[k]:.1f}°",
            )
        )
    return tuple(rows)


def _follower_at(
    lift: Floats, reach: Floats, base: float, follower: Follower
) -> tuple[Floats, Floats]:
    """Where the follower's centre or its touch is over an upright cam, and how it leans."""
    if follower.is_swinging:
        arm = start_angle(base, follower) - lift
        if follower.is_flat:
            normal = arm - math.pi / 2
            foot = np.stack(
                [
                    follower.centres + follower.offset * np.cos(normal),
                    follower.offset * np.sin(normal),
                ],
                axis=1,
            )
            along = np.stack([np.cos(arm), np.sin(arm)], axis=1)
            return foot + reach[:, None] * along, arm
        return np.stack(
            [follower.centres + follower.arm * np.cos(arm), follower.arm * np.sin(arm)], axis=1
        ), arm
    if follower.is_flat:
        return np.stack([reach, base + lift], axis=1), np.full_like(lift, math.pi / 2)
    height = math.sqrt((base + follower.radius) ** 2 - follower.offset**2) + lift
    centre = np.stack([np.full_like(lift, follower.offset), height], axis=1)
    return centre, np.full_like(lift, math.pi / 2)


def profile_table(
    document: model.Document, part_id: str, cam_id: str, form: ProfileForm = "points"
) -> str:
    """A profile in lines for a machine or a spreadsheet, in the document's unit.

    Of 'points' x and y, exact; of 'arcs' x, y and bulge (the tangent of a quarter of the sweep) of
    each that begins; of 'curves' the four points of each cubic. Both within 1e-4 mm.
    """
    units = UnitSystem(document.units.length, document.units.angle)
    factor = units.factor(LENGTH)
    if form == "points":
        rows = cam_view(document, part_id, cam_id).profile / factor
    else:
        part = document.part(part_id)
        reader = Reader(units, named_quantities(document)).within(part)
        cam = model.next_by_id(part.cams, cam_id)
        curve = cam_shape(cam, reader, f"part '{part.title}'").profile
        if form == "arcs":
            rows = np.array(as_arcs(curve, PROFILE)) / [factor, factor, 1.0]
        else:
            rows = as_cubics(curve, PROFILE).reshape(-1, 8) / factor
    return "\n".join("\t".join(f"{value:.9g}" for value in row) for row in rows.tolist())


def base_that_meets(
    document: model.Document, part_id: str, cam_id: str, pressure: str, radius: str
) -> Edit:
    """The edit that sets the smallest base radius with at most a pressure angle and at least a
    convex radius; an empty text asks for nothing. Raises an `AnakinemaError` if none does."""
    units = UnitSystem(document.units.length, document.units.angle)
    part = document.part(part_id)
    cam = model.next_by_id(part.cams, cam_id)
    reader = Reader(units, named_quantities(document)).within(part)
    where = f"cam '{cam.title}'"
    shape = cam_shape(cam, reader, f"part '{part.title}'")
    most = reader.read(pressure, ANGLE, where, "pressure angle") if pressure.strip() else None
    least = reader.read(radius, LENGTH, where, "radius") if radius.strip() else None
    found = smallest_base(shape.lift, shape.numbers.follower, most, least)
    if found is None:
        raise ValueOutOfRangeError(
            "no base radius up to 10 m meets that.",
            where=where,
            remedy="Allow a greater pressure angle, or give a gentler lift.",
        )
    # A hair above, so that what was asked is met in the last digit too.
    text = f"{math.ceil(found * 1e4 + 1e-6) / 1e4:.10g} mm"
    if isinstance(cam.base, str) and any(d.id == cam.base for d in part.dimensions):
        return SetDimension(part_id, cam.base, text)
    return SetCam(part_id, cam_id, "base", text)


def pasted_lift(document: model.Document, part_id: str, cam_id: str, text: str) -> Edit:
    """The edit that takes a lift from lines of angle (degrees) and lift (in the document's unit),
    as a spreadsheet copies them.

    Raises an `AnakinemaError` that names the line.
    """
    points = []
    for k, line in enumerate(text.strip().splitlines()):
        cells = [cell for cell in re.split(r"[;\t]|\s{2,}|\s(?=[-+\d])", line.strip()) if cell]
        numbers = [cell.replace(",", ".").strip() for cell in cells]
        try:
            angle, lift = (float(number) for number in numbers)
        except ValueError:
            raise ValueOutOfRangeError(
                f"'{line.strip()}' is no angle and lift.",
                where=f"line {k + 1}",
                remedy="Two numbers a line, as two columns of a spreadsheet.",
            ) from None
        points.append((angle, lift))
    if len(points) > 1 and math.isclose(points[-1][0] - points[0][0], 360.0):
        points.pop()
    stated = tuple(model.CamPoint(angle=f"{angle:.12g} deg", lift=lift) for angle, lift in points)
    edit = SetCam(part_id, cam_id, "points", stated)
    cam_view(edit.apply(document), part_id, cam_id)
    return edit


def make_cam(scene: Scene, wish: CamWish) -> tuple[Edit, str, str]:
    """The edit that makes a cam and its follower beside all there is; ids of its part and body."""
    return new_cam(scene.resolved, free_place(scene.resolved, scene.poses), 0.0, wish)
