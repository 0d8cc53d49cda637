"""The journal while others write and take away: whoever lists it never meets what is just gone."""

import threading
import time

from swaddon.io.journal import Journal


def test_runs_that_come_and_go_do_not_trouble_whoever_lists_them(tmp_path):
    journal = Journal(tmp_path / "journal")
    journal.begin("stays", b"{}", {})
    ends = time.monotonic() + 1.0
    failed = []

    def busy() -> None:
        try:
            while time.monotonic() < ends:
                journal.begin("goes", b"{}", {})
                journal.forget("goes")
        except BaseException as error:
            failed.append(error)
            raise

    other = threading.Thread(target=busy)
    other.start()
    seen = set()
    while other.is_alive():
        seen.update(journal.uids())
    other.join()
    assert not failed
    assert "stays" in seen


def test_the_oldest_is_first_and_what_is_no_run_is_left_out(tmp_path):
    journal = Journal(tmp_path / "journal")
    assert journal.uids() == ()
    for name in ("b", "a"):
        journal.begin(name, b"{}", {})
        time.sleep(0.02)
    (journal.folder / "empty").mkdir()
    (journal.folder / "a file").write_bytes(b"")
    (journal.folder / ".gone-c").mkdir()
    assert journal.uids() == ("b", "a")
