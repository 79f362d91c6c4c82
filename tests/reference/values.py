"""Published and recomputed check values, each with its source.

R: recomputed from first principles (closed forms); M: recalled from the named text, from memory,
not looked up. Where both are given they agree to the recalled digits.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Reference:
    """A check value: inputs and expected numbers by name, an absolute tolerance, the source."""

    name: str
    inputs: dict[str, float]
    expected: dict[str, float]
    tolerance: float
    source: str


NORTON = "R; M: R. L. Norton, Design of Machinery"

VALUES: tuple[Reference, ...] = (
    Reference(
        "four-bar open", {"a": 40, "b": 120, "c": 80, "d": 100, "theta_deg": 40},
        {"theta3_deg": 20.2978828, "theta4_deg": 57.3248801, "bx": 143.189988, "by": 67.3396237,
         "omega3": -4.12091442, "omega4": 6.99798524, "alpha3": 296.089193, "alpha4": 470.13353,
         "vbx": -471.241693, "vby": 302.2429, "abx": -33773.7064, "aby": 17007.3192},
        5e-5, f"{NORTON}, position, velocity and acceleration examples (recalled 20.298, 57.325,"
        " -4.121, 6.998, 296.089, 470.134)"),
    Reference(
        "four-bar crossed", {"a": 40, "b": 120, "c": 80, "d": 100, "theta_deg": 40},
        {"theta3_deg": -60.9779668, "theta4_deg": -98.0049641, "omega3": -9.2587723,
         "omega4": -20.377672, "alpha3": 597.6224, "alpha4": 423.578063},
        5e-6, f"{NORTON}, same example, crossed circuit (recalled -60.98, -98.01)"),
    Reference(
        "rocker dead centres", {"a": 40, "b": 120, "c": 80, "d": 100},
        {"least_at_deg": 24.146848, "least_deg": 54.9003678, "greatest_at_deg": 231.317813,
         "greatest_deg": 128.682187, "time_ratio": 1.35557333},
        1e-6, "R: crank and coupler in line, triangle A0-B-B0 with sides b+a and b-a"),
    Reference(
        "transmission angle", {"a": 40, "b": 120, "c": 80, "d": 100},
        {"at_0_deg": 26.3843297, "at_180_deg": 86.4166783},
        1e-6, "R; formula: R. S. Hartenberg and J. Denavit, Kinematic Synthesis of Linkages, 1964"),
    Reference("input limit b+c", {"a": 80, "b": 60, "c": 70, "d": 120}, {"limit_deg": 78.2802397},
              1e-6, f"R; M: toggle position formula, {NORTON[6:]}"),
    Reference("input limit b-c", {"a": 100, "b": 110, "c": 45, "d": 50}, {"limit_deg": 34.1572225},
              1e-6, f"R; M: toggle position formula, {NORTON[6:]}"),
    Reference("input limits both", {"a": 70, "b": 30, "c": 80, "d": 90},
              {"outer_deg": 85.9039562, "inner_deg": 33.5573098}, 1e-6,
              f"R; M: toggle position formula, {NORTON[6:]}"),
    Reference(
        "in-line crank slider", {"r": 40, "l": 120, "offset": 0, "theta_deg": 60, "omega": 25,
                                 "alpha": 15},
        {"x": 134.891253, "beta_deg": -16.7786549, "rod_omega": -4.3519414, "v": -1016.78108,
         "a": -8955.94276},
        1e-5, "R: x = r cos t + sqrt(l² - (r sin t - y0)²), differentiated"),
    Reference(
        "offset crank slider", {"r": 40, "l": 120, "offset": -20, "theta_deg": 60, "omega": -30,
                                "alpha": 0},
        {"x": 126.838005, "x_left": -86.8380052, "v": 1346.09329, "a": -6305.90754,
         "rod_omega": 5.61597906},
        1e-5, f"{NORTON}, slider-crank example (recalled 126.84, -86.84, 5.616)"),
    Reference(
        "offset crank slider strokes", {"r": 40, "l": 120, "offset": -20},
        {"far_at_deg": 352.819244, "far": 158.745079, "near_at_deg": 165.522488,
         "near": 77.4596669, "stroke": 81.2854117, "time_ratio": 1.08450051},
        1e-6, "R: stroke = sqrt((l+r)² - y0²) - sqrt((l-r)² - y0²)"),
    Reference("crank slider that cannot turn", {"r": 40, "l": 50, "offset": 20},
              {"low_deg": -48.5903779, "high_deg": 228.5903779}, 1e-6,
              "R: full rotation needs l - r >= |y0|; limits where r sin t - y0 = ±l"),
    Reference(
        "inverted crank slider", {"d": 6, "a": 2, "c": 4, "theta_deg": 30},
        {"distance": 1.79315094, "left_deg": 142.667106, "right_deg": -169.040677},
        1e-6, f"{NORTON}, problem table, inverted slider-crank row a (recalled 142.67, 1.793)"),
    Reference(
        "Whitworth quick return", {"r": 50, "d": 20},
        {"time_ratio": 1.70995278, "least_speed_ratio": 0.714285714,
         "greatest_speed_ratio": 1.66666667, "phi_45_deg": 57.4337143, "ratio_225": 1.20669645},
        1e-7, "R: (180 + 2 asin(d/r)) / (180 - 2 asin(d/r)); construction in Hartenberg and"
        " Denavit"),
    Reference(
        "crank shaper", {"r": 30, "d": 100},
        {"half_swing_deg": 17.4576031, "time_ratio": 1.48130759, "fast": 0.428571429,
         "slow": 0.230769231},
        1e-7, "R: half swing asin(r/d)"),
    Reference("driven boom", {"ob": 400, "op": 150},
              {"at_300_deg": 39.5712195, "at_400_deg": 79.1930771, "at_500_deg": 124.228866,
               "least": 250, "greatest": 550}, 1e-6, "R: cosine rule on triangle B-O-P"),
    Reference("antiparallel", {"a": 40, "d": 100, "theta_deg": 40},
              {"theta4_deg": -80.680084, "theta3_deg": -40.680084}, 1e-6, "R: circle intersection"),
    Reference("scotch yoke", {"r": 35, "theta_deg": 50, "omega": 12, "alpha": 5},
              {"x": 22.4975663, "v": -321.738666, "a": -3373.70733, "stroke": 70}, 1e-5,
              "R: x = r cos t"),
    Reference("bar past a post", {"half": 6, "post_x": 70, "post_y": 40, "post_r": 5},
              {"at_15_deg": 9.51969989, "first_deg": 21.9030886, "last_deg": 37.586674}, 1e-6,
              "R: point to segment distance less both radii"),
    Reference("thin blade", {"half": 0.2, "reach": 99.5, "post_r": 0.15},
              {"first_deg": 89.7984566}, 1e-6, "R: 90° - asin(0.35 / 99.5)"),
    Reference(
        "coupler point", {"a": 40, "b": 120, "c": 80, "d": 100, "theta_deg": 40, "reach": 60,
                          "angle_deg": 30},
        {"x": 68.9695526, "y": 71.8740614, "vx": -452.555663, "vy": 608.098963,
         "ax": -33855.8977, "ay": -5045.5532},
        5e-5, "R: point at 60 from A, 30° from the coupler line, omega 25, alpha 15"),
    Reference(
        "coupler curve extremes", {"a": 40, "b": 120, "c": 80, "d": 100, "reach": 60,
                                   "angle_deg": 30},
        {"left": -18.2669287, "right": 71.6427415, "low": 19.9393406, "high": 85.2996487,
         "near_60_60": 6.45212309, "near_at_deg": 359.0445},
        2e-5, "R: 0.01° sampling, polished"),
    Reference(
        "elliptic trammel", {"pq": 60, "pt": 30, "phi_deg": 35},
        {"px": 49.1491227, "qy": -34.4145862, "tx": 73.723684, "ty": 17.2072931},
        1e-6, "R: T = (90 cos, 30 sin), an ellipse"),
    Reference(
        "Oldham coupling", {"offset": 12, "theta_deg": 25},
        {"mx": 9.85672566, "my": 4.59626666, "first": 10.8756934, "second": 5.07141914},
        1e-6, "R: middle piece on a circle of the offset's diameter, twice as fast"),
    Reference("pantograph", {"x": 37, "y": 21}, {"qx": 111, "qy": 63}, 1e-7,
              "R: parallelogram, scale 120/40"),
    Reference(
        "Peaucellier-Lipkin", {"long": 100, "side": 40, "crank": 36, "phi_deg": 30},
        {"px": 116.666667, "py": 31.2607391, "limit_deg": 67.1146195},
        1e-6, "R; M: Peaucellier 1864, Lipkin 1871, in A. B. Kempe, How to Draw a Straight Line"),
    Reference(
        "Chebyshev linkage", {"ground": 100, "crank": 125, "coupler": 50},
        {"y_left": 100.0, "y_middle": 100.0, "y_right": 100.0, "band": 0.2438433},
        1e-6, "R: passes (0, 100), (50, 100), (100, 100) exactly; circle intersections"),
    Reference(
        "Watt linkage", {"arm": 50, "coupler": 40},
        {"x_at_5": 0.0001578335, "x_at_10": 0.005211189, "x_at_20": 0.1924775},
        1e-6, "R: circle intersections"),
    Reference(
        "Hoeken linkage", {"crank": 40, "ground": 80, "coupler": 100},
        {"x_180": 80, "y_180": 160, "x_90": 160, "y_90": 160, "x_135": 121.890233,
         "y_135": 160.373704, "x_0": 80, "y_0": 195.959179, "highest": 160.390149},
        1e-6, "R: circle intersections; proportions as in Norton, Table 3-1"),
    Reference(
        "planetary, arm and sun driven", {"sun": 40, "planet": 20, "ring": 80, "arm_rpm": 200,
                                          "sun_rpm": 100},
        {"ring_rpm": 250, "planet_rpm": 400}, 1e-7,
        "R; M: Norton, planetary example (recalled arm 200 cw, sun 100 cw gives ring 250 cw);"
        " R. Willis: (wR - wA) / (wS - wA) = -zS / zR"),
    Reference(
        "planetary, ring held", {"sun": 40, "planet": 20, "ring": 80, "sun_rpm": 100},
        {"arm_rpm": 33.3333333}, 1e-6, "R: 1 + zR/zS = 3, Willis"),
    Reference(
        "planetary, arm held", {"sun": 40, "planet": 20, "ring": 80, "sun_rpm": 100},
        {"ring_rpm": -50}, 1e-7, "R: -zS/zR, Willis"),
    Reference(
        "Ferguson's paradox", {"fixed": 100, "idler": 20},
        {"free_99": -0.0101010101, "free_100": 0.0, "free_101": 0.0099009901}, 1e-8,
        "R: 1 - 100/z turns per turn of the arm; M: Ferguson's paradox, in Norton"),
    Reference(
        "rack and pinion", {"module": 2, "teeth": 20, "turn_deg": 75},
        {"per_turn": 125.663706, "travel": 26.1799388}, 1e-6, "R: pi m z a turn"),
    Reference(
        "screw", {"lead": 4, "handle": 150},
        {"advantage": 235.619449}, 1e-6,
        "R: 2 pi 150 / 4, travel of the handle over that of the nut"),
    Reference("gear pair 20/40", {"module": 2, "first": 20, "second": 40},
              {"centres": 60, "tip_1": 44, "tip_2": 84, "root_1": 35, "base_1": 37.5877048,
               "base_2": 75.1754097, "contact_ratio": 1.63518596},
              1e-6, "R: profile of ISO 53 (from memory), 20 deg, no shift"),
    Reference("gear pair 18/54", {"module": 1.5, "first": 18, "second": 54},
              {"centres": 54, "tip_1": 30, "tip_2": 84, "root_1": 23.25, "base_1": 25.3717008,
               "base_2": 76.1151023, "contact_ratio": 1.64875501},
              1e-6, "R: profile of ISO 53 (from memory), 20 deg, no shift"),
    Reference("gear pair 25/25", {"module": 3, "first": 25, "second": 25},
              {"centres": 75, "tip_1": 81, "tip_2": 81, "root_1": 67.5, "base_1": 70.4769466,
               "base_2": 70.4769466, "contact_ratio": 1.61165124},
              1e-6, "R: profile of ISO 53 (from memory), 20 deg, no shift"),
    Reference("gear pair 17/100", {"module": 1, "first": 17, "second": 100},
              {"centres": 58.5, "tip_1": 19, "tip_2": 102, "root_1": 14.5, "base_1": 15.9747746,
               "base_2": 93.9692621, "contact_ratio": 1.68365537},
              1e-6, "R: profile of ISO 53 (from memory), 20 deg, no shift"),
    Reference("involute function", {},
              {"inv_20": 0.0149043839, "inv_14_5": 0.00554484282, "inv_25": 0.0299753452}, 1e-9,
              "R: tan a - a"),
    Reference("undercut limit", {}, {"at_20": 17.0972643, "at_14_5": 31.9029403,
                                     "at_25": 11.1978199}, 1e-6, "R: 2 / sin² a, full depth"),
    Reference("shifted pair 12/24", {"module": 3, "x1": 0.6, "x2": 0.36},
              {"centres": 56.4998697}, 1e-6,
              "R: inv w = 2 tan a (x1 + x2) / (z1 + z2) + inv a, no backlash"),
    Reference("two rectangles", {"x": 50, "y": 20, "first_deg": 30, "second_deg": -15},
              {"distance": 19.1591346}, 1e-6, "R: vertex to edge, all pairs"),
)  # fmt: skip

MOBILITY_SOURCE = (
    "R: rank of the constraint equations, checked by numpy; counts: M. Grübler,"
    " Getriebelehre, 1917 (formula from memory)"
)


def reference(name: str) -> Reference:
    """The entry of that name."""
    return next(value for value in VALUES if value.name == name)
