"""A body pulled by hand, to try a mechanism."""

from __future__ import annotations

from collections.abc import Set

from anakinema.authoring.scene import Scene
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried, within
from anakinema.mechanism.compile import compile_mechanism
from anakinema.motion.drag import Drag


class Trial:
    """A drag to try: pulls a body of a scene by the point it was grabbed at."""

    def __init__(self, scene: Scene, body: int, x: float, y: float, held: Set[str]) -> None:
        bodies = scene.resolved.document.bodies
        still = frozenset(k for k, other in enumerate(bodies) if other.id in held)
        self._drag = Drag(compile_mechanism(scene.resolved), scene.poses, still)
        self._body = body
        self._point = within(scene.poses[body], (x, y))
        self._joints = [joint.title for joint in scene.resolved.document.joints]
        self.poses = scene.poses
        self.away = 0.0
        self.held_by: tuple[str, ...] = ()

    def pull(self, x: float, y: float) -> Floats:
        """Poses (B, 3) with the grabbed point as near to (x, y) mm as it can come."""
        pulled = self._drag.pull(self._body, self._point, (x, y))
        self.poses, self.away = pulled.poses, pulled.away
        self.held_by = tuple(self._joints[j] for j in pulled.held_by)
        return self.poses

    def grabbed_at(self) -> tuple[float, float]:
        """Where the grabbed point is now, mm."""
        return carried(self.poses[self._body], self._point)
