"""The examples in the core's docstrings are right."""

import doctest
import importlib
import pkgutil

import pytest

import swaddon.core

MODULES = sorted(
    item.name for item in pkgutil.walk_packages(swaddon.core.__path__, "swaddon.core.") if "kernels" not in item.name
)


@pytest.mark.parametrize("name", MODULES)
def test_examples_give_what_they_say(name):
    result = doctest.testmod(importlib.import_module(name), optionflags=doctest.NORMALIZE_WHITESPACE)
    assert result.failed == 0


def test_there_are_examples():
    found = [doctest.DocTestFinder().find(importlib.import_module(name)) for name in MODULES]
    assert sum(bool(test.examples) for tests in found for test in tests) >= 60
