"""Modules load without the collector, which is as it was afterwards."""

from __future__ import annotations

import gc

import pytest

from anakinema.loading import loading


@pytest.mark.parametrize("on", [True, False])
def test_the_collector_rests_while_modules_load_and_is_then_as_before(on: bool) -> None:
    was_on = gc.isenabled()
    try:
        (gc.enable if on else gc.disable)()
        held = gc.get_freeze_count()
        with loading():
            assert not gc.isenabled()
            kept = [{"made": "while loading"}]
        assert gc.isenabled() is on
        assert gc.get_freeze_count() > held
        assert not any(each is kept for each in gc.get_objects())
    finally:
        gc.unfreeze()
        (gc.enable if was_on else gc.disable)()
