"""What all regions of the window share: the session, its newest results, selection, playhead.

One long class: the only place through which regions reach the session, so that all see one state.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QElapsedTimer, QObject, QTimer, QUrl, Signal
from PySide6.QtGui import QDesktopServices

from anakinema.authoring import Bound, Scene, TouchLimit, drawn, touch_limit
from anakinema.document.model import Document
from anakinema.edits import Edit, OnPlane
from anakinema.errors import AnakinemaError, AssemblyError, EditRefusedError
from anakinema.findings import Evaluation
from anakinema.resources import demo_names, demo_path
from anakinema.session import (
    Calculator,
    Drawn,
    DriverRanges,
    FileChangedError,
    Lane,
    LeftBehind,
    Playback,
    Session,
    answers,
    driver_ranges,
    poses_at,
)
from anakinema.settings import Settings
from anakinema.ui.comparing import Comparison
from anakinema.ui.desk import Desk
from anakinema.ui.finding_changes import ChangeFinder
from anakinema.ui.posing import KeptPoses
from anakinema.ui.pulling import Pull
from anakinema.ui.theme import Theme
from anakinema.ui.worker import Worker

KEPT_WITHIN = 0.3
"""Seconds that an answer waits for the journal."""
FRAME = 16
"""ms between frames while playing."""


@dataclass(frozen=True, slots=True)
class Selection:
    """What the inspector shows: 'body', 'joint', 'finding', 'driver' or '' for the document.

    ``more`` are further bodies picked with it.
    """

    kind: str = ""
    id: str = ""
    more: tuple[str, ...] = ()

    @property
    def bodies(self) -> tuple[str, ...]:
        """Ids of all bodies picked, the one shown first."""
        return (self.id, *self.more) if self.kind == "body" else ()

    def toggled(self, body: str) -> Selection:
        """The same with a body added or taken out."""
        if body in self.bodies:
            left = [other for other in self.bodies if other != body]
            return Selection("body", left[0], tuple(left[1:])) if left else Selection()
        return Selection("body", body, self.bodies)


@dataclass(frozen=True, slots=True, eq=False)
class Face:
    """A face of a body: a point on it and its normal (3,), as seen from the body's datum; an edge
    within ``reach`` mm was pointed at as well."""

    body: str
    point: np.ndarray
    normal: np.ndarray
    reach: float


def _can_be_read(trouble: object) -> bool:
    """Whether a document is one in spite of what is wrong; a loop may be open meanwhile."""
    return not isinstance(trouble, AnakinemaError) or isinstance(trouble, AssemblyError)


class Workbench(QObject):
    """Mediates between session and views. Edits go in; results come out as signals."""

    document_changed = Signal()
    evaluated = Signal()
    lanes_ready = Signal()
    reach_ready = Signal()
    touch_stated = Signal(str)
    """What came of looking for a limit where bodies touch."""
    trouble_changed = Signal()
    playhead_moved = Signal()
    playing_changed = Signal(bool)
    selection_changed = Signal()
    station_changed = Signal(str)
    busy_changed = Signal(bool)
    scene_changed = Signal()
    trial_changed = Signal()
    tool_changed = Signal()
    plane_changed = Signal()
    """Another plane is worked on."""
    marks_changed = Signal()
    """Which bodies are held or hidden."""
    journal_stated = Signal(str)
    """Comes from the journal's thread: what is wrong with it, or nothing."""
    menu_asked = Signal(object, object)
    """A `Selection`, and the place on the screen (`QPoint`) where its menu is wanted."""
    done_changed = Signal()
    """Where something was written, to be said once."""
    notices_changed = Signal()
    """What stays on show until it is settled: the journal cannot be written, a file is shared."""

    def __init__(self, desk: Desk, calculator: Calculator | None = None) -> None:
        super().__init__()
        self._calculator = calculator
        self.desk = desk
        self.theme_changed, self.broke = desk.theme_changed, desk.broke
        self.session = Session(desk.folder, self.journal_stated.emit)
        self.journal_stated.connect(self._journal_stated)
        self.journal_trouble = ""
        self.evaluation: Evaluation | None = None
        self.lanes: tuple[Lane, ...] = ()
        self.lanes_before: tuple[Lane, ...] = ()
        """The curves as they were before the present edit."""
        self.reach: DriverRanges | None = None
        self.trouble: AnakinemaError | str | None = None
        self.done: Path | None = None
        self.selection = Selection()
        self.station = "Check"
        self.progress = 0.0
        self.loop = True
        self.speed = 1.0
        self._time = 0.0
        self.busy = False
        self.has_document = False
        self._is_sound = self._was_sound = True
        self._in_gesture = False
        self._settling: tuple[object, Callable[[str], None]] | None = None
        self.scene: Scene | None = None
        self.trial: np.ndarray | None = None
        self._posed: tuple[Evaluation, float, np.ndarray] | None = None
        self.tool = ""
        self._plane = ""
        self.face: Face | None = None
        """The face that was pointed at in depth when a menu was asked for."""
        self.held: frozenset[str] = frozenset()
        self.hidden: frozenset[str] = frozenset()
        self._worker = Worker("evaluate", self)
        self._worker.answered.connect(self._answered)
        self._worker.broke.connect(self._broke)
        self._worker.finished.connect(self._finished)
        self._side = Worker("reach", self)
        self._side.answered.connect(self._reached)
        self._side.broke.connect(lambda _, error: self.broke.emit(error))
        self.changes = ChangeFinder(self.broke.emit)
        self.comparison = Comparison(self.broke.emit)
        self.pull = Pull(self)
        self.poses = KeptPoses(self)
        for each in (self.changes, self.comparison, self.pull, self.poses):
            each.setParent(self)
        self.poses.kept.connect(lambda name: self.select(Selection("pose", name)))
        for happened in (
            self.playhead_moved,
            self.document_changed,
            self.playing_changed,
            self.tool_changed,
        ):
            happened.connect(lambda *_: self.poses.leave())
        self.evaluated.connect(self.pull.evaluated)
        self.selection_changed.connect(self._compare)
        self.document_changed.connect(self._compare)
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME)
        self._timer.timeout.connect(self._tick)
        self._clock = QElapsedTimer()

    @property
    def theme(self) -> Theme:
        """The colours that everything is drawn in."""
        return self.desk.theme

    @property
    def settings(self) -> Settings:
        """What is remembered between sessions."""
        return self.desk.settings

    def _compare(self) -> None:
        """The trial that is selected is shown over what is so now."""
        document, chosen = self.session.document, self.selection
        trials = {trial.id: trial for trial in document.trials}
        trial = trials.get(chosen.id) if chosen.kind == "trial" else None
        self.comparison.show(document, trial)

    # Documents ---------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open a file; a faulty one is reported and what was open stays."""
        try:
            self.session.open(path)
        except AnakinemaError as error:
            self._set_trouble(error)
            return
        if path.parent != demo_path(demo_names()[0]).parent:
            self.desk.remember(path)
        self.begin()

    def begin_new(self) -> None:
        """An empty document."""
        self.session.start(Document(name="New mechanism"))
        self.begin()

    def begin(self) -> None:
        """Show the session's document as a new one."""
        self.has_document = True
        self.evaluation, self.lanes, self.reach = None, (), None
        self.lanes_before = ()
        self.scene = self.trial = self._posed = None
        self._is_sound = True
        self.held = self.hidden = frozenset()
        self.use_tool("")
        self.progress = 0.0
        self.play(False)
        self.select(Selection())
        self._set_trouble(None)
        self._changed()

    def save(self, path: Path, *, over: bool = False) -> bool:
        """Save; gives whether it worked, trouble says why not.

        Raises `FileChangedError` if the file is somebody else's by now, unless ``over`` it.
        """
        try:
            self.session.save(path, over=over)
        except FileChangedError:
            raise
        except AnakinemaError as error:
            self._set_trouble(error)
            return False
        self.desk.remember(path)
        self.document_changed.emit()
        self.notices_changed.emit()
        self.written(path)
        return True

    def take_theirs(self) -> bool:
        """Take what the file holds now in place of what is open; undo brings that back."""
        try:
            self.session.take_theirs()
        except AnakinemaError as error:
            self._set_trouble(error)
            return False
        self._changed()
        return True

    def recover(self, left: LeftBehind) -> None:
        """Go on with work that was left behind."""
        kept = self.session.recover(left)
        self.begin()
        if kept is not None:
            self.report(f"What could be read is here. The damaged journal is kept as {kept}.")

    def _journal_stated(self, trouble: str) -> None:
        self.journal_trouble = trouble
        self.notices_changed.emit()

    # Edits -------------------------------------------------------------------------------

    @property
    def plane(self) -> str:
        """The plane being worked on; the first where that is gone."""
        planes = [plane.id for plane in self.session.document.planes]
        return self._plane if self._plane in planes else planes[0]

    def work_on(self, plane: str) -> None:
        """Work on another plane: new bodies lie there, the stage shows it."""
        if plane != self.plane:
            self._plane = plane
            self.use_tool("")
            self.plane_changed.emit()

    def next_plane(self) -> None:
        """Work on the plane after this one, in their order."""
        planes = [plane.id for plane in self.session.document.planes]
        self.work_on(planes[(planes.index(self.plane) + 1) % len(planes)])

    def out_of_sight(self) -> frozenset[int]:
        """Indices of the bodies on show that are hidden by hand."""
        if self.scene is None or not self.hidden:
            return frozenset()
        bodies = self.scene.resolved.document.bodies
        return frozenset(k for k, body in enumerate(bodies) if body.id in self.hidden)

    def shown_plane(self) -> int:
        """Which of the planes on show is being worked on; the first while that is still to come."""
        if self.scene is None:
            return 0
        ids = [plane.id for plane in self.scene.resolved.planes.all]
        return ids.index(self.plane) if self.plane in ids else 0

    def off_plane(self) -> frozenset[int]:
        """Indices of the bodies on show that lie on other planes."""
        if self.scene is None:
            return frozenset()
        planes = self.scene.resolved.planes
        if len(planes.all) < 2:
            return frozenset()
        here = self.shown_plane()
        return frozenset(k for k, of in enumerate(planes.of) if of != here)

    def do(self, edit: Edit) -> bool:
        """Apply an edit and ask for fresh results; False, and trouble says why, if it cannot be."""
        before = self.session.document
        if len(before.planes) > 1:
            edit = OnPlane(edit, self.plane)
        try:
            self.session.do(edit)
        except EditRefusedError as error:
            self._set_trouble(error)
            return False
        if self.session.document is not before:
            if not self._in_gesture:
                self._was_sound, self._in_gesture = self._is_sound, True
                self.lanes_before = self.lanes
            self._changed()
        return True

    def do_once(self, edit: Edit) -> bool:
        """An edit that is an undo step of its own."""
        done = self.do(edit)
        self.finish_gesture()
        return done

    def finish_gesture(self) -> None:
        """The next edit is an undo step of its own."""
        self._in_gesture = False
        self.session.finish_gesture()

    def settle_value(self, refuse: Callable[[str], None]) -> None:
        """Watch what comes of the value that was just given: if the document cannot be read with
        it, it is taken back and ``refuse`` hears why. A loop that cannot close is no such reason:
        the next value may close it."""
        self._settling = (self.session.document, refuse) if self._was_sound else None
        if not self.busy:
            self._settle(self.trouble)

    def _settle(self, trouble: object) -> None:
        if self._settling is None:
            return
        (document, refuse), self._settling = self._settling, None
        if _can_be_read(trouble) or document is not self.session.document:
            return
        assert isinstance(trouble, AnakinemaError)
        self.undo()
        refuse(trouble.advice)

    def cancel_gesture(self) -> None:
        """Take back the gesture under way."""
        before = self.session.document
        self._in_gesture = False
        self.session.cancel_gesture()
        if self.session.document is not before:
            self._changed()

    def undo(self) -> None:
        """Take back the last step."""
        self.lanes_before = self.lanes
        self.session.undo()
        self._changed()

    def redo(self) -> None:
        """Bring back the last step undone."""
        self.lanes_before = self.lanes
        self.session.redo()
        self._changed()

    def _changed(self) -> None:
        if self.done is not None:
            self.done = None
            self.done_changed.emit()
        self.document_changed.emit()
        session, document, earlier = self.session, self.session.document, self.evaluation
        calculator = self._calculator

        def task() -> Iterator[object]:
            for answer in answers(document, earlier, calculator):
                # What is shown is on disk, so that nothing a user has seen can be lost.
                session.wait_kept(KEPT_WITHIN)
                yield answer

        self._side.cancel()
        self._set_busy(True)
        self._worker.request(task)

    def _answered(self, number: int, answer: object) -> None:
        if number != self._worker.newest:
            return
        if isinstance(answer, Drawn):
            self.scene = Scene(answer.resolved, answer.resolved.poses)
            self._is_sound = _can_be_read(answer.error)
            self._set_trouble(answer.error)
            self.scene_changed.emit()
            if answer.error is not None:
                self._settle(answer.error)
        elif isinstance(answer, Evaluation):
            self.evaluation = answer
            self.scene = Scene(answer.resolved, answer.followed.poses)
            self.scene_changed.emit()
            self._is_sound = True
            self._set_trouble(None)
            playback = Playback(answer)
            self.progress = min(max(self.progress, playback.first), playback.last)
            self.evaluated.emit()
            self.playhead_moved.emit()
        elif isinstance(answer, tuple):
            self.lanes = answer[1]
            self.lanes_ready.emit()
        elif isinstance(answer, AnakinemaError):
            self._is_sound = _can_be_read(answer)
            self._set_trouble(answer)
            self._settle(answer)

    def _broke(self, number: int, error: object) -> None:
        if number == self._worker.newest:
            self._set_busy(False)
            self.broke.emit(error)

    def _finished(self, number: int) -> None:
        if number != self._worker.newest:
            return
        self._set_busy(False)
        if self.evaluation is not None and self.trouble is None:
            self.ask_reach()

    def cancel(self) -> None:
        """Stop computing; the last answer stays."""
        if self.busy:
            what = self._worker.doing or "computing"
            self._worker.cancel()
            self._set_busy(False)
            self._set_trouble(f"Stopped while {what}. What is shown is an earlier answer.")

    def _set_busy(self, busy: bool) -> None:
        if busy != self.busy:
            self.busy = busy
            self.busy_changed.emit(busy)

    def _set_trouble(self, trouble: AnakinemaError | str | None) -> None:
        if trouble is not self.trouble:
            self.trouble = trouble
            self.trouble_changed.emit()

    def written(self, path: Path) -> None:
        """Say where something was written, until the next edit."""
        self.done = path.resolve()
        self.done_changed.emit()

    def show_in_folder(self) -> None:
        """Open the folder of what was written last, in the desktop's own way."""
        if self.done is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.done.parent)))

    def dismiss_trouble(self) -> None:
        """The user has read it."""
        self._set_trouble(None)

    def report(self, trouble: AnakinemaError | str) -> None:
        """Show a trouble that a view met."""
        self._set_trouble(trouble)

    # Reach -------------------------------------------------------------------------------

    def ask_reach(self) -> None:
        """Find how far each driver can go from the present pose."""
        evaluation, progress = self.evaluation, self.progress
        if evaluation is None or self.station != "Drive" or not evaluation.is_exact:
            return
        self._side.request(lambda: [driver_ranges(evaluation, progress)])

    def _reached(self, number: int, answer: object) -> None:
        if number == self._side.newest and isinstance(answer, DriverRanges):
            self.reach = answer
            self.reach_ready.emit()
        elif number == self._side.newest and isinstance(answer, TouchLimit | AnakinemaError):
            self._found(answer)

    def ask_touch(self, joint: str, which: Bound) -> None:
        """Set a limit of a joint to where moving it from the pose on show makes bodies touch."""
        evaluation, progress = self.evaluation, self.progress
        if evaluation is None or all(j.id != joint for j in evaluation.document.joints):
            return

        def look() -> Iterator[object]:
            try:
                yield touch_limit(evaluation, joint, which, progress)
            except AnakinemaError as error:
                yield error

        self.touch_stated.emit("Looking where it touches…")
        self._side.request(look)

    def _found(self, answer: TouchLimit | AnakinemaError) -> None:
        if isinstance(answer, AnakinemaError):
            self.touch_stated.emit("")
            self.report(answer)
            return
        if answer.edit is not None:
            self.do(answer.edit)
            self.finish_gesture()
        self.touch_stated.emit(answer.words)

    # The scene ---------------------------------------------------------------------------

    def shown_poses(self) -> np.ndarray | None:
        """(B, 3) poses on show: a trial, else those at the playhead, else as drawn."""
        scene, evaluation = self.scene, self.evaluation
        if scene is None:
            return None
        if self.trial is not None and len(self.trial) == len(scene.poses):
            return self.trial
        if evaluation is not None and evaluation.resolved is scene.resolved:
            return self._poses_of(evaluation)
        return scene.poses

    def _poses_of(self, evaluation: Evaluation) -> np.ndarray:
        """Those at the playhead, found once for all that show them."""
        known = self._posed
        if known is None or known[0] is not evaluation or known[1] != self.progress:
            poses = poses_at(evaluation, self.progress)
            poses.flags.writeable = False
            known = self._posed = evaluation, self.progress, poses
        return known[2]

    def known_names(self) -> list[str]:
        """Names that expressions of the document may use."""
        return list(self.scene.resolved.names) if self.scene is not None else []

    def show_trial(self, poses: np.ndarray | None) -> None:
        """Show poses that are not (yet) those of the document; None ends it."""
        if poses is not self.trial:
            self.trial = poses
            self.trial_changed.emit()

    def rest(self) -> Scene | None:
        """The scene at the start pose, brought there to be worked on by hand; stops the play."""
        self.play(False)
        playback = self.playback
        if playback is not None and self.progress != playback.first:
            self.move_playhead(playback.first)
        return self.drawn_scene()

    def drawn_scene(self) -> Scene | None:
        """The scene at the start pose, whatever pose is on show: what edits are worked out from."""
        if self.scene is not None and self.scene.resolved.source is not self.session.document:
            # An edit has just been made: what the next one is worked out from must know it.
            try:
                self.scene = drawn(self.session.document)
            except AnakinemaError as error:
                self.report(error)
                return None
        return self.scene

    def use_tool(self, tool: str) -> None:
        """Take a stage tool in hand: '' selects and drags, 'join', 'place:...', 'stick', ..."""
        if tool != self.tool:
            self.tool = tool
            self.show_trial(None)
            if tool and self.station != "Assemble":
                self.go_to_station("Assemble")
            self.tool_changed.emit()

    def hold(self, bodies: Iterable[str]) -> None:
        """Hold bodies still for the moment, or let them go if all are held."""
        chosen = frozenset(bodies)
        self.held = self.held - chosen if chosen <= self.held else self.held | chosen
        self.marks_changed.emit()

    def hide(self, bodies: Iterable[str]) -> None:
        """Hide bodies, whoever else is hidden; nothing given shows all."""
        chosen = frozenset(bodies)
        self.hidden = self.hidden | chosen if chosen else frozenset()
        self.marks_changed.emit()

    def show_only(self, bodies: Iterable[str]) -> None:
        """Hide all others."""
        chosen = frozenset(bodies)
        if self.scene is not None:
            every = frozenset(body.id for body in self.scene.resolved.document.bodies)
            self.hidden = every - chosen
            self.marks_changed.emit()

    # Selection, station, playhead --------------------------------------------------------

    def select(self, selection: Selection) -> None:
        """Select one thing everywhere."""
        if selection != self.selection:
            self.selection = selection
            self.selection_changed.emit()

    def go_to_station(self, station: str) -> None:
        """Show another station."""
        if station != self.station:
            self.station = station
            if station != "Assemble":
                self.use_tool("")
            self.station_changed.emit(station)
            self.ask_reach()

    @property
    def is_current(self) -> bool:
        """Whether what is shown belongs to the present document."""
        shown = self.evaluation
        return shown is not None and shown.source is self.session.document

    @property
    def playback(self) -> Playback | None:
        """Playhead arithmetic on the newest motion."""
        return Playback(self.evaluation) if self.evaluation is not None else None

    @property
    def is_playing(self) -> bool:
        """Whether the motion runs."""
        return self._timer.isActive()

    def move_playhead(self, progress: float) -> None:
        """Go to a progress, kept within the motion."""
        playback = self.playback
        if playback is None:
            return
        self.progress = min(max(progress, playback.first), playback.last)
        self.playhead_moved.emit()

    def play(self, on: bool) -> None:
        """Run or stop the motion; at the end it begins anew."""
        playback = self.playback
        if on and playback is not None and playback.duration > 0:
            if self.progress >= playback.last - 1e-9:
                self.move_playhead(playback.first)
            self._clock.restart()
            self._timer.start()
        else:
            self._timer.stop()
            self.ask_reach()
        self.playing_changed.emit(self.is_playing)

    def _tick(self) -> None:
        self.advance(self._clock.restart() / 1000.0 * self.speed)

    def advance(self, seconds: float) -> None:
        """Run the motion on by so much of its own time."""
        playback = self.playback
        if playback is None or not playback.duration > 0:
            # What was playing has no motion any more.
            self.play(False)
            return
        if playback.progress_at(self._time) != self.progress:
            # Somebody moved the playhead, or the motion has changed.
            self._time = playback.time_at(self.progress)
        time = self._time + seconds
        if time >= playback.duration:
            if not self.loop:
                self.move_playhead(playback.last)
                self.play(False)
                return
            time = time % playback.duration
        self._time = time
        self.move_playhead(playback.progress_at(time))

    def stop(self) -> None:
        """End all threads and timers."""
        self._timer.stop()
        self._worker.stop()
        self._side.stop()
        self.changes.stop()
        self.comparison.stop()
        self.pull.stop()
