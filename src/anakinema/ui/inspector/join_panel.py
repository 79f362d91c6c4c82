"""The join being made, in words and numbers: everything the mouse does can be done here by keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.authoring import PlacedSnap, Tie, Wish, curve_names, join_words, ties_of
from anakinema.document import KINDS, Way, spec_of
from anakinema.document.model import JointKind
from anakinema.edits import made
from anakinema.errors import AnakinemaError
from anakinema.ui.fields import clear, in_lines, label, row, source_text
from anakinema.ui.inspector.draft_field import draft_field
from anakinema.ui.inspector.snap_box import fill_snaps, snap_box
from anakinema.ui.joining import JoinDraft
from anakinema.ui.workbench import Workbench
from anakinema.units import ANGLE, LENGTH

MANNERS = {"together": "bring together", "stand": "as they stand"}
STACKS = {
    "face": "face to face",
    "below": "underneath",
    "middle": "middle to middle",
    "keep": "as it is",
    "typed": "at a height",
}
TYPED_HEIGHT = 6.0
"""mm; where a typed height begins."""
TIE_WIDTH = 210
"""Pixels for the words of a button, in the narrowest panel."""


class JoinPanel(QWidget):
    """Kind, both places, manner, turn, offset, stack, and what would come of it."""

    def __init__(self, workbench: Workbench, draft: JoinDraft) -> None:
        super().__init__()
        self.setObjectName("join_panel")
        self._workbench, self._draft = workbench, draft
        self._filling = False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(3)
        layout.addWidget(label("Join", "heading"))
        self._first = snap_box("join_first", "part that comes")
        self._second = snap_box("join_second", "place it comes to")
        layout.addWidget(label("What comes", "section"))
        layout.addWidget(self._first)
        layout.addWidget(label("To where", "section"))
        layout.addWidget(self._second)
        self._kind = snap_box("join_kind", "kind of joint")
        for kind in get_args(JointKind):
            if spec_of(kind).joins:
                self._kind.addItem(KINDS[kind].words, kind)
        self._manner = snap_box("join_manner", "manner")
        for key, words in MANNERS.items():
            self._manner.addItem(words, key)
        self._stack = snap_box("join_stack", "place in the stack")
        for key, words in STACKS.items():
            self._stack.addItem(words, key)
        self._curve = snap_box("join_curve", "curve")
        for words, box in (("Kind", self._kind), ("Manner", self._manner), ("Stack", self._stack)):
            layout.addWidget(row(words, box, width=132))
        self._flip = QCheckBox("turned round (P)")
        self._flip.setObjectName("join_flip")
        layout.addWidget(self._flip)
        self._turn, self._offset, self._radius, self._length = (
            draft_field(
                workbench,
                f"join_{wish}",
                "",
                dimension,
                partial(lambda w, value, _: draft.set_wish(**{w: value}), wish),
            )
            for wish, dimension in (
                ("turn", ANGLE),
                ("offset", LENGTH),
                ("radius", LENGTH),
                ("length", LENGTH),
            )
        )
        self._rise = draft_field(
            workbench, "join_rise", "6 mm", LENGTH, lambda value, _: draft.set_wish(stack=value)
        )
        self._rows = {
            "turn": row("Turn by", self._turn),
            "offset": row("Offset", self._offset),
            "radius": row("Radius of arc", self._radius),
            "length": row("Length", self._length),
            "curve": row("Curve", self._curve, width=132),
            "rise": row("Height above", self._rise),
        }
        for widget in self._rows.values():
            layout.addWidget(widget)
        self._words = label("", wrap=True)
        self._words.setObjectName("join_words")
        layout.addSpacing(6)
        layout.addWidget(self._words)
        self._other = QPushButton("Other assembly (O)")
        self._other.setObjectName("join_other")
        self._keep = QPushButton("Keep the offset")
        self._keep.setObjectName("join_keep_offset")
        layout.addWidget(self._other)
        layout.addWidget(self._keep)
        ends = QHBoxLayout()
        self._make = QPushButton("Join")
        self._make.setObjectName("join_make")
        self._cancel = QPushButton("Cancel")
        self._cancel.setObjectName("join_cancel")
        ends.addWidget(self._make)
        ends.addWidget(self._cancel)
        layout.addSpacing(6)
        layout.addLayout(ends)
        layout.addSpacing(8)
        self._ties_title = label("Or without a joint", "section")
        layout.addWidget(self._ties_title)
        self._ties = QVBoxLayout()
        self._ties.setSpacing(3)
        self._tied: object = None
        layout.addLayout(self._ties)
        layout.addStretch(1)
        self._connect()
        draft.changed.connect(self._show)
        workbench.scene_changed.connect(self._show)
        self._show()

    def _connect(self) -> None:
        draft = self._draft

        def chosen(box: QComboBox, change: Callable[[object], None]) -> None:
            box.activated.connect(lambda _: change(box.currentData()))

        chosen(self._kind, lambda data: draft.set_wish(kind=data))
        chosen(self._curve, lambda data: draft.set_wish(curve=data))
        chosen(self._manner, lambda data: draft.set_wish(manner=data))
        chosen(self._stack, lambda data: self._stacked(str(data)))
        self._first.activated.connect(lambda _: self._picked())
        self._second.activated.connect(lambda _: self._picked())
        self._flip.toggled.connect(lambda on: None if self._filling else draft.set_wish(flip=on))
        self._other.clicked.connect(
            lambda: draft.set_wish(branch=1 - draft.wish.branch) if draft.wish else None
        )
        self._keep.clicked.connect(lambda: draft.set_wish(manner="offset"))
        self._make.clicked.connect(draft.commit)
        self._cancel.clicked.connect(lambda: self._workbench.use_tool(""))

    def _stacked(self, manner: str) -> None:
        """A place in the stack is chosen; a typed height begins with what stands in its field."""
        self._draft.set_wish(stack=TYPED_HEIGHT if manner == "typed" else manner)
        if manner == "typed":
            self._rise.setText(f"{TYPED_HEIGHT:g} mm")
            self._rise.setFocus()

    def _picked(self) -> None:
        """Both places chosen from the lists: the same as picking them on the stage."""
        first, second = self._first.currentData(), self._second.currentData()
        if not isinstance(first, PlacedSnap):
            return
        self._draft.clear()
        self._draft.pick(first)
        if isinstance(second, PlacedSnap) and second.body != first.body:
            self._draft.pick(second)

    def _show(self) -> None:
        self._filling = True
        draft, wish, proposal = self._draft, self._draft.wish, self._draft.proposal
        if draft.is_active:
            fill_snaps(self._first, self._workbench, draft.first, "pick a place")
            second = wish.second if wish else None
            fill_snaps(self._second, self._workbench, second, "pick a place")
        self._make.setEnabled(proposal is not None and proposal.is_closed)
        self._other.setVisible(proposal is not None and bool(proposal.ghosts))
        if wish is not None:
            stack = wish.stack if isinstance(wish.stack, str) else "typed"
            for box, value in (
                (self._kind, wish.kind),
                (self._manner, wish.manner),
                (self._stack, stack),
            ):
                box.setCurrentIndex(max(0, box.findData(value)))
            self._flip.setChecked(wish.flip)
            units = self._workbench.scene.resolved.units if self._workbench.scene else None
            if units is not None and wish.radius is not None:
                self._radius.show_source(units.format(wish.radius, LENGTH).replace("−", "-"))
        spec = spec_of(wish.kind) if wish else None
        may_turn = spec is not None and (spec.turns_over or spec.way is Way.POINT)
        self._flip.setVisible(may_turn)
        self._rows["turn"].setVisible(may_turn and spec is not None and not spec.has_radius)
        self._rows["offset"].setVisible(spec is not None and spec.is_set_off)
        self._rows["curve"].setVisible(spec is not None and spec.has_curve)
        if spec is not None and spec.has_curve and wish is not None:
            self._show_curves(wish)
        self._rows["radius"].setVisible(spec is not None and spec.has_radius)
        is_rod = spec is not None and spec.is_rod
        self._rows["length"].setVisible(is_rod)
        if is_rod and proposal is not None and proposal.joint.length is not None:
            self._length.show_source(source_text(proposal.joint.length))
        self._rows["rise"].setVisible(wish is not None and not isinstance(wish.stack, str))
        self._keep.setVisible(
            wish is not None
            and wish.manner == "stand"
            and proposal is not None
            and bool(proposal.moved)
        )
        self._words.setText(self._stated())
        self._show_ties(wish)
        self._filling = False

    def _show_ties(self, wish: Wish | None) -> None:
        """What else the two bodies could do: touch, mesh, drive by a belt."""
        scene = self._workbench.scene
        pair = (wish.first.body, wish.second.body) if wish is not None else None
        self._ties_title.setVisible(pair is not None)
        key = (pair, scene.resolved.source if scene is not None else None)
        if key == self._tied:
            return
        self._tied = key
        clear(self._ties)
        if pair is None or scene is None:
            return
        for tie in ties_of(scene, *pair):
            button = QPushButton()
            button.setText(in_lines(tie.words, self, TIE_WIDTH))
            button.setAccessibleName(tie.words)
            button.setObjectName(f"tie_{tie.key}")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, chosen=tie: self._tie(chosen))
            self._ties.addWidget(button)

    def _tie(self, tie: Tie) -> None:
        bench = self._workbench
        try:
            edit = made(tie.make, tie.words)
        except AnakinemaError as error:
            bench.report(error)
            return
        bench.use_tool("")
        bench.do_once(edit)

    def _show_curves(self, wish: Wish) -> None:
        scene = self._workbench.scene
        names = curve_names(scene, wish.second.body) if scene is not None else ()
        self._curve.clear()
        for name, words in names:
            self._curve.addItem(words, name)
        self._curve.setCurrentIndex(max(0, self._curve.findData(wish.curve)))

    def _stated(self) -> str:
        draft = self._draft
        if draft.trouble is not None:
            return f"{draft.trouble.where}: {draft.trouble.what} {draft.trouble.remedy}"
        if draft.proposal is None:
            return (
                "Pick two places on the stage, or choose them here." if draft.wish is None else "…"
            )
        return "\n".join(join_words(draft.proposal))
