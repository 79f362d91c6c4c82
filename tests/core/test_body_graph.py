"""The graph of bodies against a search of its own over random mechanisms."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from anakinema.document.body_graph import body_graph, group_of, groups, steps_from, way_between
from tests import mechanisms as build

NAMES = "abcdefgh"


@st.composite
def tangles(draw: st.DrawFn):  # type: ignore[no-untyped-def]
    """Bodies, some of them fixed, and joints between any of them."""
    fixed = draw(st.sets(st.sampled_from(NAMES), max_size=4))
    pairs = draw(
        st.lists(st.tuples(st.sampled_from(NAMES), st.sampled_from(NAMES)), max_size=14).map(
            lambda found: [(a, b) for a, b in found if a != b]
        )
    )
    bodies = [build.body(name, fixed=name in fixed) for name in NAMES]
    joints = [
        build.joint(f"j{k}", "revolute", f"{a}.o", f"{b}.o") for k, (a, b) in enumerate(pairs)
    ]
    return bodies, joints, fixed, pairs


def steps(fixed: set[str], pairs: list[tuple[str, str]], start: str) -> dict[str, int]:
    """Fewest joints to every body, all fixed ones taken for one; by widening rings."""

    def piece(name: str) -> str:
        return "ground" if name in fixed else name

    away = {piece(start): 0}
    for ring in range(len(NAMES)):
        for one, other in pairs:
            for a, b in ((piece(one), piece(other)), (piece(other), piece(one))):
                if away.get(a) == ring and b not in away:
                    away[b] = ring + 1
    return {name: away[piece(name)] for name in NAMES if piece(name) in away}


@given(tangles(), st.sampled_from(NAMES), st.sampled_from(NAMES))
def test_ways_and_groups_are_those_of_a_plain_search(tangle, start: str, end: str) -> None:  # type: ignore[no-untyped-def]
    bodies, joints, fixed, pairs = tangle
    graph = body_graph(bodies, joints)
    wanted = steps(fixed, pairs, start)
    assert steps_from(graph, [start]) == wanted
    assert group_of(graph, start) == set(wanted)
    assert any(group == set(wanted) for group in groups(graph))
    way = way_between(graph, start, end)
    assert bool(way) == (end in wanted)
    if way:
        assert (way[0], way[-1]) == (start, end)
        joined = {frozenset(pair) for pair in pairs}
        crossed = [frozenset(pair) for pair in zip(way, way[1:], strict=False)]
        assert all(pair in joined or pair <= fixed for pair in crossed)
        assert sum(not pair <= fixed for pair in crossed) == wanted[end]


@given(tangles(), st.sampled_from(NAMES))
def test_without_ground_fixed_bodies_are_like_others(tangle, start: str) -> None:  # type: ignore[no-untyped-def]
    bodies, joints, _, pairs = tangle
    graph = body_graph(bodies, joints, grounded=False)
    assert group_of(graph, start) == set(steps(set(), pairs, start))


def test_nothing_is_reached_from_nowhere() -> None:
    assert steps_from(body_graph([build.body("a")], []), []) == {}
