"""Write the ready mechanisms of Fernhill Nursery, a made-up seedling-tray line.

Run ``python tools/make_demos.py``; the files in resources/demo are what ships. Start poses are
laid out by hand near the assembled pose and closed by the kernel.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from anakinema.document.model import Document
from anakinema.document.resolve import resolve
from anakinema.files.native import write_document
from anakinema.mechanism.compile import compile_mechanism
from anakinema.motion.sweep import assemble
from anakinema.resources import FOLDER

Json = dict[str, Any]


def circle(radius: float | str, x: float | str = 0, y: float | str = 0) -> Json:
    return {"shape": "circle", "x": x, "y": y, "radius": radius}


def hull(*rounds: tuple[float | str, float | str, float | str]) -> Json:
    return {"shape": "hull", "rounds": [{"x": x, "y": y, "radius": r} for x, y, r in rounds]}


def box(
    width: float | str,
    height: float | str,
    corner: float = 0,
    x: float | str = 0,
    y: float | str = 0,
) -> Json:
    return {
        "shape": "rectangle", "x": x, "y": y, "width": width, "height": height, "corner": corner,
    }  # fmt: skip


def slab(name: str, bottom: float, top: float, outline: Json, **holes: Json) -> Json:
    return {
        "id": name, "bottom": bottom, "top": top, "outline": outline,
        "holes": [{"id": k, "outline": v} for k, v in holes.items()],
    }  # fmt: skip


def place(name: str, x: float | str = 0, y: float | str = 0, angle: float | str = 0) -> Json:
    return {"id": name, "x": x, "y": y, "angle": angle}


def part(
    name: str, colour: str, places: list[Json], slabs: list[Json], title: str = "", **dims: Any
) -> Json:
    return {
        "id": name, "name": title, "colour": colour, "places": places, "slabs": slabs,
        "dimensions": [{"id": k, "value": v} for k, v in dims.items()],
    }  # fmt: skip


def body(
    name: str, x: float = 0, y: float = 0, angle: float = 0, z: float = 0, **more: Any
) -> Json:
    return {
        "id": name, "part": name, "pose": {"x": x, "y": y, "angle": angle}, "height": z, **more,
    }  # fmt: skip


def side(where: str, *pieces: str) -> Json:
    """``body.place`` and pieces as ``slab`` or ``slab/hole`` or ``slab/hole:edges``."""
    owner, _, spot = where.partition(".")
    out = []
    for piece in pieces:
        names, _, edges = piece.partition(":")
        slab_name, _, hole = names.partition("/")
        entry: Json = {"slab": slab_name}
        if hole:
            entry["hole"] = hole
        if edges:
            entry["edges"] = [int(e) for e in edges.split(",")]
        out.append(entry)
    return {"body": owner, "place": spot, "pieces": out}


def joint(name: str, kind: str, first: Json, second: Json, title: str = "", **more: Any) -> Json:
    return {"id": name, "kind": kind, "name": title, "first": first, "second": second, **more}


def tray_shuttle() -> Json:
    """Crank, slotted rocker, push rod and slide: a quick-return tray pusher."""
    parts = [
        part(
            "frame", "sand",
            [place("crank_bearing"), place("rocker_bearing", 0, "-centres"),
             place("rail", 0, "rail_height")],
            [slab("plate", -8, 0, hull((0, 40, 30), (0, -120, 30))),
             slab("crank_boss", 0, 7, circle(9)),
             slab("rocker_boss", 0, 16, circle(9, 0, "-centres")),
             slab("rocker_stud", 16, 23, circle(8, 0, "-centres")),
             slab("rail", 0, 12, box(330, 34, 4, -110, "rail_height"),
                  groove=hull((-262, "rail_height", 6), (42, "rail_height", 6)))],
        ),
        part(
            "crank", "blue", [place("centre"), place("pin", "radius")],
            [slab("disc", 7, 13, circle("radius + 16 mm")),
             slab("pin", 13, 23, circle(6, "radius"))],
            title="crank disc", radius="46 mm",
        ),
        part(
            "rocker", "clay",
            [place("pivot"), place("slot", 0, 0, 0), place("tip", "length")],
            [slab("arm", 16, 22, hull((0, 0, 17), (176, 0, 14), ("length", 0, 12)),
                  bore=circle(8), slot=hull((64, 0, 6), (176, 0, 6))),
             slab("tip_pin", 22, 31, circle(5, "length"))],
            length="230 mm",
        ),
        part(
            "push_rod", "sage", [place("near"), place("far", "length")],
            [slab("bar", 24, 30, hull((0, 0, 11), ("length", 0, 11)),
                  near=circle(5), far=circle(5, "length"))],
            title="push rod", length="rod",
        ),
        part(
            "pusher", "plum", [place("pin"), place("axis")],
            [slab("tongue", 6, 12, hull((-14, 0, 6), (14, 0, 6))),
             slab("block", 12, 22, box(64, 40, 5)),
             slab("nose", 12, 22, box(34, 12, 3, -47)),
             slab("pin", 22, 31, circle(5))],
        ),
        part(
            "guard_post", "rose", [place("centre")], [slab("post", 0, 34, circle(8))],
            title="guard post",
        ),
    ]  # fmt: skip
    rocker = math.radians(90)
    tip = (230 * math.cos(rocker), -120 + 230 * math.sin(rocker))
    rise = 132 - tip[1]
    pusher_x = tip[0] - math.sqrt(118**2 - rise**2)
    rod = math.degrees(math.atan2(132 - tip[1], pusher_x - tip[0]))
    return {
        "name": "Tray shuttle",
        "note": "Pushes seedling trays onto the conveyor: slow push, quick return.",
        "parameters": [
            {"id": "centres", "value": "120 mm", "note": "crank centre above rocker pivot"},
            {"id": "rail_height", "value": "132 mm", "note": "slide above crank centre"},
            {"id": "rod", "value": "118 mm", "note": "push rod between its pins"},
        ],
        "parts": parts,
        "bodies": [
            body("frame", fixed=True),
            body("guard_post", -150, 92, fixed=True),
            body("crank", 0, 0, 90),
            body("rocker", 0, -120, math.degrees(rocker)),
            body("push_rod", tip[0], tip[1], rod),
            body("pusher", pusher_x, 132),
        ],
        "joints": [
            joint("crank_bearing", "revolute", side("frame.crank_bearing", "crank_boss"),
                  side("crank.centre", "disc")),
            joint("rocker_bearing", "revolute",
                  side("frame.rocker_bearing", "rocker_stud"), side("rocker.pivot", "arm/bore")),
            joint("crank_pin", "pin_in_slot", side("rocker.slot", "arm/slot:1,3"),
                  side("crank.pin", "pin"), title="crank pin in slot",
                  limits={"least": "64 mm", "greatest": "176 mm"}),
            joint("rod_pin", "revolute", side("rocker.tip", "tip_pin"),
                  side("push_rod.near", "bar/near"), title="rod on rocker"),
            joint("pusher_pin", "revolute", side("push_rod.far", "bar/far"),
                  side("pusher.pin", "pin"), title="rod on pusher"),
            joint("slide", "prismatic", side("frame.rail", "rail/groove"),
                  side("pusher.axis", "tongue"), title="pusher on rail"),
        ],
        "program": {
            "drivers": [
                {"id": "crank", "joint": "crank_bearing", "start": "90 deg", "rate": "30 rpm"}
            ],
            "stages": [{"moves": [{"driver": "crank", "to": "450 deg"}], "count": 720}],
        },
        "requirements": [
            {"kind": "travel", "id": "stroke", "name": "Pusher travel", "joint": "slide",
             "least": "170 mm"},
            {"kind": "gap", "id": "post_gap", "name": "Gap rod to guard post",
             "first": "push_rod", "second": "guard_post", "least": "3 mm", "comfort": "5 mm"},
            {"kind": "transmission", "id": "push_angle", "name": "Transmission angle, rod",
             "joint": "rod_pin", "first_place": "pivot", "second_place": "far",
             "least": "40 deg", "comfort": "45 deg"},
            {"kind": "time_ratio", "id": "quick_return", "name": "Return quicker than push",
             "joint": "slide", "least": 1.4},
            {"kind": "reserve", "id": "slot_reserve", "name": "Reserve at the slot ends",
             "joint": "crank_pin", "least": "2 mm"},
        ],
    }  # fmt: skip


def vent_opener() -> Json:
    """Four-bar that swings a roof vent; its lever has limits, its link nearly meets a post."""
    a, b, c, d = 60.0, 140.0, 110.0, 150.0
    theta = math.radians(50)
    pin = (a * math.cos(theta), a * math.sin(theta))
    span = math.hypot(d - pin[0], pin[1])
    lean = math.acos((span**2 + b**2 - c**2) / (2 * span * b))
    link = math.atan2(-pin[1], d - pin[0]) + lean
    top = (pin[0] + b * math.cos(link), pin[1] + b * math.sin(link))
    lever = math.atan2(top[1], top[0] - d)
    return {
        "name": "Vent opener",
        "note": "A motor arm swings the roof vent through a link and a lever.",
        "parameters": [
            {"id": "arm", "value": "60 mm"},
            {"id": "link", "value": "140 mm"},
            {"id": "lever", "value": "110 mm"},
            {"id": "base", "value": "2.5*arm", "note": "between the two fixed pins"},
        ],
        "parts": [
            part(
                "bracket", "sand",
                [place("motor"), place("hinge", "base")],
                [slab("plate", -8, 0, hull((0, 0, 24), ("base", 0, 24), ("base/2", -30, 12))),
                 slab("motor_shaft", 0, 8, circle(7)),
                 slab("hinge_pin", 0, 14, circle(6, "base"))],
            ),
            part(
                "motor_arm", "blue", [place("shaft"), place("pin", "arm")],
                [slab("bar", 1, 7, hull((0, 0, 15), ("arm", 0, 11)), bore=circle(7)),
                 slab("pin", 7, 14, circle(5, "arm"))],
                title="motor arm",
            ),
            part(
                "link", "sage", [place("near"), place("far", "link")],
                [slab("bar", 8, 13, hull((0, 0, 10), ("link", 0, 10)), near=circle(5)),
                 slab("pin", 2, 8, circle(5, "link"))],
            ),
            part(
                "vent_lever", "clay", [place("hinge"), place("pin", "lever")],
                [slab("bar", 1, 7, hull((0, 0, 14), ("lever", 0, 11)), bore=circle(6),
                      eye=circle(5, "lever")),
                 slab("vent", 14, 20, hull((0, 0, 9), (-78, 62, 7)))],
                title="vent lever",
            ),
            part("post", "rose", [place("centre")], [slab("post", 0, 22, circle(9))],
                 title="glazing post"),
        ],
        "bodies": [
            body("bracket", fixed=True),
            body("post", 66, 112.5, fixed=True),
            body("motor_arm", 0, 0, math.degrees(theta)),
            body("link", pin[0], pin[1], math.degrees(link)),
            body("vent_lever", d, 0, math.degrees(lever)),
        ],
        "joints": [
            joint("motor", "revolute", side("bracket.motor", "motor_shaft"),
                  side("motor_arm.shaft", "bar/bore"), title="motor shaft"),
            joint("arm_pin", "revolute", side("motor_arm.pin", "pin"),
                  side("link.near", "bar/near"), title="arm to link"),
            joint("lever_pin", "revolute", side("link.far", "pin"),
                  side("vent_lever.pin", "bar/eye"), title="link to lever"),
            joint("hinge", "revolute", side("bracket.hinge", "hinge_pin"),
                  side("vent_lever.hinge", "bar/bore"), title="vent hinge",
                  limits={"least": "50 deg", "greatest": "135 deg", "rest": "60 deg"}),
        ],
        "program": {
            "drivers": [
                {"id": "motor", "joint": "motor", "start": "50 deg", "rate": "12 deg/s"}
            ],
            "stages": [{"moves": [{"driver": "motor", "to": "148 deg"}], "step": "0.5 deg"}],
            "there_and_back": True,
        },
        "requirements": [
            {"kind": "travel", "id": "swing", "name": "Vent swing", "joint": "hinge",
             "least": "45 deg"},
            {"kind": "gap", "id": "post_gap", "name": "Gap link to glazing post",
             "first": "link", "second": "post", "least": "2 mm", "comfort": "6 mm"},
            {"kind": "transmission", "id": "push", "name": "Transmission angle, lever",
             "joint": "lever_pin", "first_place": "near", "second_place": "hinge",
             "least": "35 deg"},
            {"kind": "reserve", "id": "hinge_reserve", "name": "Reserve at the hinge limits",
             "joint": "hinge", "least": "3 deg"},
        ],
    }  # fmt: skip


def side_rods() -> Json:
    """Three equal cranks on one bar: redundant, and run through their change points."""
    cranks = []
    bodies = [body("bed", fixed=True)]
    joints = []
    for k, name in enumerate(("left", "middle", "right")):
        x = 110 * k
        cranks.append(place(f"bearing_{k + 1}", x))
        bodies.append(
            {"id": f"crank_{name}", "part": "crank", "name": f"{name} crank", "height": 0,
             "pose": {"x": x, "y": 0, "angle": 0}}
        )  # fmt: skip
        joints.append(
            joint(f"bearing_{name}", "revolute", side(f"bed.bearing_{k + 1}", f"stud_{k + 1}"),
                  side(f"crank_{name}.centre", "arm/bore"), title=f"{name} bearing")
        )  # fmt: skip
        joints.append(
            joint(f"pin_{name}", "revolute", side(f"crank_{name}.pin", "pin"),
                  side(f"bar.eye_{k + 1}", f"bar/eye_{k + 1}"), title=f"{name} pin")
        )  # fmt: skip
    bodies.append(body("bar", 40, 0, 0))
    return {
        "name": "Side rods",
        "note": "A walking bar that lifts and carries trays: three equal cranks, one bar.",
        "parameters": [{"id": "throw", "value": "40 mm"}],
        "parts": [
            part("bed", "sand", cranks,
                 [slab("plate", -8, 0, box(290, 64, 10, 110, 0)),
                  *(slab(f"stud_{k + 1}", 0, 7, circle(8, 110 * k)) for k in range(3))]),
            part("crank", "blue", [place("centre"), place("pin", "throw")],
                 [slab("arm", 1, 7, hull((0, 0, 16), ("throw", 0, 12)), bore=circle(8)),
                  slab("pin", 7, 14, circle(6, "throw"))]),
            part("bar", "clay", [place(f"eye_{k + 1}", 110 * k) for k in range(3)],
                 [slab("bar", 8, 14, hull((0, 0, 13), (220, 0, 13)),
                       **{f"eye_{k + 1}": circle(6, 110 * k) for k in range(3)})],
                 title="walking bar"),
            part("stop", "rose", [place("centre")], [slab("post", 0, 16, circle(6))],
                 title="tray stop"),
        ],
        "bodies": [*bodies, body("stop", 292, 0, fixed=True)],
        "joints": joints,
        "program": {
            "drivers": [
                {"id": "left_crank", "joint": "bearing_left", "start": "0 deg", "rate": "20 rpm"}
            ],
            "stages": [{"moves": [{"driver": "left_crank", "to": "360 deg"}], "step": "0.5 deg"}],
        },
        "requirements": [
            {"kind": "gap", "id": "stop_gap", "name": "Gap bar to tray stop", "first": "bar",
             "second": "stop", "least": "10 mm"},
            {"kind": "transmission", "id": "bar_angle", "name": "Transmission angle, right pin",
             "joint": "pin_right", "first_place": "centre", "second_place": "eye_1",
             "least": "10 deg"},
        ],
    }  # fmt: skip


def water_pump() -> Json:
    """A plain crank slider: the plunger that doses water to the trays."""
    reach = 30 * math.cos(math.radians(60)) + math.sqrt(
        95**2 - (30 * math.sin(math.radians(60))) ** 2
    )
    lean = math.degrees(-math.asin(30 * math.sin(math.radians(60)) / 95))
    return {
        "name": "Water pump",
        "note": "Doses water to each tray: crank, connecting rod and plunger.",
        "parameters": [
            {"id": "throw", "value": "30 mm"},
            {"id": "rod", "value": "3*throw + 5 mm"},
        ],
        "parts": [
            part("housing", "sand", [place("bearing"), place("bore", 0, 0)],
                 [slab("base", -8, 0, box(240, 70, 8, 60, 0)),
                  slab("shaft", 0, 7, circle(9)),
                  slab("upper_wall", 0, 7, box(80, 10, 2, 118, 21)),
                  slab("lower_wall", 0, 7, box(80, 10, 2, 118, -21)),
                  slab("head", 0, 7, box(10, 32, 2, 172, 0))]),
            part("crank", "blue", [place("centre"), place("pin", "throw")],
                 [slab("web", 1, 7, hull((0, 0, 16), ("throw", 0, 11)), bore=circle(9)),
                  slab("pin", 7, 14, circle(5, "throw"))]),
            part("rod", "sage", [place("big_end"), place("small_end", "rod")],
                 [slab("bar", 8, 13, hull((0, 0, 10), ("rod", 0, 8)), big=circle(5),
                       small=circle(4, "rod"))], title="connecting rod"),
            part("plunger", "clay", [place("pin"), place("axis"), place("side", 0, 16)],
                 [slab("body", 1, 7, box(50, "bore_width - 2*play", 3, 14)),
                  slab("pin", 7, 14, circle(4))],
                 bore_width="32 mm", play="0.5 mm"),
        ],
        "bodies": [
            body("housing", fixed=True),
            body("crank", 0, 0, 60),
            body("rod", 30 * math.cos(math.radians(60)), 30 * math.sin(math.radians(60)), lean),
            body("plunger", reach, 0),
        ],
        "joints": [
            joint("main_bearing", "revolute", side("housing.bearing", "shaft"),
                  side("crank.centre", "web/bore"), title="main bearing"),
            joint("crank_pin", "revolute", side("crank.pin", "pin"),
                  side("rod.big_end", "bar/big"), title="crank pin"),
            joint("plunger_pin", "revolute", side("rod.small_end", "bar/small"),
                  side("plunger.pin", "pin"), title="plunger pin"),
            joint("cylinder", "prismatic", side("housing.bore"),
                  side("plunger.axis"), title="plunger in cylinder"),
        ],
        "program": {
            "drivers": [
                {"id": "crank", "joint": "main_bearing", "start": "60 deg", "rate": "60 rpm"}
            ],
            "stages": [{"moves": [{"driver": "crank", "to": "420 deg"}], "step": "1 deg"}],
        },
        "requirements": [
            {"kind": "travel", "id": "stroke", "name": "Plunger stroke", "joint": "cylinder",
             "least": "60 mm - 0.001 mm", "greatest": "60.5 mm"},
            {"kind": "gap", "id": "head_gap", "name": "Play of the plunger in its housing",
             "first": "plunger", "second": "housing", "least": "0.4 mm", "comfort": "0.45 mm"},
            {"kind": "transmission", "id": "rod_angle", "name": "Rod square to the cylinder wall",
             "joint": "plunger_pin", "first_place": "big_end", "second_place": "side",
             "least": "65 deg"},
        ],
    }  # fmt: skip


def transfer_arm() -> Json:
    """Two drivers, one after the other and together, and a drip tray hung free on its pin."""
    shoulder, elbow = math.radians(60), math.radians(60 - 80)
    knee = (150 * math.cos(shoulder), 150 * math.sin(shoulder))
    hand = (knee[0] + 120 * math.cos(elbow), knee[1] + 120 * math.sin(elbow))
    return {
        "name": "Transfer arm",
        "note": "Carries a tray from the bench to the rack; the drip tray hangs free.",
        "parameters": [{"id": "upper", "value": "150 mm"}, {"id": "fore", "value": "0.8*upper"}],
        "parts": [
            part("column", "sand", [place("shoulder")],
                 [slab("foot", -8, 0, box(90, 70, 8, 0, -12)),
                  slab("shaft", 0, 9, circle(10))]),
            part("upper_arm", "blue", [place("shoulder"), place("elbow", "upper")],
                 [slab("bar", 2, 8, hull((0, 0, 18), ("upper", 0, 14)), bore=circle(10)),
                  slab("pin", 8, 16, circle(7, "upper"))], title="upper arm"),
            part("fore_arm", "sage", [place("elbow"), place("hand", "fore")],
                 [slab("bar", 9, 15, hull((0, 0, 14), ("fore", 0, 10)), bore=circle(7)),
                  slab("pin", 15, 24, circle(5, "fore"))], title="forearm"),
            part("drip_tray", "ochre", [place("eye")],
                 [slab("hanger", 16, 22, hull((0, 0, 9), (0, -40, 7)), eye=circle(5)),
                  slab("tray", 16, 22, box(84, 12, 3, 0, -48))], title="drip tray"),
            part("rack", "rose", [place("corner")],
                 [slab("post", 0, 30, box(14, 120, 3))], title="rack post"),
        ],
        "bodies": [
            body("column", fixed=True),
            body("rack", -168, 34, fixed=True),
            body("upper_arm", 0, 0, 60),
            body("fore_arm", knee[0], knee[1], -20),
            body("drip_tray", hand[0], hand[1], 0),
        ],
        "joints": [
            joint("shoulder", "revolute", side("column.shoulder", "shaft"),
                  side("upper_arm.shoulder", "bar/bore"),
                  limits={"least": "10 deg", "greatest": "170 deg"}),
            joint("elbow", "revolute", side("upper_arm.elbow", "pin"),
                  side("fore_arm.elbow", "bar/bore"),
                  limits={"least": "-140 deg", "greatest": "140 deg"}),
            joint("tray_pin", "revolute", side("fore_arm.hand", "pin"),
                  side("drip_tray.eye", "hanger/eye"), title="tray pin"),
        ],
        "program": {
            "drivers": [
                {"id": "shoulder", "joint": "shoulder", "start": "60 deg", "rate": "40 deg/s"},
                {"id": "elbow", "joint": "elbow", "start": "-80 deg", "rate": "60 deg/s"},
            ],
            "stages": [
                {"moves": [{"driver": "shoulder", "to": "110 deg"}], "step": "1 deg"},
                {"moves": [{"driver": "elbow", "to": "60 deg"},
                           {"driver": "shoulder", "to": "125 deg"}], "step": "1 deg"},
            ],
        },
        "requirements": [
            {"kind": "gap", "id": "rack_gap", "name": "Gap drip tray to rack post",
             "first": "drip_tray", "second": "rack", "least": "5 mm", "comfort": "8 mm"},
            {"kind": "reserve", "id": "shoulder_reserve", "name": "Reserve at the shoulder",
             "joint": "shoulder", "least": "10 deg"},
        ],
    }  # fmt: skip


DEMOS = {
    "tray-shuttle": tray_shuttle,
    "vent-opener": vent_opener,
    "side-rods": side_rods,
    "water-pump": water_pump,
    "transfer-arm": transfer_arm,
}


def closed(data: Json) -> Document:
    """The document with its start pose assembled, rounded to a tenth of a micrometre."""
    document = Document.model_validate({"format": "anakinema-mechanism", "version": 1, **data})
    poses = assemble(compile_mechanism(resolve(document))).poses
    bodies = []
    for item, (x, y, angle) in zip(document.bodies, poses, strict=True):
        values = np.round([x, y, math.degrees(angle)], 4) + 0.0
        pose = {"x": float(values[0]), "y": float(values[1]), "angle": float(values[2])}
        bodies.append(item.model_copy(update={"pose": type(item.pose)(**pose)}))
    return document.model_copy(update={"bodies": tuple(bodies)})


def main() -> None:
    for name, build in DEMOS.items():
        write_document(closed(build()), FOLDER / "demo" / f"{name}.anakinema")


if __name__ == "__main__":
    main()
