"""Every shipped press at every station, under every way of seeing."""

import pytest
from tests.conftest import coarse

from swaddon.io import handover, profiles
from swaddon.session import edits
from swaddon.session.view_modes import VIEW_MODES
from swaddon.ui.station_registry import STATIONS


@pytest.mark.parametrize("name", profiles.shipped_names())
def test_a_press_is_shown_at_every_station_and_exported(marble, settle, tmp_path, name):
    from swaddon.io.export import export_plan

    press = coarse(name)
    marble.apply(edits.set_profile(press))
    settle()
    for spec in STATIONS:
        marble.go_to_station(spec.key)
    for key in VIEW_MODES:
        button = marble.view_modes.button_for(key) if VIEW_MODES[key].in_bar else None
        if button is None or button.isVisible():
            marble.see(key)
    settle()
    assert not marble.problem.text()
    plan = marble.desk.plan
    assert plan.request.press == press
    assert handover.card(plan).lines
    inks = {path.stem for path in export_plan(plan, tmp_path / "out") if len(path.stem) == 1}
    assert inks == set(plan.request.profile.inks)
