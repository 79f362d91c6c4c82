"""The inspector's form of a plane of motion: where it lies, what carries it, working on it."""

from __future__ import annotations

from anakinema.authoring import square_plane
from anakinema.document import model
from anakinema.edits import Edit, RemovePlane, SetPlane
from anakinema.ui.fields import source_text
from anakinema.ui.inspector.form import Form
from anakinema.ui.workbench import Selection

STANDS = ""
"""Stands for no carrier in the box."""


def build_plane(form: Form, plane_id: str) -> None:
    """Rows of a plane; the first stands where all others are seen from."""
    bench = form.workbench

    def plane() -> model.Plane:
        return model.next_by_id(bench.session.document.planes, plane_id)

    document = bench.session.document
    is_first = document.planes[0].id == plane_id
    count = sum(body.plane == plane_id for body in document.bodies)
    here = "being worked on" if bench.plane == plane_id else f"{count} bodies lie on it"
    form.heading(plane().title, here)
    form.text("Name", "plane_name", lambda: plane().name, lambda t: SetPlane(plane_id, "name", t))
    form.quantities(
        ("x", "y", "z"),
        "plane",
        lambda axis: source_text(getattr(plane(), axis)),
        lambda axis, text: SetPlane(plane_id, axis, text.strip() or 0.0),
    )
    form.section("Directions")
    form.quantities(
        ("turn", "tilt", "spin"),
        "plane",
        lambda axis: source_text(getattr(plane(), axis)),
        lambda axis, text: SetPlane(plane_id, axis, text.strip() or 0.0),
    )
    if not is_first:
        bodies = [(b.id, b.title) for b in document.bodies if b.plane != plane_id]
        form.choice(
            "Carried by",
            "plane_on",
            [(STANDS, "nothing"), *bodies],
            lambda: plane().on or STANDS,
            lambda body: SetPlane(plane_id, "on", body or None),
        )
    form.quiet("Bodies on a plane move in it; joints of two planes can be coupled.")
    form.buttons(
        ("plane_work", "Work on it", lambda: bench.work_on(plane_id)),
        ("plane_square", "New one square to it", lambda: _square(form, plane_id)),
        ("plane_delete", "Delete", lambda: form.once(RemovePlane(plane_id))),
    )


def _square(form: Form, plane_id: str) -> None:
    scene = form.workbench.drawn_scene()
    if scene is None:
        return
    made: list[str] = []

    def make() -> Edit:
        edit, name = square_plane(scene.resolved, plane_id)
        made.append(name)
        return edit

    form.once(make)
    if made:
        form.workbench.work_on(made[0])
        form.workbench.select(Selection("plane", made[0]))
