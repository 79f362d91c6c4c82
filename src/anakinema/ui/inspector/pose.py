"""The inspector's form of a kept pose."""

from __future__ import annotations

from anakinema.authoring import stage_to, started_at
from anakinema.document import model
from anakinema.edits import Edit, RemoveKept, SetKept
from anakinema.ui.fields import label
from anakinema.ui.inspector.form import Form


def build_pose(form: Form, pose_id: str) -> None:
    """Name, ghost, how it stands now; go there, start there, run to it, delete."""
    bench = form.workbench

    def pose() -> model.KeptPose:
        return model.next_by_id(bench.session.document.poses, pose_id)

    form.heading(pose().title, "A kept pose of the whole mechanism.")
    words = label("", "plain", wrap=True)
    words.setObjectName("pose_words")
    form.layout.addWidget(words)

    def show() -> None:
        found = bench.poses.standing(pose())
        if found is None:
            words.setText("Not known while the document is faulty.")
            return
        lines = [f"{title} {value}" for title, value in found.values]
        words.setText("\n".join([found.reason, *lines] if found.reason else lines))

    show()
    form.on_refresh(show)
    form.on_live(show)
    form.text(
        "Name", "pose_name", lambda: pose().title, lambda t: SetKept("poses", pose_id, "name", t)
    )
    form.check(
        "shown as a ghost",
        "pose_ghost",
        lambda: pose().ghost,
        lambda on: SetKept("poses", pose_id, "ghost", on),
    )
    form.buttons(
        ("pose_go", "Go there", lambda: bench.poses.go(pose_id)),
        ("pose_start", "Start here", lambda: _do(form, _start(form, pose()))),
        ("pose_stage", "Run to it", lambda: _do(form, _stage(form, pose()))),
        ("pose_delete", "Delete", lambda: form.once(RemoveKept("poses", pose_id))),
    )
    form.quiet(
        "Start here: bodies are drawn so and drivers begin here. Run to it: one more stage of the"
        " program that ends here. While it is on show, a joint's limit can be set from it."
    )


def _start(form: Form, pose: model.KeptPose) -> Edit | None:
    scene, found = form.workbench.drawn_scene(), form.workbench.poses.standing(pose)
    return None if scene is None or found is None else started_at(scene.resolved, found.poses)


def _stage(form: Form, pose: model.KeptPose) -> Edit | None:
    scene, found = form.workbench.drawn_scene(), form.workbench.poses.standing(pose)
    if scene is None or found is None:
        return None
    edit = stage_to(scene.resolved, found.poses)
    if edit is None:
        form.workbench.report("The program ends there already, or nothing drives it yet.")
    return edit


def _do(form: Form, edit: Edit | None) -> None:
    if edit is not None:
        form.once(edit)
