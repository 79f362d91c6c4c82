"""The cam studio: a cam's numbers in a panel, its shape, follower and diagrams on paper.

One long class: the panel's fields, all of one cam.
"""

from __future__ import annotations

from typing import get_args

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPlainTextEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from anakinema.authoring import (
    CamView,
    CamWish,
    ProfileForm,
    base_that_meets,
    cam_view,
    cams_in,
    make_cam,
    pasted_lift,
    profile_table,
)
from anakinema.document import FACES, RETURNS, WAYS, face_of, model, numbers_used, way_of
from anakinema.edits import Edit, RemoveSegment, SetCam, SetFollower, SetSegment, SplitSegment, made
from anakinema.errors import AnakinemaError
from anakinema.geometry import MotionLaw
from anakinema.ui.cams.canvas import CamCanvas
from anakinema.ui.fields import QuantityField, choice_box, label, row, source_text
from anakinema.ui.guarded import guarded
from anakinema.ui.inspector.body import build_dimension
from anakinema.ui.inspector.form import FIELD, Form
from anakinema.ui.inspector.program_stage import LAWS
from anakinema.ui.workbench import Selection, Workbench

PROFILES: dict[ProfileForm, str] = {
    "points": "exact points",
    "arcs": "arcs: x, y, bulge",
    "curves": "cubics: 4 points",
}
WIDE = 300


