"""The outline editor by mouse and keys: related edges, two ways, combining, neighbours, places."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QLabel, QLineEdit, QPushButton, QWidget

from anakinema.authoring import all_snaps, outline_keys
from anakinema.authoring.reshaping import elements_of
from anakinema.document import model as m
from anakinema.files.native import read_document
from anakinema.parts.shelf import SHELF
from anakinema.resources import demo_path
from anakinema.ui.fields import QuantityField
from anakinema.units import LENGTH
from tests.ui.test_assemble import CONTROL, LEFT, SHIFT, Hand, refusal


class Pencil(Hand):
    """A hand at the outline editor."""

    @property
    def canvas(self):  # type: ignore[no-untyped-def]
        return self.child(QWidget, "outline_canvas")

    def at(self, x: float, y: float) -> QPoint:
        return self.canvas.to_pixels(x, y).toPoint()

    def tap(self, x: float, y: float, *, more: bool = False) -> None:
        modifier = SHIFT if more else Qt.KeyboardModifier.NoModifier
        self.qtbot.mouseClick(self.canvas, LEFT, modifier, self.at(x, y))

    def pull(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.qtbot.mousePress(self.canvas, LEFT, pos=self.at(*start))
        self.qtbot.mouseMove(self.canvas, self.at(*end))
        self.qtbot.mouseRelease(self.canvas, LEFT, pos=self.at(*end))
        self.settled(self.window)

    @property
    def part(self):  # type: ignore[no-untyped-def]
        return self.bench.session.document.part(self.window.outline.canvas.part)

    def slab(self, index: int = 0):  # type: ignore[no-untyped-def]
        return self.bench.scene.resolved.parts[self.part.id].slabs[index]

    def corners(self) -> np.ndarray:
        """(V, 2) mm of the first slab, as it stands."""
        resolved = self.bench.scene.resolved
        part = resolved.parts[self.part.id].source
        return np.array(
            [
                [resolved.number(part, getattr(v, n), LENGTH) for n in ("x", "y")]
                for v in part.slabs[0].outline.vertices
            ]
        )

    def choose_pick(self, words: str) -> None:
        """Pick something to relate by keyboard alone."""
        self.choose("outline_pick", words)
        button = self.child(QPushButton, "outline_pick_it")
        button.setFocus()
        self.qtbot.keyClick(button, Qt.Key.Key_Space)

    def settled_state(self) -> str:
        return str(self.child(QLabel, "kept_state").text())


@pytest.fixture
def pencil(qtbot, window, settled) -> Pencil:  # type: ignore[no-untyped-def]
    """An empty stage, a new plate begun in its middle."""
    found = Pencil(qtbot, window, settled)
    found.press_button("start_blank")
    window.stage.setFocus()
    found.command("draw")
    assert found.canvas.isVisible() and not window.inspector.isVisible()
    return found


def test_edges_are_related_and_follow_a_dragged_corner(pencil: Pencil, tmp_path) -> None:  # type: ignore[no-untyped-def]
    """The plate is 30 x 20 about the origin; it becomes a rectangle that stays one."""
    pencil.tap(0, -10)
    pencil.press_button("relate_level")
    for one, two in (((0, -10), (15, 0)), ((15, 0), (0, 10)), ((0, 10), (-15, 0))):
        pencil.tap(*one)
        pencil.tap(*two, more=True)
        pencil.press_button("relate_square")
    assert [r.kind for r in pencil.part.relations] == ["parallel", "square", "square", "square"]
    before = pencil.bench.session.document
    pencil.pull((15, 10), (22, 14))
    corners = pencil.corners()
    assert corners[2] == pytest.approx([22, 14], abs=0.5)
    sides = np.roll(corners, -1, axis=0) - corners
    assert all(abs(float(sides[k] @ sides[k - 1])) < 1e-6 for k in range(4))
    pencil.key(Qt.Key.Key_Z, CONTROL)
    assert pencil.bench.session.document == before
    # A typed length is kept too, and the last drag is one step.
    pencil.tap(0, -10)
    pencil.press_button("relate_length")
    pencil.retype("kept_4", "44 mm")
    corners = pencil.corners()
    assert math.dist(corners[0], corners[1]) == pytest.approx(44)
    path = tmp_path / "plate.anakinema"
    assert pencil.bench.save(path)
    assert read_document(path) == pencil.bench.session.document
    pencil.press_button("kept_drop_4")
    assert [r.kind for r in pencil.part.relations] == ["parallel", "square", "square", "square"]
    pencil.press_button("outline_done")
    assert pencil.window.stage.isVisible() and pencil.window.inspector.isVisible()


def test_two_ways_are_drawn_before_one_is_taken(pencil: Pencil) -> None:
    """Corner 3 at stated lengths from two held corners can lie on either side of their line."""
    pencil.choose_pick("corner 4")
    pencil.press_button("corner_drop")
    for corner in ("corner 1", "corner 2"):
        pencil.window.outline.canvas.clear()
        pencil.choose_pick(corner)
        pencil.press_button("relate_held")
    for edge in ("edge 2", "edge 3"):
        pencil.window.outline.canvas.clear()
        pencil.choose_pick(edge)
        pencil.press_button("relate_length")
        if pencil.window.findChild(QPushButton, "way_a") is not None:
            pencil.press_button("way_a")
    assert pencil.settled_state() == "Everything related is set."
    before = pencil.bench.session.document
    pencil.retype("kept_2", "26 mm")
    assert pencil.bench.session.document is before
    assert len(pencil.window.outline.canvas.ghosts) == 2
    first = pencil.canvas.grab().toImage()
    pencil.press_button("way_b")
    tip = pencil.corners()[2]
    assert tip[1] < -10 and math.dist(tip, (15, -10)) == pytest.approx(26)
    assert pencil.canvas.grab().toImage() != first
    pencil.retype("kept_2", "27 mm")
    pencil.press_button("way_none")
    assert math.dist(pencil.corners()[2], (15, -10)) == pytest.approx(26)
    assert pencil.child(QuantityField, "kept_2").text() == "26 mm"
    pencil.retype("kept_2", "500 mm")
    assert "cannot be kept together" in pencil.child(QLabel, "trouble_words").text()
    assert math.dist(pencil.corners()[2], (15, -10)) == pytest.approx(26)


def test_a_typed_number_that_leaves_two_ways_shows_both(pencil: Pencil) -> None:
    """Corner 2 at a kept distance from held corner 1: for one x there are two y."""
    pencil.choose_pick("corner 1")
    pencil.press_button("relate_held")
    pencil.window.outline.canvas.clear()
    pencil.choose_pick("edge 1")
    pencil.press_button("relate_length")
    pencil.window.outline.canvas.clear()
    before = pencil.bench.session.document
    pencil.tap(15, -10)
    pencil.retype("corner_x", "9 mm")
    assert len(pencil.window.outline.canvas.ghosts) == 2
    assert pencil.bench.session.document == before
    pencil.press_button("way_b")
    x, y = pencil.corners()[1]
    assert x == pytest.approx(9) and math.dist((x, y), (-15, -10)) == pytest.approx(30)
    pencil.key(Qt.Key.Key_Z, CONTROL)
    assert pencil.bench.session.document == before


def test_a_fold_is_ghosted_and_not_done(pencil: Pencil) -> None:
    before = pencil.bench.session.document
    pencil.qtbot.mousePress(pencil.canvas, LEFT, pos=pencil.at(15, -10))
    pencil.qtbot.mouseMove(pencil.canvas, pencil.at(-2, 14))
    (ghost,) = pencil.window.outline.canvas.ghosts
    assert not ghost.is_sound and len(ghost.rings) == 1
    assert pencil.bench.session.document is before
    pencil.qtbot.mouseMove(pencil.canvas, pencil.at(20, -12))
    assert pencil.window.outline.canvas.ghosts == ()
    pencil.qtbot.mouseRelease(pencil.canvas, LEFT, pos=pencil.at(20, -12))
    pencil.settled(pencil.window)
    assert pencil.corners()[1] == pytest.approx([20, -12], abs=0.5)
    pencil.tap(-15, -10)
    pencil.retype("corner_x", "25 mm")
    # Said at the field, where the last good value is back.
    reasons = pencil.window.findChildren(QLabel, "refusal")
    assert any(r.isVisible() and "plain closed shape" in r.text() for r in reasons)
    assert pencil.corners()[0] == pytest.approx([-15, -10])
    pencil.retype("corner_x", "-20 mm")
    assert pencil.corners()[0] == pytest.approx([-20, -10])


def test_shapes_are_added_cut_offset_and_mirrored(pencil: Pencil) -> None:
    pencil.press_button("beside_disc")
    pencil.retype("shape_x", "15 mm")
    pencil.choose("outline_key", "plate")
    pencil.press_button("combine_add")
    assert pencil.slab().region.edges.area() == pytest.approx(600 + math.pi * 50, rel=1e-6)
    assert len(pencil.part.slabs) == 1
    pencil.press_button("beside_rectangle")
    pencil.retype("shape_width", "6 mm")
    pencil.retype("shape_height", "6 mm")
    pencil.choose("outline_key", "plate")
    pencil.press_button("combine_cut")
    assert pencil.slab().region.hole_names == ("hole",)
    whole = 600 + math.pi * 50 - 36
    assert pencil.slab().region.polygon.area == pytest.approx(whole, rel=5e-4)
    by = pencil.child(QLineEdit, "offset_by")
    by.clear()
    pencil.qtbot.keyClicks(by, "-10 mm")
    pencil.press_button("offset_outline")
    assert "nothing is left" in pencil.child(QLabel, "trouble_words").text()
    by = pencil.child(QLineEdit, "offset_by")
    by.clear()
    pencil.qtbot.keyClicks(by, "1 mm")
    pencil.press_button("offset_outline")
    grown = 600 + math.pi * 50 + (30 + 30 + 20 + math.pi * 10) + math.pi / 4 * 2 + math.pi / 2
    assert pencil.slab().region.polygon.area + 36 == pytest.approx(grown, rel=5e-4)
    pencil.press_button("mirror_upright")
    xs = pencil.slab().region.polygon.exterior.coords.xy[0]
    assert min(xs) == pytest.approx(-max(xs), abs=1e-6)
    for _ in range(4):
        pencil.key(Qt.Key.Key_Z, CONTROL)
    assert pencil.slab().region.hole_names == ()


def test_holes_and_bent_slots_keep_their_places_and_are_repeated(pencil: Pencil) -> None:
    pencil.retype("slab_top", "8 mm")
    for k, (x, y) in enumerate(((-60, -50), (60, -50), (60, 60), (-60, 60))):
        pencil.choose("outline_key", "plate")
        pencil.choose_pick(f"corner {k + 1}")
        pencil.retype("corner_x", f"{x} mm")
        pencil.retype("corner_y", f"{y} mm")
        pencil.window.outline.canvas.clear()
    pencil.press_button("add_hole")
    pencil.retype("shape_x", "30 mm")
    places = pencil.bench.scene.resolved.parts["plate"].places
    assert places["hole"][:2] == pytest.approx((30, 0))
    count = pencil.child(QWidget, "round_count")
    count.setValue(6)
    pencil.press_button("part_round")
    solid = pencil.bench.scene.resolved.parts["plate"]
    assert len(solid.slabs[0].region.hole_names) == 6
    rim = [math.hypot(*place[:2]) for name, place in solid.places.items() if "hole" in name]
    assert rim == pytest.approx([30] * 6)
    pencil.choose("outline_key", "plate")
    pencil.press_button("add_bent_slot")
    assert "plain closed shape" in pencil.child(QLabel, "trouble_words").text()
    pencil.key(Qt.Key.Key_Z, CONTROL)
    pencil.choose("outline_key", "plate: hole")
    pencil.press_button("outline_drop")
    pencil.choose("outline_key", "plate")
    pencil.press_button("add_bent_slot")
    region = pencil.slab().region
    assert region.hole_names == ("bent_slot",)
    ring = region.edges.radius[region.ring == 1]
    assert set(ring[ring > 0].round(6)) == {4.1, 25.9, 34.1}
    kinds = [relation.kind for relation in pencil.part.relations]
    assert kinds.count("tangent") == 6


def test_a_part_drawn_in_place_follows_its_neighbours_size_and_marks_places(
    qtbot,
    window,
    settled,  # type: ignore[no-untyped-def]
) -> None:
    pencil = Pencil(qtbot, window, settled)
    pencil.press_button("start_blank")
    disc = pencil.place("disc", 40, 10)
    pencil.window.stage.setFocus()
    pencil.command("draw")
    canvas = pencil.window.outline.canvas
    assert [near.title for near in canvas._near] == [disc]
    middle = canvas._near[0].points[0]
    pencil.pull((15, 10), middle)
    assert pencil.corners()[2] == pytest.approx(middle, abs=1e-6)
    pencil.key(Qt.Key.Key_Z, CONTROL)
    pencil.tap(15, 10)
    pencil.child(QuantityField, "corner_x").setFocus()
    part = pencil.bench.session.document.body(disc).part
    pencil.press_button(f"follow_{part}.diameter")
    size = pencil.bench.scene.resolved.names[f"{part}.diameter"].value
    assert pencil.part.slabs[0].outline.vertices[2].x == f"{part}.diameter"
    assert pencil.corners()[2, 0] == pytest.approx(size)
    pencil.key(Qt.Key.Key_Z, CONTROL)
    pencil.tap(0, -10)
    pencil.tap(0, 10, more=True)
    pencil.press_button("place_midway")
    pencil.choose("outline_key", "plate")
    pencil.tap(-15, 0)
    pencil.press_button("place_beside")
    places = pencil.bench.scene.resolved.parts[pencil.part.id].places
    assert places["midway"][1] == pytest.approx(0, abs=1e-9)
    assert places["beside"][0] == pytest.approx(-10, abs=1e-9)
    pencil.retype("kept_1", "8 mm")
    pencil.tap(-15, -10)
    pencil.retype("corner_y", "-16 mm")
    pencil.tap(15, -10)
    pencil.retype("corner_y", "-16 mm")
    places = pencil.bench.scene.resolved.parts[pencil.part.id].places
    assert places["beside"][0] == pytest.approx(-7, abs=1e-9)
    assert places["midway"][1] == pytest.approx(-3, abs=1e-9)


def test_a_place_is_marked_midway_and_off_an_edge_and_joined_to(hand: Hand) -> None:
    """The middle between two holes follows the length; 20 mm further on is typed."""
    link = hand.place("link", 0, 0, length="80 mm")
    other = hand.place("disc", 0, 60)
    hand.window.stage.setFocus()
    hand.command("mark")
    hand.pick(f"{link}.a")
    hand.pick(f"{link}.b")
    hand.key(Qt.Key.Key_Return)
    part = hand.bench.session.document.body(link).part
    places = hand.bench.scene.resolved.parts[part].places
    assert places["mid_a"][:2] == pytest.approx((40, 0))
    hand.choose("mark_first", f"{link}: {hand_words(hand, link, 'b')}")
    hand.retype("mark_along", "-20 mm")
    hand.retype("mark_across", "5 mm")
    hand.press_button("mark_make")
    hand.qtbot.keyClick(hand.window.stage, Qt.Key.Key_Escape)
    assert hand.bench.tool == ""
    hand.bench.select(type(hand.bench.selection)("body", link))
    hand.retype(f"dimension_{part}_length", "100 mm")
    places = hand.bench.scene.resolved.parts[part].places
    assert places["mid_a"][:2] == pytest.approx((50, 0))
    assert places["off_b"][:2] == pytest.approx((80, 5))
    hand.join(f"{other}.centre", f"{link}.mid_a")
    (joint,) = hand.bench.session.document.joints
    assert joint.first.place == "mid_a"
    hand.window.stage.setFocus()
    hand.command("mark")
    hand.pick(f"{link}.a")
    hand.pick(f"{other}.centre")
    hand.retype("mark_along", "nonsense*")
    assert refusal(hand) and "nonsense" not in hand.child(QuantityField, "mark_along").text()
    hand.press_button("mark_cancel")
    assert hand.bench.tool == ""


def hand_words(hand: Hand, body: str, place: str) -> str:
    snaps = all_snaps(hand.bench.scene.resolved, hand.bench.shown_poses())
    return next(s.snap.words for s in snaps if (s.body, s.snap.place.id) == (body, place))


@pytest.fixture
def hand(qtbot, window, settled) -> Hand:  # type: ignore[no-untyped-def]
    """An empty stage."""
    found = Hand(qtbot, window, settled)
    found.press_button("start_blank")
    return found


def one_of_each_shape() -> list[m.Part]:
    """Parts of the shelf until every kind of outline has been seen."""
    known: set[str] = set()
    found = []
    for k, item in enumerate(SHELF):
        part = item.part(f"p{k}")
        shapes = {o.shape for s in part.slabs for o in (s.outline, *(h.outline for h in s.holes))}
        if shapes - known:
            known |= shapes
            found.append(part)
    return found


def test_every_kind_of_outline_opens_in_the_editor(qtbot, window, settled) -> None:  # type: ignore[no-untyped-def]
    """Each outline of each is shown and each of its elements can be picked; nothing breaks."""
    parts = one_of_each_shape()
    document = m.Document(
        parts=tuple(parts), bodies=tuple(m.Body(id=part.id, part=part.id) for part in parts)
    )
    cam = read_document(demo_path("cam-dibber")).part("cam")
    sizes = (("lift", "9 mm"), ("roller", "9 mm"), ("base", "34 mm"))
    known = tuple(m.Parameter(id=name, value=value) for name, value in sizes)
    cam = cam.model_copy(update={"dimensions": known})
    document = document.model_copy(
        update={
            "parts": (*document.parts, cam),
            "bodies": (*document.bodies, m.Body(id="cam", part="cam")),
        }
    )
    window.workbench.session.start(document)
    window.workbench.begin()
    settled(window)
    window.workbench.go_to_station("Assemble")
    editor = window.outline
    window.middle.setCurrentWidget(editor)
    seen = 0
    for body in document.bodies:
        editor.edit_part(body.part, body.id)
        part = document.part(body.part)
        for key in outline_keys(part):
            editor.canvas.key = key
            editor.canvas.clear()
            for element, _ in elements_of(part, key)[:3]:
                editor.canvas.pick(element)
                assert editor.canvas.picks == [element]
                editor.canvas.repaint()
            seen += 1
    assert seen > len(parts) > 6
