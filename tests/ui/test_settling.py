"""Pauses after which work begins."""

from tests.ui.patience import until

from swaddon.ui.settling import settling


def test_work_begins_once_after_the_last_of_several_changes(bench):
    begun = []
    timer = settling(bench, 400, lambda: begun.append(True))
    for _ in range(5):
        timer.start()
    assert timer.interval() == 40, "tests wait for a tenth"
    until(lambda: bool(begun))
    assert begun == [True]
    assert not timer.isActive()
