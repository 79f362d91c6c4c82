"""The inspector: the selected thing, its few numbers editable in place, and why a finding is so."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.edits.base import Edit
from anakinema.edits.values import (
    SetDimension,
    SetHeight,
    SetLimit,
    SetParameter,
    SetPose,
    SetRequirement,
)
from anakinema.session import (
    finding_facts,
    finding_why,
    gauges,
    joint_value_words,
)
from anakinema.ui.fields import QuantityField, label, live_field, row, source_text
from anakinema.ui.workbench import Selection, Workbench

Binding = tuple[QuantityField, Callable[[], str]]


class Inspector(QScrollArea):
    """Rebuilt when another thing is selected; only its texts change while numbers change."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("inspector")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._workbench = workbench
        self._bindings: list[Binding] = []
        self._live: list[Callable[[], None]] = []
        workbench.selection_changed.connect(self._build)
        workbench.document_changed.connect(self._document_changed)
        workbench.evaluated.connect(self._show_live)
        workbench.playhead_moved.connect(self._show_live)
        self._shape: object = None
        self._build()

    def _document_changed(self) -> None:
        if self._layout_shape() != self._shape:
            self._build()
        for field, source in self._bindings:
            field.show_source(source())

    def _layout_shape(self) -> object:
        """What must stay the same for the fields on show to stay valid."""
        document = self._workbench.session.document
        return (
            self._workbench.selection,
            self._workbench.has_document,
            tuple(p.id for p in document.parameters),
            tuple((p.id, tuple(d.id for d in p.dimensions)) for p in document.parts),
            tuple(b.id for b in document.bodies),
            tuple(j.id for j in document.joints),
        )

    def _show_live(self) -> None:
        for show in self._live:
            show()

    def _build(self) -> None:
        self._shape = self._layout_shape()
        self._bindings, self._live = [], []
        panel = QWidget()
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(2)
        selection, document = self._workbench.selection, self._workbench.session.document
        builders: dict[str, Callable[[QVBoxLayout, str], None]] = {
            "body": self._build_body,
            "joint": self._build_joint,
            "finding": self._build_finding,
        }
        if selection.kind in builders and self._exists(selection, document):
            builders[selection.kind](layout, selection.id)
        elif self._workbench.has_document:
            self._build_document(layout)
        layout.addStretch(1)
        self.setWidget(panel)
        self._show_live()

    def _exists(self, selection: Selection, document: model.Document) -> bool:
        if selection.kind == "body":
            return any(body.id == selection.id for body in document.bodies)
        if selection.kind == "joint":
            return any(joint.id == selection.id for joint in document.joints)
        return True

    def _add_field(
        self,
        layout: QVBoxLayout,
        words: str,
        name: str,
        source: Callable[[], str],
        edit: Callable[[str], Edit],
        note: str = "",
    ) -> None:
        workbench = self._workbench
        field = live_field(
            source(), name, lambda text: workbench.do(edit(text)), workbench.finish_gesture,
            workbench.cancel_gesture,
        )  # fmt: skip
        self._bindings.append((field, source))
        layout.addWidget(row(words, field, note=note))

    def _heading(self, layout: QVBoxLayout, title: str, below: str) -> None:
        layout.addWidget(label(title, "heading", wrap=True))
        if below:
            layout.addWidget(label(below, "quiet", wrap=True))
        layout.addSpacing(8)

    # The document --------------------------------------------------------------------------

    def _build_document(self, layout: QVBoxLayout) -> None:
        document = self._workbench.session.document
        self._heading(layout, document.name, document.note)
        if document.parameters:
            layout.addWidget(label("Parameters", "section"))
            for parameter in document.parameters:
                self._add_parameter(layout, parameter)
        layout.addSpacing(10)
        layout.addWidget(
            label("Click a body on the stage, a gauge or a check to see its numbers.", "quiet",
                  wrap=True)
        )  # fmt: skip

    def _add_parameter(self, layout: QVBoxLayout, parameter: model.Parameter) -> None:
        name = parameter.id

        def source() -> str:
            parameters = self._workbench.session.document.parameters
            return source_text(model.next_by_id(parameters, name).value)

        self._add_field(layout, name.replace("_", " "), f"parameter_{name}", source,
                        lambda text: SetParameter(name, text), parameter.note)  # fmt: skip

    # A body --------------------------------------------------------------------------------

    def _build_body(self, layout: QVBoxLayout, body_id: str) -> None:
        document = self._workbench.session.document
        body = document.body(body_id)
        part = document.part(body.part)
        uses = sum(other.part == part.id for other in document.bodies)
        below = f"part {part.title}" + (f", used {uses} times" if uses > 1 else "")
        self._heading(layout, body.title, below + (", fixed" if body.fixed else ""))
        if part.dimensions:
            layout.addWidget(label("Dimensions", "section"))
        for dimension in part.dimensions:
            name, part_id = dimension.id, part.id

            def source(p: str = part_id, d: str = name) -> str:
                dims = self._workbench.session.document.part(p).dimensions
                return source_text(model.next_by_id(dims, d).value)

            self._add_field(
                layout, name.replace("_", " "), f"dimension_{part_id}_{name}", source,
                lambda text, p=part_id, d=name: SetDimension(p, d, text),
            )  # fmt: skip
        parameters = document.parameters
        if parameters:
            layout.addSpacing(6)
            layout.addWidget(label("Parameters", "section"))
            for parameter in parameters:
                self._add_parameter(layout, parameter)
        layout.addSpacing(6)
        layout.addWidget(label("Start pose and stack", "section"))
        for axis in ("x", "y", "angle"):

            def pose(a: str = axis) -> str:
                return source_text(getattr(self._workbench.session.document.body(body_id).pose, a))

            self._add_field(layout, axis, f"pose_{axis}", pose,
                            lambda text, a=axis: SetPose(body_id, a, text))  # fmt: skip

        def height() -> str:
            return source_text(self._workbench.session.document.body(body_id).height)

        self._add_field(layout, "height", "height", height,
                        lambda text: SetHeight(body_id, text))  # fmt: skip

    # A joint -------------------------------------------------------------------------------

    def _build_joint(self, layout: QVBoxLayout, joint_id: str) -> None:
        document = self._workbench.session.document
        joint = document.joint(joint_id)
        names = {body.id: body.title for body in document.bodies}
        kind = joint.kind.replace("_", " ")
        self._heading(
            layout, joint.title, f"{kind}: {names[joint.second.body]} on {names[joint.first.body]}"
        )
        self._live_row(layout, "Present", lambda: self._present(joint_id))
        self._live_row(layout, "Used, least", lambda: self._used(joint_id, 0))
        self._live_row(layout, "Used, greatest", lambda: self._used(joint_id, 1))
        self._live_row(layout, "Reserve", lambda: self._reserve(joint_id))
        if joint.kind == "rigid":
            return
        layout.addSpacing(6)
        layout.addWidget(label("Limits", "section"))
        for which in ("least", "greatest", "rest"):

            def source(w: str = which) -> str:
                limits = self._workbench.session.document.joint(joint_id).limits
                return source_text(getattr(limits, w))

            self._add_field(
                layout, which, f"limit_{which}", source,
                lambda text, w=which: SetLimit(joint_id, w, text if text.strip() else None),
            )  # fmt: skip
        layout.addWidget(
            label("Positive is anticlockwise, or along the axis, seen from"
                  f" {names[joint.first.body]}. Empty means no limit. Rest is kept for yielding"
                  " bodies.", "quiet", wrap=True)
        )  # fmt: skip

    def _live_row(self, layout: QVBoxLayout, words: str, value: Callable[[], str]) -> None:
        shown = label("", "strong", wrap=True)
        shown.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        shown.setObjectName("live_" + words.lower().replace(", ", "_"))
        layout.addWidget(row(words, shown, width=130))
        self._live.append(lambda: shown.setText(value()))

    def _joint_index(self, joint_id: str) -> int | None:
        evaluation = self._workbench.evaluation
        if evaluation is None:
            return None
        ids = [joint.id for joint in evaluation.document.joints]
        return ids.index(joint_id) if joint_id in ids else None

    def _present(self, joint_id: str) -> str:
        evaluation, index = self._workbench.evaluation, self._joint_index(joint_id)
        if evaluation is None or index is None:
            return ""
        motion = evaluation.motion
        value = np.interp(self._workbench.progress, motion.progress, motion.values[:, index])
        return joint_value_words(evaluation, index, float(value))

    def _used(self, joint_id: str, end: int) -> str:
        evaluation, index = self._workbench.evaluation, self._joint_index(joint_id)
        if evaluation is None or index is None:
            return ""
        gauge = next((g for g in gauges(evaluation) if g.joint == index), None)
        if gauge is None:
            return ""
        return joint_value_words(evaluation, index, gauge.high if end else gauge.low)

    def _reserve(self, joint_id: str) -> str:
        evaluation, index = self._workbench.evaluation, self._joint_index(joint_id)
        if evaluation is None or index is None:
            return ""
        gauge = next((g for g in gauges(evaluation) if g.joint == index), None)
        if gauge is None or (gauge.least is None and gauge.greatest is None):
            return "no limits"
        ends = []
        if gauge.least is not None:
            ends.append(joint_value_words(evaluation, index, gauge.low - gauge.least))
        if gauge.greatest is not None:
            ends.append(joint_value_words(evaluation, index, gauge.greatest - gauge.high))
        return " and ".join(ends)

    # A finding -----------------------------------------------------------------------------

    def _build_finding(self, layout: QVBoxLayout, finding_id: str) -> None:
        title = label("", "heading", wrap=True)
        layout.addWidget(title)
        layout.addSpacing(6)
        facts = QWidget()
        facts_layout = QVBoxLayout(facts)
        facts_layout.setContentsMargins(0, 0, 0, 0)
        facts_layout.setSpacing(0)
        layout.addWidget(facts)
        rows: list[tuple[str, QWidget]] = []
        why = label("", "quiet", wrap=True)
        last: list[object] = [None]

        def show() -> None:
            evaluation = self._workbench.evaluation
            if evaluation is None or evaluation is last[0]:
                return
            last[0] = evaluation
            finding = next((f for f in evaluation.verdict.findings if f.id == finding_id), None)
            for _, widget in rows:
                facts_layout.removeWidget(widget)
                widget.hide()
                widget.deleteLater()
            rows.clear()
            if finding is None:
                title.setText("This check is gone")
                return
            title.setText(finding.title)
            for words, value in finding_facts(evaluation, finding):
                widget = row(words, value)
                facts_layout.addWidget(widget)
                rows.append((words, widget))
            why.setText(finding_why(evaluation, finding))

        self._live.append(show)
        requirement = next(
            (r for r in self._workbench.session.document.requirements if r.id == finding_id), None
        )
        if requirement is not None:
            layout.addSpacing(8)
            layout.addWidget(label("What is asked", "section"))
            for which in ("least", "greatest", "comfort"):
                if hasattr(requirement, which) and (
                    which != "greatest" or requirement.kind == "travel"
                ):
                    self._add_requirement_field(layout, finding_id, which)
        layout.addSpacing(8)
        layout.addWidget(label("Why", "section"))
        layout.addWidget(why)

    def _add_requirement_field(self, layout: QVBoxLayout, finding_id: str, which: str) -> None:
        def source() -> str:
            document = self._workbench.session.document
            found = next((r for r in document.requirements if r.id == finding_id), None)
            return source_text(getattr(found, which, None))

        words = {"least": "at least", "greatest": "at most", "comfort": "comfortable from"}[which]
        self._add_field(
            layout, words, f"asked_{which}", source,
            lambda text: SetRequirement(finding_id, which, text if text.strip() else None),
        )  # fmt: skip
