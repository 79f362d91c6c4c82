"""Run every benchmark and print it beside the number to reach."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable

import anakinema  # noqa: F401  (sets the linear algebra's threads before numpy comes)
from bench import (
    asking,
    clearance,
    contact,
    depth,
    drag,
    growth,
    kinematics,
    paper,
    remedies,
    space,
    start,
    window,
)

BENCHES = {
    "ten_bar": kinematics.ten_bar_against_fsolve,
    "four_bar": kinematics.four_bar_against_closed_form,
    "steps": kinematics.growth_with_steps,
    "bodies": growth.growth_with_bodies,
    "memory": growth.memory_of_a_chain,
    "edit": kinematics.edits_on_the_tray_shuttle,
    "head": kinematics.edits_on_the_transfer_head,
    "clearance": clearance.certified_against_naive,
    "teeth": clearance.wheels_out_of_mesh,
    "contact": contact.step_against_rod,
    "look": contact.edits_of_what_touches,
    "dial": contact.dial_without_play,
    "remedies": remedies.of_the_tray_shuttle,
    "sheets": paper.sheets_of_the_transfer_head,
    "drag": drag.chain_drag,
    "links": drag.drag_of_many_links,
    "frame": window.drag_frame,
    "stage": window.stage_repaint,
    "playing": window.playing,
    "evaluating": window.playing_while_evaluating,
    "depth": depth.frames,
    "space": space.edits_on_the_boom,
    "asking": asking.longest_without_asking,
    "start": start.window_against_imports,
}


def main(wanted: list[str]) -> None:
    """Run the named benchmarks, or all."""
    chosen: dict[str, Callable[[], list[str]]] = {
        name: run for name, run in BENCHES.items() if not wanted or name in wanted
    }
    for name, run in chosen.items():
        begin = time.perf_counter()
        for line in run():
            print(f"{name:10s} {line}")
        print(f"{'':10s} (took {time.perf_counter() - begin:.1f} s)")


if __name__ == "__main__":
    main(sys.argv[1:])
