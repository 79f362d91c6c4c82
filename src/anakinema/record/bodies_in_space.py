"""Bodies as meshes for printing and viewing: binary STL and 3MF, each part one closed solid."""

from __future__ import annotations

import io
import math
import struct
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

import numpy as np
import numpy.typing as npt

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.document.rods import RodValues
from anakinema.document.rods_in_space import rod_places, rods_of
from anakinema.document.solids import SolidPart
from anakinema.errors import FileFormatError
from anakinema.geometry.contour import Floats

Mesh = tuple[Floats, npt.NDArray[np.int64]]
"""(V, 3) mm and (T, 3) vertices of triangles, anticlockwise seen from outside."""
FINE = 0.01
"""mm by which a chord may miss its arc."""
STAMP = (1980, 1, 1, 0, 0, 0)
COLOURS: Mapping[str, str] = {
    "blue": "#8FB0C8", "clay": "#D8A878", "sage": "#A8BC98", "plum": "#A88AB0", "ochre": "#D0B060",
    "steel": "#98A4AC", "rose": "#D8A0A0", "teal": "#78B0A8", "sand": "#D8CCA8",
}  # fmt: skip
PACKAGE = "http://schemas.openxmlformats.org/package/2006"
CORE = "http://schemas.microsoft.com/3dmanufacturing"
HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n'
TYPES = (
    f'{HEAD}<Types xmlns="{PACKAGE}/content-types">'
    '<Default Extension="rels"'
    ' ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model"'
    ' ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
RELATIONS = (
    f'{HEAD}<Relationships xmlns="{PACKAGE}/relationships">'
    f'<Relationship Target="/3D/3dmodel.model" Id="rel0" Type="{CORE}/2013/01/3dmodel"/>'
    "</Relationships>"
)


def mesh_of(solid: SolidPart) -> Mesh:
    """One closed mesh of all slabs of a part; raises `FileFormatError` if it comes to nothing."""
    from manifold3d import CrossSection, FillRule, Manifold, OpType  # not needed at start

    prisms = []
    for slab in solid.slabs:
        rings = [contour.polygon(FINE) for contour in slab.region.contours]
        flat = CrossSection(rings, FillRule.EvenOdd)
        prism = Manifold.extrude(flat, slab.top - slab.bottom)
        prisms.append(prism.translate([0.0, 0.0, slab.bottom]))
    whole = Manifold.batch_boolean(prisms, OpType.Add) if prisms else None
    if whole is None or whole.is_empty():
        raise FileFormatError(
            "it has no slabs to make a solid of.",
            where=f"part '{solid.source.title}'",
            remedy="Give it an outline and a thickness, or switch its bodies off.",
        )
    mesh = whole.to_mesh64()
    return np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts, dtype=np.int64)


def placed(mesh: Mesh, place: Floats) -> Mesh:
    """A mesh at a place (3, 4) in space."""
    points, triangles = mesh
    moved: Floats = points @ place[:, :3].T + place[:, 3]
    return moved, triangles


def _meshes(resolved: Resolved) -> dict[str, Mesh]:
    used = {body.part for body in resolved.document.bodies if resolved.part_of(body).slabs}
    if not used:
        raise FileFormatError(
            "there is nothing solid in it.",
            where=f"mechanism '{resolved.document.name}'",
            remedy="Give a part an outline and a thickness first.",
        )
    found = {part: mesh_of(solid) for part, solid in resolved.parts.items() if part in used}
    for joint, values in zip(resolved.document.joints, resolved.joints, strict=True):
        if values.rod is not None:
            found[_rod_name(joint)] = _rod_mesh(values.rod)
    return found


APART = 8.0
"""mm between parts laid out."""


@dataclass(frozen=True, slots=True, eq=False)
class _Item:
    """A part, or the rod of a joint, at a place (3, 4) in space."""

    part: str
    place: Floats


def _rod_name(joint: model.Joint) -> str:
    """What a rod is called among parts, none of which has such a name."""
    return f"rod {joint.id}"


def _rod_mesh(rod: RodValues) -> Mesh:
    """One closed mesh of a rod with its balls, from the origin along x."""
    from manifold3d import Manifold, OpType  # not needed at start

    around = max(16, math.ceil(math.pi / math.acos(1.0 - min(FINE / rod.ball, 0.5))))
    ball = Manifold.sphere(rod.ball, around)
    bar = Manifold.cylinder(rod.length, rod.radius, rod.radius, around).rotate([0.0, 90.0, 0.0])
    whole = Manifold.batch_boolean([bar, ball, ball.translate([rod.length, 0.0, 0.0])], OpType.Add)
    mesh = whole.to_mesh64()
    return np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts, dtype=np.int64)


