"""What stands, as it is seen from a camera: pixels of places, what a pixel meets, where bodies are.

It answers what tools and painters ask of the depth view, and knows nothing of its events.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QTransform

from anakinema.authoring import PlacedSnap, Scene, all_snaps
from anakinema.depth import (
    LEVEL,
    Camera,
    Hit,
    Meshes,
    Rim,
    Round,
    Stack,
    Targets,
    Trail,
    lifts,
    placed_slabs,
    rims_near,
    rounds_of,
    stack_of,
    trails,
)
from anakinema.document import Resolved
from anakinema.ui.depth.bodies import DepthBodies
from anakinema.ui.depth.section import Section
from anakinema.ui.depth.symbols import Axis, axes
from anakinema.ui.stage.surface import Pointer
from anakinema.ui.workbench import Face, Selection, Workbench

EDGE = 9.0
"""Pixels by which an edge may be missed."""
JOINT = 6.0
"""Pixels within which an axis is taken."""
APART, LEAST_APART = 0.09, 6.0
"""Of the size of the whole, and mm at least, what bodies are pulled apart by."""
EMPTY = np.array([[-160.0, -100.0, 0.0], [160.0, 100.0, 10.0]])
"""mm, what is seen where nothing stands."""


class Space:
    """The scene of the workbench at the poses on show, from a camera in a picture of a size."""

    def __init__(
        self,
        workbench: Workbench,
        meshes: Callable[[Scene, Camera], Meshes],
        shows_joints: Callable[[], bool],
    ) -> None:
        self.workbench = workbench
        self._meshes, self.shows_joints = meshes, shows_joints
        self.camera = Camera()
        self.size = (1.0, 1.0)
        self.section: Section | None = None
        self.share_apart = 0.0
        """How far bodies are pulled apart, from not at all (0) to wholly (1)."""
        self.poses: np.ndarray | None = None
        self.bodies: DepthBodies | None = None
        self.rounds: tuple[Round, ...] = ()
        self._resolved: Resolved | None = None
        self._targets: Targets | None = None
        self._stack: tuple[Stack, float] | None = None

    def take(self, scene: Scene) -> None:
        """Another scene, or the same once more."""
        if self._resolved is not scene.resolved:
            self._resolved = scene.resolved
            self.bodies = DepthBodies(scene.resolved, self.level, self.frames)
            self._targets = Targets(scene.resolved)
            self.rounds = rounds_of(scene.resolved)
            self._stack = None

    def take_poses(self, poses: np.ndarray | None) -> None:
        """Other poses (B, 3) are on show."""
        self.poses = poses

    def trails(self) -> list[Trail]:
        """Lines between bodies that a pin joins, while they are apart."""
        if self.standing is None or self.share_apart <= 0.0:
            return []
        scene, poses = self.standing
        raised = dict(enumerate(self.lifts().tolist()))
        shown = frozenset(range(len(poses))) - self.hidden()
        order = [each for each in self.stacked()[0].order if each.body in shown]
        return trails(scene.resolved, poses, order, raised, shown)

    def forget(self) -> None:
        """There is no scene any more."""
        self._resolved = self._targets = self._stack = self.poses = self.bodies = None
        self.rounds, self.section, self.share_apart = (), None, 0.0

    @property
    def standing(self) -> tuple[Scene, np.ndarray] | None:
        """The scene and the poses (B, 3) on show; None while they do not go together."""
        scene, poses = self.workbench.scene, self.poses
        if scene is None or poses is None or self._resolved is not scene.resolved:
            return None
        return (scene, poses) if len(poses) == len(scene.poses) else None

    @property
    def beyond(self) -> frozenset[int]:
        """None: all planes are seen."""
        return frozenset()

    def of(self, body: int | None) -> QTransform:
        """The plane at a body's middle; of none, at the middle of all that stands."""
        scene = self.workbench.scene
        if scene is None or body is None or body >= len(scene.resolved.heights):
            low, high = self.span(0) if scene is not None and len(scene.poses) else (0.0, 0.0)
            return self.level((low + high) / 2, self.frame_of(None))
        low, high = self.span(body)
        return self.level((low + high) / 2, self.frame_of(body))

    def between(self, one: int, other: int) -> QTransform:
        """The plane in the middle of the heights that two bodies share."""
        spans = self.span(one), self.span(other)
        low, high = max(s[0] for s in spans), min(s[1] for s in spans)
        return self.level((low + high) / 2, self.frame_of(one))

    def spot(self, point: tuple[float, ...], poses: np.ndarray) -> QPointF:
        """A point of the plane that is worked on, or in space; ``poses`` are no matter there."""
        if len(point) == 2:
            return self.of(None).map(QPointF(*point))
        u, v, _ = self.camera.seen(np.array(point), *self.size)
        return QPointF(float(u), float(v))

    def plane_of(self, body: int, poses: np.ndarray) -> QTransform:
        """The plane that a body moves in, the mechanism at poses (B, 3), at the body's datum."""
        scene = self.workbench.scene
        assert scene is not None
        planes, heights = scene.resolved.planes, scene.resolved.heights
        frame = planes.frames(poses, heights)[planes.of[body]]
        return self.level(float(heights[body]), frame)

    def at(self, snap: PlacedSnap) -> QTransform:
        """The plane at which a place was picked, else at its body's near face."""
        scene = self.workbench.scene
        index = scene.index(snap.body) if scene is not None else None
        if index is None:
            return self.level(0.0, self.frame_of(None))
        z = self.near_face(index) if snap.rise is None else self.height_of(snap.body) + snap.rise
        return self.level(z, self.frame_of(index))

    def seen_at(self, place: np.ndarray) -> QPointF:
        """The pixel of a place (3,) mm."""
        u, v, _ = self.camera.seen(place, *self.size)
        return QPointF(float(u), float(v))

    def place_of(self, snap: PlacedSnap) -> np.ndarray:
        """(3,) mm, where a place that was picked is in space."""
        scene = self.workbench.scene
        frame = self.frame_of(scene.index(snap.body) if scene is not None else None)
        z = self.height_of(snap.body) + (snap.rise or 0.0)
        return np.asarray(frame[:, :3] @ np.array([snap.x, snap.y, z]) + frame[:, 3])

    def height_of(self, body: str) -> float:
        """mm that a body's datum is seen at."""
        scene = self.workbench.scene
        index = scene.index(body) if scene is not None else None
        if scene is None or index is None:
            return 0.0
        return float(scene.resolved.heights[index] + self.lifts()[index])

    def hit_at(self, point: QPointF) -> Hit | None:
        """The face under a pixel."""
        if self._targets is None or self.standing is None:
            return None
        ray = self.camera.ray(point.x(), point.y(), *self.size)
        cut = self.section.plane if self.section is not None else None
        return self._targets.hit(ray, self.places(), self.hidden(), cut)

    def face_at(self, point: QPointF) -> Face | None:
        """The face under a pixel, as seen from its body."""
        hit = self.hit_at(point)
        if hit is None or hit.face == "cut" or self.standing is None:
            return None
        resolved, place = self.standing[0].resolved, self.places()[hit.body]
        own = (hit.point - place[:, 3]) @ place[:, :3]
        own[2] -= resolved.heights[hit.body]
        body = resolved.document.bodies[hit.body].id
        return Face(body, own, hit.normal @ place[:, :3], EDGE / self.camera.scale)

    def body_at(self, point: QPointF) -> str | None:
        """Id of the body under a pixel."""
        hit, scene = self.hit_at(point), self.workbench.scene
        if hit is None or scene is None:
            return None
        return scene.resolved.document.bodies[hit.body].id

    def thing_at(self, point: QPointF) -> Selection:
        """What a click on a pixel means: a joint before a body."""
        near = [axis for axis in self.axes() if axis.away(point) <= JOINT]
        if near:
            return Selection("joint", min(near, key=lambda axis: axis.away(point)).joint)
        body = self.body_at(point)
        return Selection() if body is None else Selection("body", body)

    def bodies_in(self, box: QRectF) -> list[str]:
        """Ids of the bodies whose every corner lies in a box of pixels."""
        if self.standing is None:
            return []
        scene, _ = self.standing
        hidden = self.hidden()
        found = []
        for k, body in enumerate(scene.resolved.document.bodies):
            extent = self.extent(k)
            if extent is not None and k not in hidden and box.contains(extent):
                found.append(body.id)
        return found

    def snaps_at(self, at: Pointer, reach: float) -> tuple[PlacedSnap, ...]:
        """Places near the pointer: rims with the height of that rim, then all others at the face
        that is seen, the nearest first."""
        if self.standing is None:
            return ()
        scene, poses = self.standing
        point, hidden = at.pixel, self.hidden()
        places = all_snaps(scene.resolved, poses)
        found: list[tuple[float, PlacedSnap]] = []
        for rim in self._rims_at(point, reach):
            body = scene.resolved.document.bodies[rim.round.body].id
            for place in places:
                own = place.snap.x - rim.round.x, place.snap.y - rim.round.y
                beside = math.hypot(*own)
                if place.body == body and beside < 1e-6:
                    picked = replace(place, rise=rim.rise, rim=rim.side.value)
                    found.append((rim.away, picked))
                    break
        index = {body.id: k for k, body in enumerate(scene.resolved.document.bodies)}
        taken = {(snap.body, snap.snap.place.id) for _, snap in found}
        levels: dict[int, QTransform] = {}
        for place in places:
            body_index = index[place.body]
            if body_index in hidden or (place.body, place.snap.place.id) in taken:
                continue
            if body_index not in levels:
                frame = self.frame_of(body_index)
                levels[body_index] = self.level(self.near_face(body_index), frame)
            seen = levels[body_index].map(QPointF(place.x, place.y))
            away = math.hypot(seen.x() - point.x(), seen.y() - point.y())
            if away <= reach:
                found.append((away, place))
        return tuple(snap for _, snap in sorted(found, key=lambda entry: entry[0]))

    def _rims_at(self, point: QPointF, reach: float) -> list[Rim]:
        """Rims near a pixel that are not hidden behind what is seen there."""
        if self.standing is None:
            return []
        (scene, _), hidden = self.standing, self.hidden()
        where = point.x(), point.y()
        shown = [each for each in self.rounds if each.body not in hidden]
        found = rims_near(
            shown, scene.resolved, self.places(), self.camera, where, self.size, reach / 2
        )
        hit = self.hit_at(point)
        if hit is None:
            return found
        depth = float(self.camera.seen(hit.point, *self.size)[2])
        toward = self.camera.axes[2]
        slope = max(abs(float(self.frame_of(hit.body)[:, 2] @ toward)), 0.1)
        room = 0.05 + reach / self.camera.scale * (1.0 / slope - 1.0 + 0.15)
        return [
            rim
            for rim in found
            if rim.round.body == hit.body or self._depth_of_rim(rim, where) >= depth - room
        ]

    def _depth_of_rim(self, rim: Rim, at: tuple[float, float]) -> float:
        """How near the eye the place of a rim is that lies under a pixel."""
        ray = self.camera.ray(*at, *self.size)
        assert self.standing is not None
        body = rim.round.body
        z = float(self.standing[0].resolved.heights[body] + self.lifts()[body]) + rim.rise
        frame = self.frame_of(body)
        place = ray.on_plane(frame, z)
        if place is None:
            return float(self.camera.seen(np.asarray(rim.middle), *self.size)[2])
        point = frame[:, :3] @ np.array([*place, z]) + frame[:, 3]
        return float(self.camera.seen(point, *self.size)[2])

    def frames(self) -> np.ndarray:
        """(P, 3, 4) from each plane to space as it is on show."""
        if self.standing is None:
            return LEVEL[None]
        scene, poses = self.standing
        resolved = scene.resolved
        return resolved.planes.frames(poses, resolved.heights + self.lifts())

    def places(self) -> np.ndarray:
        """(B, 3, 4) from each body's own frame to space as it is on show."""
        if self.standing is None:
            return np.zeros((0, 3, 4))
        scene, poses = self.standing
        resolved = scene.resolved
        return resolved.planes.places(poses, resolved.heights, self.lifts())

    def frame_of(self, body: int | None) -> np.ndarray:
        """(3, 4) of the plane that a body moves in; of none, of that being worked on."""
        frames = self.frames()
        if self.standing is None:
            return np.asarray(frames[0])
        planes = self.standing[0].resolved.planes
        if body is not None:
            return np.asarray(frames[planes.of[body]])
        return np.asarray(frames[self.workbench.shown_plane()])

    def level(self, z: float, frame: np.ndarray) -> QTransform:
        """From a height over a plane to pixels."""
        m = self.camera.plane(frame, z, *self.size)
        return QTransform(
            m[0, 0], m[1, 0], m[2, 0], m[0, 1], m[1, 1], m[2, 1], m[0, 2], m[1, 2], m[2, 2]
        )

    def hidden(self) -> frozenset[int]:
        """Bodies that are out of sight."""
        return self.workbench.out_of_sight()

    def span(self, body: int) -> tuple[float, float]:
        """The heights between which a body is seen, mm."""
        scene = self.workbench.scene
        assert scene is not None
        slabs = scene.resolved.part_of(scene.resolved.document.bodies[body]).slabs
        height = float(scene.resolved.heights[body] + self.lifts()[body])
        low = min((slab.bottom for slab in slabs), default=0.0)
        return height + low, height + max((slab.top for slab in slabs), default=0.0)

    def near_face(self, body: int) -> float:
        """mm, the height of a body's face towards the eye."""
        low, high = self.span(body)
        faces_eye = float(self.frame_of(body)[:, 2] @ self.camera.axes[2]) >= 0.0
        return high if faces_eye else low

    def lifts(self) -> np.ndarray:
        """(B,) mm that bodies are raised by to be seen apart."""
        scene = self.workbench.scene
        count = len(scene.poses) if scene is not None else 0
        found = np.zeros(count)
        if self.share_apart > 0.0 and scene is not None:
            stack, gap = self.stacked()
            for body, up in lifts(stack, gap).items():
                found[body] = up * self.share_apart
        return found

    def stacked(self) -> tuple[Stack, float]:
        """The order in which bodies go on, and mm that they are pulled apart by."""
        scene = self.workbench.scene
        assert scene is not None
        if self._stack is None:
            box = self._box_with(np.zeros(len(scene.poses)))
            gap = max(LEAST_APART, APART * float(np.hypot(*(box[1] - box[0])[:2])))
            self._stack = stack_of(placed_slabs(scene.resolved, scene.poses)), gap
        return self._stack

    def box(self) -> np.ndarray:
        """(2, 3) what holds all that is shown as it stands."""
        return self._box_with(self.lifts())

    def _box_with(self, raised: np.ndarray) -> np.ndarray:
        if self.standing is None:
            return EMPTY
        scene, poses = self.standing
        resolved = scene.resolved
        shown = np.array([k not in self.hidden() for k in range(len(poses))], dtype=bool)
        places = resolved.planes.places(poses, resolved.heights, raised)
        return self._meshes(scene, self.camera).box_at(places, shown)

    def extent(self, body: int) -> QRectF | None:
        """The box of pixels round a body as it stands."""
        bodies, standing = self.bodies, self.standing
        if bodies is None or standing is None:
            return None
        plan = bodies.extent(body, standing[1])
        if plan is None:
            return None
        low, high = self.span(body)
        corners = np.array(
            [
                [x, y, z]
                for x in (plan.left(), plan.right())
                for y in (plan.top(), plan.bottom())
                for z in (low, high)
            ]
        )
        frame = self.frame_of(body)
        corners = corners @ frame[:, :3].T + frame[:, 3]
        seen = self.camera.seen(corners, *self.size)[:, :2]
        (a, b), (c, d) = seen.min(axis=0), seen.max(axis=0)
        return QRectF(float(a), float(b), float(c - a), float(d - b))

    def axes(self) -> list[Axis]:
        """Joints as they are seen."""
        if self.standing is None or not self.shows_joints():
            return []
        scene, poses = self.standing
        frames, hidden = self.frames(), self.hidden()
        return axes(scene.resolved, poses, self.lifts(), frames, self.camera, self.size, hidden)