@guarded
class CamStudio(QWidget):
    """Everything about a document's cams; a form for a new one where there is none yet."""

    done = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("cam_studio")
        self._bench = workbench
        self.canvas = CamCanvas(workbench)
        self._key: tuple[str, str] | None = None
        self._form: Form | None = None
        self._shape: object = None
        self._words = label("", "quiet", wrap=True)
        self._facts = label("", wrap=True)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFixedWidth(WIDE)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.canvas, 1)
        layout.addWidget(self._scroll)
        workbench.document_changed.connect(self._changed)

    def open_cam(self, part: str = "") -> None:
        """Begin with a part's cam, or the document's first, or a form for a new one."""
        known = cams_in(self._bench.session.document)
        keys = [(p, c) for p, c, _ in known if not part or p == part] or [k[:2] for k in known]
        self._key = keys[0] if keys else None
        self.rebuild()

    # What is shown ------------------------------------------------------------------------

    def _cam(self) -> model.Cam | None:
        if self._key is None:
            return None
        document = self._bench.session.document
        part = next((p for p in document.parts if p.id == self._key[0]), None)
        cams = () if part is None else part.cams
        return next((cam for cam in cams if cam.id == self._key[1]), None)

    def _changed(self) -> None:
        if not self.isVisible():
            return
        if self._now() != self._shape:
            self.rebuild()
        elif self._form is not None:
            self._form.refresh()
        self._look()

    def _now(self) -> object:
        """What the panel's rows depend on."""
        cam = self._cam()
        known = cams_in(self._bench.session.document)
        if cam is None:
            return known
        steady = any(segment.law == "constant" for segment in cam.segments)
        follower = cam.follower
        shape = len(cam.segments), steady, bool(cam.points), follower.face, follower.moves
        return known, self._key, shape

    def _look(self) -> None:
        """Draw the cam as it is now; what is wrong with it is said."""
        view: CamView | None = None
        stated: list[str] = []
        if self._key is not None and self._cam() is not None:
            try:
                view = cam_view(self._bench.session.document, *self._key)
            except AnakinemaError as error:
                stated = [error.advice]
        if view is not None:
            stated = list(view.diagnostics)
            self._facts.setText("\n".join(f"{name}: {value}" for name, value in view.facts))
            self.canvas.show_cam(view)
        elif self._cam() is None:
            self._facts.setText("")
            self.canvas.show_cam(None)
        self._words.setText("\n".join(f"◆ {line}" for line in stated))

    # The panel ----------------------------------------------------------------------------

    def rebuild(self) -> None:
        """Make the panel anew, where it was scrolled to and with the focus where it was."""
        self._shape = self._now()
        focus = self.window().focusWidget() if self.window() is not None else None
        name = focus.objectName() if focus is not None and self.isAncestorOf(focus) else ""
        place = self._scroll.verticalScrollBar().value()
        panel = QWidget()
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(12, 10, 12, 10)
        layout.setSpacing(2)
        self._words, self._facts = label("", "quiet", wrap=True), label("", wrap=True)
        self._words.setObjectName("cam_doubts")
        self._facts.setObjectName("cam_facts")
        form = self._form = Form(self._bench, layout, settles=False)
        form.heading("Cam studio")
        form.buttons(("cam_done", "Done", self.done.emit), ("cam_new", "New cam", self._new))
        cam = self._cam()
        if cam is None:
            self._build_new(form)
        else:
            self._build_choice(form)
            layout.addWidget(self._facts)
            layout.addWidget(self._words)
            self._build_sizes(form, cam)
            self._build_lift(form, cam)
            self._build_base(form)
        layout.addStretch(1)
        old = self._scroll.takeWidget()
        if old is not None:
            old.deleteLater()
        self._scroll.setWidget(panel)
        self._scroll.verticalScrollBar().setValue(place)
        again = panel.findChild(QWidget, name) if name else None
        if again is not None:
            again.setFocus()
        self._look()

    def _new(self) -> None:
        self._key = None
        self.rebuild()

    def _build_new(self, form: Form) -> None:
        form.quiet("A cam, its follower and the joints between them, hung on the body that stands.")
        boxes: list[QComboBox] = []
        for name, words, options in (
            ("cam_face", "follower", {k: f.title for k, f in FACES.items()}),
            ("cam_moves", "it", {k: w.title for k, w in WAYS.items()}),
            ("cam_returns", "kept on by", RETURNS),
        ):
            box = choice_box(name, words)
            for key, said in options.items():
                box.addItem(said, key)
            form.layout.addWidget(row(words, box, width=FIELD))
            boxes.append(box)
        like = choice_box("cam_like", "lift as that of")
        like.addItem("its own lift", None)
        for part, cam, words in cams_in(self._bench.session.document):
            like.addItem(f"as {words}", (part, cam))
        if like.count() > 1:
            form.layout.addWidget(row("with", like, width=FIELD))
        lift = QuantityField("12 mm", "cam_lift")
        lift_row = row("lift", lift, width=FIELD)
        form.layout.addWidget(lift_row)
        like.activated.connect(lambda _: lift_row.setVisible(like.currentData() is None))

        boxes[1].activated.connect(lambda _: lift.setText(WAYS[boxes[1].currentData()].first_lift))

        def wish() -> CamWish:
            face, moves, returns, other = (box.currentData() for box in (*boxes, like))
            return CamWish(face, moves, lift.whole, returns, tuple(other) if other else None)

        form.buttons(("cam_make", "Make it", lambda: self._make(wish())))

    def _make(self, wish: CamWish) -> None:
        scene = self._bench.drawn_scene()
        if scene is None:
            return
        try:
            edit, part, body = made(lambda: make_cam(scene, wish), "new cam")
            cam_view(edit.apply(self._bench.session.document), part, "lobe")
        except AnakinemaError as error:
            self._bench.report(error)
            return
        self._bench.do_once(edit)
        self._bench.select(Selection("body", body))
        self.open_cam(part)

    def _build_choice(self, form: Form) -> None:
        known = cams_in(self._bench.session.document)
        if len(known) < 2:
            return
        box = choice_box("cam_chosen", "cam")
        for part, cam, words in known:
            box.addItem(words, (part, cam))
            if (part, cam) == self._key:
                box.setCurrentIndex(box.count() - 1)

        def chosen() -> None:
            self._key = tuple(box.currentData())
            self.rebuild()

        box.activated.connect(lambda _: chosen())
        form.layout.addWidget(box)

    def _now_cam(self) -> model.Cam:
        cam = self._cam()
        assert cam is not None
        return cam

    def _build_sizes(self, form: Form, cam: model.Cam) -> None:
        assert self._key is not None
        part_id, cam_id = self._key
        face, way = face_of(cam.follower), way_of(cam.follower)
        form.section(f"Follower with {face.title} that {way.title}")
        part = self._bench.session.document.part(part_id)
        names = {d.id for d in part.dimensions}
        for dimension in part.dimensions:
            build_dimension(form, part_id, dimension.id)
        if source_text(cam.base) not in names:
            form.quantity(
                "base radius",
                "cam_base",
                lambda: source_text(self._now_cam().base),
                lambda text: SetCam(part_id, cam_id, "base", text),
            )
        used = numbers_used(face, way)
        form.quantities(
            [each for each in used if source_text(getattr(cam.follower, each)) not in names],
            "follower",
            lambda field: source_text(getattr(self._now_cam().follower, field)),
            lambda field, text: SetFollower(part_id, cam_id, field, text),
        )
        grooved = cam.follower.returns == "groove"
        ways = [(key, said) for key, said in RETURNS.items() if (key == "groove") == grooved]
        form.choice(
            "kept on by",
            "follower_returns",
            ways,
            lambda: self._now_cam().follower.returns,
            lambda how: SetFollower(part_id, cam_id, "returns", how),
        )

    def _build_lift(self, form: Form, cam: model.Cam) -> None:
        assert self._key is not None
        part_id, cam_id = self._key
        form.section("Lift")
        if cam.points:
            form.quiet(f"A smooth curve through {len(cam.points)} points.")
            form.buttons(
                (
                    "cam_segments",
                    "Back to segments",
                    lambda: form.once(SetCam(part_id, cam_id, "points", ())),
                )
            )
        else:
            for k in range(len(cam.segments)):
                self._build_segment(form, k, len(cam.segments))
            if any(segment.law == "constant" for segment in cam.segments):
                form.quantity(
                    "ease",
                    "cam_ease",
                    lambda: source_text(self._now_cam().ease),
                    lambda text: SetCam(part_id, cam_id, "ease", text),
                )
                form.quiet("A constant speed begins and ends over this turn.")
        table = QPlainTextEdit()
        table.setObjectName("cam_table")
        table.setAccessibleName("angles and lifts")
        table.setPlaceholderText("or paste two columns: angle in degrees, lift")
        table.setTabChangesFocus(True)
        table.setFixedHeight(64)
        form.layout.addWidget(table)
        form.buttons(("cam_paste", "Take the table", lambda: self._paste(table.toPlainText())))

    def _build_segment(self, form: Form, k: int, count: int) -> None:
        assert self._key is not None
        part_id, cam_id = self._key

        def segment() -> model.CamSegment:
            segments = self._now_cam().segments
            return segments[min(k, len(segments) - 1)]

        form.layout.addWidget(label(f"{k + 1}", "strong"))
        form.quantities(
            (("turn", "turns by"), ("to", "lift to")),
            f"segment_{k}",
            lambda field: source_text(getattr(segment(), field)),
            lambda field, text: SetSegment(part_id, cam_id, k, field, text),
        )
        laws = [(law, LAWS[law]) for law in get_args(MotionLaw)]
        form.choice(
            "law",
            f"segment_{k}_law",
            laws,
            lambda: segment().law,
            lambda law: SetSegment(part_id, cam_id, k, "law", law),
            width=158,
        )
        entries = [
            (f"segment_{k}_split", "Split", lambda: form.once(SplitSegment(part_id, cam_id, k)))
        ]
        if count > 2:
            entries.append(
                (
                    f"segment_{k}_drop",
                    "Remove",
                    lambda: form.once(RemoveSegment(part_id, cam_id, k)),
                )
            )
        form.buttons(*entries)

    def _build_base(self, form: Form) -> None:
        form.section("Smallest base")
        pressure = QuantityField("30 deg", "most_pressure")
        radius = QuantityField("2 mm", "least_radius")
        form.layout.addWidget(row("pressure angle up to", pressure, width=FIELD))
        form.layout.addWidget(row("convex radius from", radius, width=FIELD))
        form.buttons(
            (
                "cam_smallest",
                "Set the base to it",
                lambda: self._try(
                    lambda: base_that_meets(
                        self._bench.session.document, *self._key_now(), pressure.whole, radius.whole
                    )
                ),
            )
        )

        form.section("Profile")
        form.quiet("For a machine or a spreadsheet; a line each.")
        box = choice_box("cam_form", "as")
        for key, words in PROFILES.items():
            box.addItem(words, key)
        form.layout.addWidget(row("as", box, width=158))
        form.buttons(("cam_copy", "Copy it", lambda: self._copy(box.currentData())))

    def _copy(self, form: ProfileForm) -> None:
        QGuiApplication.clipboard().setText(
            profile_table(self._bench.session.document, *self._key_now(), form)
        )

    def _key_now(self) -> tuple[str, str]:
        assert self._key is not None
        return self._key

    def _paste(self, text: str) -> None:
        self._try(lambda: pasted_lift(self._bench.session.document, *self._key_now(), text))

    def _try(self, make) -> None:  # type: ignore[no-untyped-def]
        """Do an edit that has to be worked out first; what cannot be is stated."""
        try:
            edit: Edit = make()
        except AnakinemaError as error:
            self._bench.report(error)
            return
        self._bench.do_once(edit)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.done.emit()
        else:
            super().keyPressEvent(event)