def _standing(resolved: Resolved, poses: Floats) -> list[_Item]:
    """All bodies at poses (B, 3), and rods between them."""
    places = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
    rods = zip(rods_of(resolved), rod_places(resolved, places), strict=True)
    between = [_Item(_rod_name(resolved.document.joints[k]), place) for k, place in rods]
    # Those are of frames with heights in them; a part has none of its own.
    places[:, :, 3] += places[:, :, 2] * resolved.heights[:, None]
    bodies = zip(resolved.document.bodies, places, strict=True)
    return [*(_Item(body.part, place) for body, place in bodies), *between]


def _laid_out(resolved: Resolved) -> list[_Item]:
    """Each made part once, side by side with its lowest face on height 0, to be printed."""
    found, right = [], 0.0
    for part in resolved.source.parts:
        slabs = resolved.parts[part.id].slabs
        used = any(body.part == part.id for body in resolved.document.bodies)
        if not slabs or not used or part.supply != "made":
            continue
        bounds = np.array([slab.region.contours[0].bounds() for slab in slabs])
        low, high = bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)
        place = np.eye(3, 4)
        place[:, 3] = right - low[0], -low[1], -min(slab.bottom for slab in slabs)
        found.append(_Item(part.id, place))
        right += float(high[0] - low[0]) + APART
    return found


def assembly_stl(resolved: Resolved, poses: Floats) -> bytes:
    """All bodies at poses (B, 3) as one binary STL in mm, which that format does not say."""
    return _as_stl(resolved, _standing(resolved, poses))


def parts_stl(resolved: Resolved) -> bytes:
    """Each made part once, side by side, as one binary STL in mm."""
    return _as_stl(resolved, _laid_out(resolved))


def _as_stl(resolved: Resolved, items: Sequence[_Item]) -> bytes:
    meshes = _meshes(resolved)
    corners = []
    for item in items:
        if item.part in meshes:
            points, triangles = placed(meshes[item.part], item.place)
            corners.append(points[triangles])
    return _stl(np.concatenate(corners) if corners else np.zeros((0, 3, 3)))


def _stl(corners: Floats) -> bytes:
    """Triangles (T, 3, 3) as binary STL."""
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    rows = np.zeros(len(corners), dtype=record)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    rows["normal"] = normal / np.where(length > 0, length, 1.0)
    rows["corners"] = corners
    return b"millimetres".ljust(80) + struct.pack("<I", len(rows)) + rows.tobytes()


def assembly_3mf(resolved: Resolved, poses: Floats) -> bytes:
    """All bodies at poses (B, 3) as 3MF: an object for each part, an item for each body."""
    return _as_3mf(resolved, _standing(resolved, poses))


def parts_3mf(resolved: Resolved) -> bytes:
    """Each made part once, side by side, as 3MF."""
    return _as_3mf(resolved, _laid_out(resolved))


def _as_3mf(resolved: Resolved, items: Sequence[_Item]) -> bytes:
    meshes = _meshes(resolved)
    parts = [
        (part.id, part.title, part.colour) for part in resolved.source.parts if part.id in meshes
    ]
    standing = {item.part for item in items}
    parts += [
        (_rod_name(joint), joint.title, "steel")
        for joint in resolved.document.joints
        if _rod_name(joint) in standing
    ]
    number = {name: k + 2 for k, (name, _, _) in enumerate(parts)}
    lines = [
        f'{HEAD}<model unit="millimeter" xml:lang="en-US" xmlns="{CORE}/core/2015/02">',
        '<resources><basematerials id="1">',
        *(
            f"<base name={quoteattr(title)} displaycolor={quoteattr(COLOURS[colour])}/>"
            for _, title, colour in parts
        ),
        "</basematerials>",
    ]
    for k, (name, title, _) in enumerate(parts):
        points, triangles = meshes[name]
        lines += [
            f'<object id="{number[name]}" type="model" pid="1" pindex="{k}"'
            f" name={quoteattr(title)}><mesh><vertices>",
            *(f'<vertex x="{x!r}" y="{y!r}" z="{z!r}"/>' for x, y, z in points.tolist()),
            "</vertices><triangles>",
            *(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in triangles.tolist()),
            "</triangles></mesh></object>",
        ]
    lines.append("</resources><build>")
    for item in items:
        if item.part in meshes:
            # Columns of the turn, then where it stands.
            numbers = item.place.T.ravel()
            words = " ".join(repr(float(each)) for each in numbers)
            lines.append(f'<item objectid="{number[item.part]}" transform="{words}"/>')
    lines.append("</build></model>")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in (
            ("[Content_Types].xml", TYPES),
            ("_rels/.rels", RELATIONS),
            ("3D/3dmodel.model", "\n".join(lines)),
        ):
            entry = zipfile.ZipInfo(name, STAMP)
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, text.encode())
    return out.getvalue()
