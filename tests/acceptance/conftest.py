"""Commands of one worker share what they plan: most try words, files and documents, not the planning."""

import importlib
import pkgutil

import pytest
from tests import kept

import swaddon.cli

_COMMANDS = [importlib.import_module(f"swaddon.cli.{item.name}") for item in pkgutil.iter_modules(swaddon.cli.__path__)]


@pytest.fixture(autouse=True)
def _shared_plans(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    if request.node.get_closest_marker("fresh_plans") is None:
        for module in (swaddon.cli, *_COMMANDS):
            if hasattr(module, "Cache"):
                monkeypatch.setattr(module, "Cache", lambda *_args, **_named: kept.plans())
