"""Pictures in depth, without a screen: bodies as flat shades with inked edges, through OpenGL.

The graphics library is loaded when the first picture is wanted. Where there is none
`NoGraphicsError` is raised, and pictures are painted from `painters_order` instead.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from anakinema.depth.camera import Camera
from anakinema.depth.caps import Cap
from anakinema.depth.cutting import Plane
from anakinema.depth.meshes import Meshes
from anakinema.depth.surfaces import Edges, Faces, Singles
from anakinema.geometry.contour import Floats

BIAS = 4e-7
"""Of the depth of a picture, what each further body is nearer by, so that of faces that lie in one
another always the same is seen."""
LINE_BIAS = 1.5e-4
"""Of it what lines are nearer by than the faces that they are edges of."""


class NoGraphicsError(Exception):
    """There is no OpenGL here; says why."""


@dataclass(frozen=True, slots=True, eq=False)
class Look:
    """How each of B bodies is drawn: ``fill`` and ``ink`` (B, 4) from 0 to 1, ``width`` (B,)
    pixels of its edges, ``shown`` (B,)."""

    fill: Floats
    ink: Floats
    width: Floats
    shown: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Sheet:
    """A surface that is seen through: triangles (T, 3, 3) mm in one colour."""

    corners: Floats
    colour: tuple[float, float, float, float]


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """What is to be drawn: bodies at places (B, 3, 4) in space."""

    camera: Camera
    width: int
    height: int
    places: Floats
    look: Look
    fine: float = 1.0
    """Pixels of the picture for each pixel that line widths are stated in."""
    cut: Plane | None = None
    caps: tuple[Cap, ...] = ()
    sheets: tuple[Sheet, ...] = ()
    hidden_edges: bool = False
    see_through: bool = False


FACE_VERTEX = """#version 330
uniform mat4 cam; uniform sampler2D bodies; uniform float bias; uniform vec3 light;
in vec3 at; in vec3 normal; in uint body;
out vec4 colour; out vec3 place; flat out uint which;
void main() {
    mat4x3 standing = transpose(mat3x4(texelFetch(bodies, ivec2(0, int(body)), 0),
        texelFetch(bodies, ivec2(1, int(body)), 0), texelFetch(bodies, ivec2(2, int(body)), 0)));
    vec4 more = texelFetch(bodies, ivec2(3, int(body)), 0);
    vec4 fill = texelFetch(bodies, ivec2(4, int(body)), 0);
    place = standing * vec4(at, 1.0);
    vec3 n = standing * vec4(normal, 0.0);
    float shade = 0.60 + 0.42 * max(0.0, dot(n, light));
    colour = vec4(fill.rgb * min(shade, 1.0), fill.a);
    which = body;
    gl_Position = cam * vec4(place, 1.0);
    gl_Position.z -= bias * float(body) * gl_Position.w;
    if (more.z < 0.5) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
}"""
FACE_FRAGMENT = """#version 330
uniform vec4 cut; uniform float clear;
in vec4 colour; in vec3 place; flat in uint which; out vec4 seen;
void main() {
    if (dot(cut, vec4(place, 1.0)) > 0.0) discard;
    seen = vec4(colour.rgb, colour.a * clear);
}"""
EDGE_VERTEX = """#version 330
uniform mat4 cam; uniform sampler2D bodies; uniform float bias; uniform float near;
uniform vec2 size; uniform float fine; uniform vec3 toward; uniform vec3 eye;
uniform float far_off;
in vec2 corner; in vec3 start; in vec3 end; in vec3 left; in vec3 right;
in float sharp; in uint body;
out vec4 colour; out vec3 place; out float across; flat out float half_width;
void main() {
    mat4x3 standing = transpose(mat3x4(texelFetch(bodies, ivec2(0, int(body)), 0),
        texelFetch(bodies, ivec2(1, int(body)), 0), texelFetch(bodies, ivec2(2, int(body)), 0)));
    vec4 more = texelFetch(bodies, ivec2(3, int(body)), 0);
    colour = texelFetch(bodies, ivec2(5, int(body)), 0);
    vec3 a = standing * vec4(start, 1.0);
    vec3 b = standing * vec4(end, 1.0);
    vec3 look = far_off > 0.5 ? toward : eye - (a + b) / 2.0;
    float one = dot(standing * vec4(left, 0.0), look);
    float two = dot(standing * vec4(right, 0.0), look);
    bool unseen = one < 0.0 && two < 0.0;
    bool gentle = sharp < 0.5 && (one >= 0.0) == (two >= 0.0);
    vec4 p = cam * vec4(a, 1.0), q = cam * vec4(b, 1.0);
    vec2 s = p.xy / p.w * size, t = q.xy / q.w * size;
    vec2 along = t - s;
    float reach = length(along);
    along = reach > 1e-6 ? along / reach : vec2(1.0, 0.0);
    half_width = more.y * fine / 2.0;
    float room = half_width + 1.0;
    vec4 here = corner.x < 0.5 ? p : q;
    vec2 off = vec2(-along.y, along.x) * (corner.y * room);
    off += along * (corner.x < 0.5 ? -half_width : half_width) * 0.6;
    across = corner.y * room;
    place = corner.x < 0.5 ? a : b;
    gl_Position = here;
    gl_Position.xy += off / size * here.w;
    gl_Position.z -= (bias * float(body) + near) * here.w;
    if (more.z < 0.5 || unseen || gentle) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
}"""
EDGE_FRAGMENT = """#version 330
uniform vec4 cut; uniform float clear; uniform float slack;
in vec4 colour; in vec3 place; in float across; flat in float half_width; out vec4 seen;
void main() {
    if (dot(cut, vec4(place, 1.0)) > slack) discard;
    float cover = clamp(half_width + 0.5 - abs(across), 0.0, 1.0);
    seen = vec4(colour.rgb, colour.a * clear * cover);
}"""
CAP_VERTEX = """#version 330
uniform mat4 cam; uniform sampler2D bodies; uniform float bias; uniform mat4x2 flat_on;
in vec3 at; in uint body; out vec4 colour; out vec4 ink; out vec2 where; flat out uint which;
void main() {
    colour = texelFetch(bodies, ivec2(4, int(body)), 0);
    ink = texelFetch(bodies, ivec2(5, int(body)), 0);
    where = flat_on * vec4(at, 1.0);
    which = body;
    gl_Position = cam * vec4(at, 1.0);
    gl_Position.z -= bias * float(body) * gl_Position.w;
}"""
CAP_FRAGMENT = """#version 330
uniform float spacing;
in vec4 colour; in vec4 ink; in vec2 where; flat in uint which; out vec4 seen;
void main() {
    float turn = radians(which % 2u == 0u ? 45.0 : 135.0);
    float wide = spacing * (1.0 + 0.35 * float((which / 2u) % 3u));
    float s = dot(where, vec2(cos(turn), sin(turn))) / wide;
    float per = max(fwidth(s), 1e-6);
    float line = clamp(0.9 - abs(fract(s) - 0.5) / per, 0.0, 1.0);
    seen = vec4(mix(mix(colour.rgb, vec3(1.0), 0.25), ink.rgb, 0.75 * line), 1.0);
}"""
SHEET_VERTEX = """#version 330
uniform mat4 cam; in vec3 at; in vec4 tint; out vec4 colour;
void main() { colour = tint; gl_Position = cam * vec4(at, 1.0); }"""
SHEET_FRAGMENT = """#version 330
in vec4 colour; out vec4 seen;
void main() { seen = colour; }"""


@dataclass(slots=True)
class _Loaded:
    """Meshes in the memory of the graphics library."""

    meshes: Meshes
    faces: Any
    edges: Any
    owned: list[Any] = field(default_factory=list)


class Renderer:
    """Draws pictures; keeps what it has loaded. To be used by the thread that made it."""

    def __init__(self) -> None:
        try:
            import moderngl

            # The stubs take the backend for a table of settings.
            options: Any = {"standalone": True, "backend": "egl"}
            self._gl: Any = moderngl.create_context(**options)
        except Exception as error:
            raise NoGraphicsError(str(error)) from error
        self._mgl: Any = moderngl
        gl = self._gl
        self._face: Any = gl.program(vertex_shader=FACE_VERTEX, fragment_shader=FACE_FRAGMENT)
        self._edge: Any = gl.program(vertex_shader=EDGE_VERTEX, fragment_shader=EDGE_FRAGMENT)
        self._cap: Any = gl.program(vertex_shader=CAP_VERTEX, fragment_shader=CAP_FRAGMENT)
        self._sheet: Any = gl.program(vertex_shader=SHEET_VERTEX, fragment_shader=SHEET_FRAGMENT)
        strip = np.array([[0, -1], [1, -1], [0, 1], [1, 1]], dtype="f4")
        self._strip: Any = gl.buffer(strip.tobytes())
        self._loaded: _Loaded | None = None
        self._target: tuple[tuple[int, int], Any] | None = None
        self._bodies: Any = None
        self.largest = int(gl.info["GL_MAX_RENDERBUFFER_SIZE"])

    def draw(self, meshes: Meshes, picture: Picture) -> bytes:
        """The picture as rows of premultiplied RGBA from the top, nothing where nothing is."""
        loaded = self._load(meshes)
        target = self._room(picture.width, picture.height)
        gl, m = self._gl, self._mgl
        target.use()
        target.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        gl.viewport = (0, 0, picture.width, picture.height)
        self._place(picture)
        self._aim(meshes, picture)
        gl.enable(m.DEPTH_TEST | m.BLEND | m.CULL_FACE)
        gl.blend_func = m.SRC_ALPHA, m.ONE_MINUS_SRC_ALPHA, m.ONE, m.ONE_MINUS_SRC_ALPHA
        self._bodies.use(0)
        gl.depth_func = "<="
        if loaded.faces is not None:
            gl.polygon_offset = 1.0, 1.0
            target.depth_mask = not picture.see_through
            self._face["clear"].value = 0.30 if picture.see_through else 1.0
            loaded.faces.render()
        owned = self._draw_caps(picture)
        gl.polygon_offset = 0.0, 0.0
        gl.disable(m.CULL_FACE)
        target.depth_mask = False
        if loaded.edges is not None:
            count = len(meshes.edges.start)
            if picture.hidden_edges and not picture.see_through:
                gl.depth_func = ">"
                self._edge["clear"].value = 0.22
                loaded.edges.render(m.TRIANGLE_STRIP, vertices=4, instances=count)
                gl.depth_func = "<="
            self._edge["clear"].value = 0.55 if picture.see_through else 1.0
            loaded.edges.render(m.TRIANGLE_STRIP, vertices=4, instances=count)
        owned += self._draw_rims(picture) + self._draw_sheets(picture)
        target.depth_mask = True
        found: bytes = target.read(components=4, alignment=1)
        for each in owned:
            each.release()
        rows = np.frombuffer(found, np.uint8).reshape(picture.height, picture.width, 4)
        return np.ascontiguousarray(rows[::-1]).tobytes()

    def _load(self, meshes: Meshes) -> _Loaded:
        if self._loaded is not None and self._loaded.meshes is meshes:
            return self._loaded
        if self._loaded is not None:
            for each in self._loaded.owned:
                each.release()
        self._loaded = _Loaded(meshes, None, None)
        if len(meshes.faces.at):
            self._loaded.faces, owned = self._faces(meshes.faces)
            self._loaded.owned += owned
        if len(meshes.edges.start):
            self._loaded.edges, owned = self._edges(meshes.edges)
            self._loaded.owned += owned
        return self._loaded

    def _faces(self, faces: Faces) -> tuple[Any, list[Any]]:
        gl = self._gl
        data = _packed(("at", faces.at), ("normal", faces.normal), ("body", faces.body))
        points, order = gl.buffer(data), gl.buffer(faces.corners.tobytes())
        made = gl.vertex_array(
            self._face, [(points, "3f 3f 1u", "at", "normal", "body")], index_buffer=order
        )
        return made, [made, points, order]

    def _edges(self, edges: Edges) -> tuple[Any, list[Any]]:
        gl = self._gl
        names = ("start", "end", "left", "right", "sharp", "body")
        data = gl.buffer(_packed(*((name, getattr(edges, name)) for name in names)))
        made = gl.vertex_array(
            self._edge, [(self._strip, "2f", "corner"), (data, "3f 3f 3f 3f 1f 1u/i", *names)]
        )
        return made, [made, data]

    def _room(self, width: int, height: int) -> Any:
        if self._target is None or self._target[0] != (width, height):
            if self._target is not None:
                for each in (
                    *self._target[1].color_attachments,
                    self._target[1].depth_attachment,
                    self._target[1],
                ):
                    each.release()
            gl = self._gl
            made = gl.framebuffer(
                [gl.renderbuffer((width, height), 4)], gl.depth_renderbuffer((width, height))
            )
            self._target = (width, height), made
        return self._target[1]

    def _place(self, picture: Picture) -> None:
        """Places and looks of all bodies; the last row stands still, for what is in space
        itself."""
        count = len(picture.places) + 1
        rows = np.zeros((count, 6, 4), dtype="f4")
        rows[:-1, :3] = picture.places
        rows[-1, :3] = np.eye(3, 4)
        rows[:-1, 3, 1], rows[:-1, 3, 2] = picture.look.width, picture.look.shown
        rows[-1, 3, 1:3] = 1.3, 1.0
        rows[:-1, 4], rows[:-1, 5] = picture.look.fill, picture.look.ink
        if count > 1:
            rows[-1, 5] = picture.look.ink[0]
        if self._bodies is None or self._bodies.size != (6, count):
            if self._bodies is not None:
                self._bodies.release()
            self._bodies = self._gl.texture((6, count), 4, dtype="f4")
            self._bodies.filter = self._mgl.NEAREST, self._mgl.NEAREST
        self._bodies.write(rows.tobytes())

    def _aim(self, meshes: Meshes, picture: Picture) -> None:
        camera, size = picture.camera, (picture.width, picture.height)
        right, up, toward = camera.axes
        low, high = meshes.box_at(picture.places)
        middle, reach = (low + high) / 2, float(np.linalg.norm(high - low)) / 2 + 1.0
        for sheet in picture.sheets:
            if len(sheet.corners):
                away = np.linalg.norm(sheet.corners.reshape(-1, 3) - middle, axis=1)
                reach = max(reach, float(away.max()) + 1.0)
        depth = float(toward @ (middle - np.asarray(camera.target)))
        matrix = camera.matrix(*size, depth - reach, depth + reach).T.astype("f4").tobytes()
        light = 0.45 * up + 0.8 * toward - 0.35 * right
        light = light / np.linalg.norm(light)
        plane = (0.0, 0.0, 0.0, -1.0)
        if picture.cut is not None:
            plane = (*picture.cut.normal, -picture.cut.offset)
        eye = np.asarray(camera.target) + toward * camera.distance(picture.height)
        for program in (self._face, self._edge, self._cap, self._sheet):
            program["cam"].write(matrix)
        for program in (self._face, self._edge, self._cap):
            program["bodies"].value = 0
            program["bias"].value = BIAS
        for program in (self._face, self._edge):
            program["cut"].value = plane
        self._face["light"].value = tuple(light)
        edge = self._edge
        edge["near"].value = LINE_BIAS
        edge["size"].value = picture.width / 2, picture.height / 2
        edge["fine"].value = picture.fine
        edge["toward"].value = tuple(toward)
        edge["eye"].value = tuple(eye)
        edge["far_off"].value = 0.0 if camera.is_perspective else 1.0
        edge["slack"].value = 1e-3
        self._cap["spacing"].value = 7.0 * picture.fine / camera.scale

    def _draw_caps(self, picture: Picture) -> list[Any]:
        caps = [cap for cap in picture.caps if len(cap.corners)]
        if picture.cut is None or not caps:
            return []
        one, two = picture.cut.axes
        flat = np.zeros((4, 2), dtype="f4")
        flat[:3, 0], flat[:3, 1] = one, two
        self._cap["flat_on"].write(flat.tobytes())
        at = np.concatenate([cap.corners.reshape(-1, 3) for cap in caps]).astype("f4")
        body = np.concatenate(
            [np.full(3 * len(cap.corners), cap.body, dtype=np.uint32) for cap in caps]
        )
        points = self._gl.buffer(_packed(("at", at), ("body", body)))
        made = self._gl.vertex_array(self._cap, [(points, "3f 1u", "at", "body")])
        self._gl.disable(self._mgl.CULL_FACE)
        made.render()
        self._gl.enable(self._mgl.CULL_FACE)
        return [made, points]

    def _draw_rims(self, picture: Picture) -> list[Any]:
        """The edges of cut faces, in space."""
        rims = [cap.rim for cap in picture.caps if len(cap.rim)]
        if picture.cut is None or not rims:
            return []
        ends = np.concatenate(rims).astype("f4")
        count = len(ends)
        toward = np.tile(picture.camera.axes[2].astype("f4"), (count, 1))
        still = np.full(count, len(picture.places), dtype=np.uint32)
        edges = Edges(ends[:, 0], ends[:, 1], toward, toward, np.ones(count, "f4"), still)
        made, owned = self._edges(edges)
        self._edge["clear"].value = 1.0
        self._edge["slack"].value = 1.0
        made.render(self._mgl.TRIANGLE_STRIP, vertices=4, instances=count)
        return owned

    def _draw_sheets(self, picture: Picture) -> list[Any]:
        sheets = [sheet for sheet in picture.sheets if len(sheet.corners)]
        if not sheets:
            return []
        at = np.concatenate([sheet.corners.reshape(-1, 3) for sheet in sheets]).astype("f4")
        tint = np.concatenate(
            [np.tile(np.array(s.colour, "f4"), (3 * len(s.corners), 1)) for s in sheets]
        )
        points = self._gl.buffer(_packed(("at", at), ("tint", tint)))
        made = self._gl.vertex_array(self._sheet, [(points, "3f 4f", "at", "tint")])
        made.render()
        return [made, points]

    def release(self) -> None:
        """Give back all that the graphics library holds."""
        self._gl.release()


def _packed(*columns: tuple[str, Singles | Any]) -> bytes:
    """Columns (N,) or (N, k) of four bytes a number, side by side."""
    count = len(columns[0][1])
    kinds = [(name, rows.dtype.newbyteorder("<"), rows.shape[1:] or (1,)) for name, rows in columns]
    packed = np.zeros(count, dtype=kinds)
    for name, rows in columns:
        packed[name] = rows.reshape(count, -1)
    return packed.tobytes()
