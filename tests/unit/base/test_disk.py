"""The one file layer: whole or not at all, never through a link that is not meant, as it was afterwards."""

import os
import stat

import pytest

from dim_ladder.base import InputError, WorldError
from dim_ladder.base.disk import (
    STRAY_AFTER_S,
    ReadOnlyFile,
    open_to_append,
    read_chunks,
    read_start,
    read_whole,
    sweep,
    write_whole,
)


def test_a_link_at_a_made_up_name_is_replaced_and_its_target_left_alone(tmp_path):
    victim = tmp_path / "start-up"
    victim.write_text("mine")
    link = tmp_path / ".tern.journal"
    link.symlink_to(victim)
    write_whole(link, "sender's text")
    assert victim.read_text() == "mine"
    assert not link.is_symlink()
    assert link.read_text() == "sender's text"


def test_nothing_is_written_through_a_name_that_can_be_foreseen(tmp_path):
    victim = tmp_path / "start-up"
    victim.write_text("mine")
    for name in (".a.part", ".a.dimladder.part", ".a.dimladder.journal.part", "a.dimladder.part"):
        (tmp_path / name).symlink_to(victim)
    write_whole(tmp_path / "a.dimladder", "x")
    assert victim.read_text() == "mine"


def test_an_own_link_is_followed_where_that_is_meant_and_stays(tmp_path):
    real = tmp_path / "far" / "settings.json"
    real.parent.mkdir()
    real.write_text("old")
    link = tmp_path / "settings.json"
    link.symlink_to(real)
    write_whole(link, "new", follow=True)
    assert link.is_symlink()
    assert real.read_text() == "new"
    assert os.listdir(real.parent) == ["settings.json"]


def test_a_link_of_somebody_else_is_not_followed(tmp_path, monkeypatch):
    real = tmp_path / "real"
    real.write_text("mine")
    link = tmp_path / "link"
    link.symlink_to(real)
    monkeypatch.setattr(os, "geteuid", lambda: 4242)
    if os.getuid() == 0:  # links of the system's own are believed: this one must not be that either
        os.lchown(link, 4243, 4243)
    with pytest.raises(WorldError, match="somebody else laid"):
        write_whole(link, "x", follow=True)
    assert real.read_text() == "mine"


def test_links_in_a_circle_are_refused(tmp_path):
    (tmp_path / "a").symlink_to(tmp_path / "b")
    (tmp_path / "b").symlink_to(tmp_path / "a")
    with pytest.raises(WorldError, match="a link"):
        write_whole(tmp_path / "a", "x", follow=True)


@pytest.mark.parametrize("mode", [0o600, 0o640, 0o664, 0o755])
def test_mode_stays(tmp_path, mode):
    path = tmp_path / "a"
    path.write_text("old")
    path.chmod(mode)
    write_whole(path, "new")
    assert stat.S_IMODE(path.stat().st_mode) == mode


def test_a_new_file_has_the_mode_that_the_person_gives_new_files(tmp_path):
    own = tmp_path / "by-python"
    own.write_text("")
    write_whole(tmp_path / "by-us", "x")
    assert (tmp_path / "by-us").stat().st_mode == own.stat().st_mode


def test_a_file_whose_owner_cannot_be_kept_is_written_in_place(tmp_path, monkeypatch):
    path = tmp_path / "a"
    path.write_text("old and longer than the new")
    inode = path.stat().st_ino
    real = os.fstat

    def elsewhere(fd):
        found = real(fd)
        return os.stat_result((*found[:4], found.st_uid + 1, *found[5:10]))

    monkeypatch.setattr(os, "fstat", elsewhere)
    monkeypatch.setattr(os, "fchown", lambda *a: (_ for _ in ()).throw(PermissionError(1, "no")))
    write_whole(path, "new")
    assert path.read_text() == "new"
    assert path.stat().st_ino == inode  # the very file, with its owner
    assert [p.name for p in tmp_path.iterdir() if p.is_file()] == ["a"]


def test_a_read_only_file_is_asked_about(tmp_path):
    path = tmp_path / "a"
    path.write_text("old")
    path.chmod(0o444)
    with pytest.raises(ReadOnlyFile, match="marked read-only") as e:
        write_whole(path, "new")
    assert e.value.hint
    assert path.read_text() == "old"
    write_whole(path, "new", over_read_only=True)
    assert path.read_text() == "new"
    assert stat.S_IMODE(path.stat().st_mode) == 0o444


def test_what_is_no_plain_file_is_neither_read_nor_written(tmp_path):
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    with pytest.raises(InputError, match="not a plain file"):
        read_whole(pipe, 10)
    with pytest.raises(InputError, match="not a plain file"):
        read_start(pipe, 10, follow=False)
    with pytest.raises(WorldError, match="not a plain file"):
        write_whole(pipe, "x")
    with pytest.raises(InputError, match="not a plain file"):
        read_whole(type(pipe)("/dev/zero"), 10)
    with pytest.raises(InputError, match="is a folder"):
        read_whole(tmp_path, 10)
    with pytest.raises(WorldError, match="it is a folder"):
        write_whole(tmp_path, "x")
    with pytest.raises(OSError, match=r"plain|No such device"):
        open_to_append(pipe)
    with pytest.raises(InputError, match="not the name of a file"):
        read_whole(tmp_path / "a\0b", 10)


def test_reading_is_bounded_and_follows_no_link_where_that_is_not_meant(tmp_path):
    path = tmp_path / "a"
    path.write_bytes(b"x" * 100)
    with pytest.raises(InputError, match="too large"):
        read_whole(path, 99)
    assert read_whole(path, 100) == b"x" * 100
    assert read_start(path, 7) == b"x" * 7
    assert b"".join(read_chunks(path, 30)) == b"x" * 100
    link = tmp_path / "link"
    link.symlink_to(path)
    with pytest.raises(WorldError, match="links are not followed"):
        read_whole(link, 100, follow=False)
    with pytest.raises(OSError, match="symbolic links"):
        open_to_append(link)


def test_only_old_temporary_files_of_ours_are_swept(tmp_path):
    tmp_path = tmp_path / "folder"
    tmp_path.mkdir()
    for name in (
        ".dim-ladder-abcd1234.part",
        ".tern.dimladder.abcd1234.part",
        "mine.part",
        ".dim-ladder-x.part",
    ):
        (tmp_path / name).write_text("")
        os.utime(tmp_path / name, (1, 1))
    fresh = tmp_path / ".dim-ladder-zzzz9999.part"
    fresh.write_text("")
    (tmp_path / ".dim-ladder-link0000.part").symlink_to(tmp_path / "mine.part")
    sweep(tmp_path)
    assert sorted(p.name for p in tmp_path.iterdir()) == [
        ".dim-ladder-link0000.part", ".dim-ladder-x.part", ".dim-ladder-zzzz9999.part", "mine.part",
    ]  # fmt: skip
    os.utime(fresh, (fresh.stat().st_mtime - STRAY_AFTER_S - 10,) * 2)
    sweep(tmp_path)
    assert not fresh.exists()
    sweep(tmp_path / "nowhere")
