"""How much of the code the tests run, in lines and in branches: counted in every worker, told at the end of the run.

    pytest -p tests.covered

Counted by probes that are taken out of the code once they were passed (SlipCover), so that counting hardly costs time.
The kernels are compiled and cannot be counted. Must come before anything imports the code.
"""

import itertools
import json
import os
from pathlib import Path
from typing import Any

import pytest
import slipcover

LEAST = {"lines": 96.0, "branches": 86.0}
"""Per cent below which the run fails: raise them when more is covered, never lower them."""

_ROOT = Path(__file__).parents[1]
_SOURCE, _OMIT = [str(_ROOT / "src/swaddon")], ["*/core/fast/kernels/*"]

_counts: list[dict[str, Any]] = []
_counter: slipcover.Slipcover | None = None


def _begin() -> slipcover.Slipcover:
    counter = slipcover.Slipcover(branch=True, source=_SOURCE, omit=_OMIT, d_miss_threshold=2**31 - 1)  # see below
    slipcover.ImportManager(counter, slipcover.FileMatcher(sources=_SOURCE, omit=_OMIT)).__enter__()
    return counter


if "PYTEST_XDIST_WORKER" in os.environ:
    _counter = _begin()


def shares(counts: list[dict[str, Any]]) -> dict[str, float]:
    """Per cent of all lines and of all branches that some worker passed."""
    whole = counts[0]
    for other in counts[1:]:
        slipcover.merge_coverage(whole, other)
    done = whole["summary"]
    return {
        what: 100 * done[f"covered_{what}"] / max(done[f"covered_{what}"] + done[f"missing_{what}"], 1)
        for what in LEAST
    }


def pytest_runtest_logfinish() -> None:
    """Take the probes that were passed out of the code, after the tests 1, 2, 4, 8 and so on of a worker.

    By itself SlipCover does so in the middle of everything, and crashes where several threads run. Between two tests
    no bench is open, and no thread of ours is at work.
    """
    number = next(_ended)
    if _counter is not None and number & (number - 1) == 0:
        _counter.deinstrument_seen()


_ended = itertools.count(1)


@pytest.hookimpl(tryfirst=True)
def pytest_sessionfinish(session: pytest.Session) -> None:
    """A worker hands over what it counted; the run fails where the sum is too little."""
    if _counter is not None:
        session.config.workeroutput["covered"] = json.dumps(_counter.get_coverage())  # type: ignore[attr-defined]
    elif _counts and session.exitstatus == 0 and any(shares(_counts)[what] < least for what, least in LEAST.items()):
        session.exitstatus = pytest.ExitCode.TESTS_FAILED


@pytest.hookimpl(optionalhook=True)
def pytest_testnodedown(node: Any) -> None:
    """A worker has ended."""
    told = getattr(node, "workeroutput", {}).get("covered")
    if told:
        _counts.append(json.loads(told))


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """Tell it before the last line."""
    if _counts:
        told = " and ".join(f"{share:.1f} % of the {what}" for what, share in shares(_counts).items())
        least = " and ".join(f"{share:.0f} % of {what}" for what, share in LEAST.items())
        terminalreporter.write_line(f"The tests run {told}; not less than {least} will do.")
