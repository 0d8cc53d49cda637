"""Files that are written whole or not at all."""

import pytest

from swaddon.io.whole import whole_file


def test_a_file_takes_its_place_at_the_end(tmp_path):
    path = tmp_path / "a"
    with whole_file(path) as file:
        file.write(b"new")
        assert not path.exists()
    assert path.read_bytes() == b"new"
    assert path.stat().st_mode & 0o777 == 0o644
    assert list(tmp_path.iterdir()) == [path]


def test_a_failure_leaves_the_old_file_and_nothing_else(tmp_path):
    path = tmp_path / "a"
    path.write_bytes(b"old")
    with pytest.raises(TypeError), whole_file(path) as file:
        file.writelines([b"half", None])
    assert path.read_bytes() == b"old"
    assert list(tmp_path.iterdir()) == [path]


def test_permissions_of_the_old_file_stay(tmp_path):
    path = tmp_path / "a"
    path.write_bytes(b"old")
    path.chmod(0o640)
    with whole_file(path) as file:
        file.write(b"new")
    assert path.stat().st_mode & 0o777 == 0o640
