"""What the route says of the open work: its name, and a state in words for every station."""

from __future__ import annotations

from anakinema.authoring import diagnostics_of
from anakinema.findings import Evaluation, Outcome, verdict_words
from anakinema.ui.route import Route
from anakinema.ui.workbench import Workbench


class RouteState:
    """Keeps the route true to the workbench."""

    def __init__(self, route: Route, workbench: Workbench) -> None:
        self._route, self._workbench = route, workbench
        route.station_asked.connect(workbench.go_to_station)
        workbench.document_changed.connect(self._show)
        workbench.evaluated.connect(self._show)
        workbench.trouble_changed.connect(self._show)
        workbench.station_changed.connect(self._show)
        self._show()

    def _show(self, *_: object) -> None:
        route, workbench = self._route, self._workbench
        if not workbench.has_document:
            route.name("Anakinema", "")
            route.close_stations()
            return
        session = workbench.session
        where = session.path.name if session.path else "not saved yet"
        route.name(session.document.name, f"{where}, edited" if session.is_changed else where)
        if session.is_changed:
            kept = workbench.journal_trouble or "every step is kept for recovery"
            route.state.setToolTip(f"{where}: not all of it is in the file yet; {kept}.")
        route.open_stations(workbench.station)
        if workbench.evaluation is None:
            for station in route.stations.values():
                station.say("…")
        else:
            self._say(workbench.evaluation)

    def _say(self, evaluation: Evaluation) -> None:
        document, scene = self._workbench.session.document, self._workbench.scene
        stations = self._route.stations
        mobility = evaluation.followed.mobility
        free = len(mobility.undriven)
        parts = len(document.bodies)
        motions = "1 freedom" if mobility.freedoms == 1 else f"{mobility.freedoms} freedoms"
        bodies = "1 body" if parts == 1 else f"{parts} bodies"
        words = f"{bodies}, {motions}" + (f", {free} free" if free else "")
        short = motions
        pressing = diagnostics_of(scene.resolved, evaluation) if scene is not None else ()
        if pressing and pressing[0].kind in ("no frame", "not joined", "twins", "free", "stiff"):
            words, short = pressing[0].words, pressing[0].short
        stations["Assemble"].say(words, short)
        drivers = [driver.title for driver in document.program.drivers]
        stages = len(evaluation.resolved.program.stages)
        many = f"{stages} stage{'s' if stages != 1 else ''}"
        program = f"{' and '.join(drivers[:2])}, {many}"
        stations["Drive"].say(program if drivers else "no driver yet", many if drivers else "")
        # What nothing drives yet cannot be judged; that is no fault.
        bad = (Outcome.FAIL, Outcome.UNKNOWN) if drivers else (Outcome.FAIL,)
        stations["Check"].say(
            verdict_words(evaluation),
            verdict_words(evaluation, short=True),
            bad=evaluation.verdict.outcome in bad,
        )
        stations["Record"].say("poses, parts, files")
