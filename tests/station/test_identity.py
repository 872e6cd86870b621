"""Who a station is: the same one in its folder, and never two at once."""

import os

from lantern.station.identity import Identity


def test_it_is_the_same_one_when_it_is_started_again_in_its_folder(tmp_path):
    first = Identity(tmp_path)
    second = Identity(tmp_path)  # started while the first lives
    keys = first.key, second.key
    assert len(set(keys)) == 2
    first.close()
    third = Identity(tmp_path)
    assert third.key == keys[0]
    second.close()
    third.close()
    again = Identity(tmp_path), Identity(tmp_path)
    assert tuple(one.key for one in again) == keys
    for one in again:
        one.close()


def test_without_a_folder_that_can_be_written_it_is_a_new_one(tmp_path, monkeypatch):
    assert Identity(None).key != Identity(None).key
    file = tmp_path / "file"
    file.touch()
    assert len(Identity(file / "in a file").key) == 12

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "pwrite", full)
    full_disk = Identity(tmp_path)
    assert len(full_disk.key) == 12
    full_disk.close()


def test_what_stands_in_its_file_by_mistake_is_replaced(tmp_path):
    tmp_path.joinpath("station-1.key").write_text("../../etc/passwd, and much more of it" * 9)
    one = Identity(tmp_path)
    assert len(one.key) == 12
    one.close()
    again = Identity(tmp_path)
    assert again.key == one.key
    again.close()
