"""Shapes on disk: found again, told apart, and no harm where they are spoiled or cannot be kept."""

import sys
from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.base import InputError
from dim_ladder.shape import cache, tight, tighten
from dim_ladder.shape.tighten import job_for
from helpers.weaves import weave_of

WEAVE = weave_of(2, "snake (1 | 2)")


@pytest.fixture
def kept(tmp_path, monkeypatch):
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "own"))
    return tmp_path / "own" / "shapes"


def test_an_unchanged_weave_has_its_shape_at_once(kept):
    first = tight(WEAVE, "s")
    assert len(list(kept.iterdir())) == 1
    (again,) = tighten(WEAVE, "s")
    assert again.per_end == first.per_end
    assert (again.ends, again.follow, again.touching) == (first.ends, first.follow, first.touching)
    assert all(np.array_equal(a, b) for a, b in zip(again.lines, first.lines, strict=True))


def test_names_tell_weaves_apart_and_colours_do_not_matter():
    name = cache.key(job_for(WEAVE, "s"))
    assert name == cache.key(job_for(weave_of(2, "snake (1 | 2)"), "s"))
    assert name != cache.key(job_for(weave_of(2, "snake (1 | 2)", "snake (2 | 1)"), "s"))


@pytest.mark.parametrize("spoil", [b"", b"rubbish", None])
def test_what_is_spoiled_is_worked_out_again(kept, spoil):
    tight(WEAVE, "s")
    (path,) = kept.iterdir()
    data = path.read_bytes()
    path.write_bytes(data[: len(data) // 2] if spoil is None else spoil)
    assert cache.known(path.stem) is None
    assert tight(WEAVE, "s").converged
    assert cache.known(path.stem) is not None


def test_no_folder_is_no_harm(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("in the way")
    monkeypatch.setenv("DIM_LADDER_CACHE", str(tmp_path / "file"))
    assert tight(WEAVE, "s").converged


def test_the_oldest_go(kept, monkeypatch):
    monkeypatch.setattr(cache, "MOST", 2)
    shape = tight(WEAVE, "s")
    for name in ("a", "b", "c"):
        cache.keep(name, shape)
    assert len(list(kept.glob("*.npz"))) == 2
    assert not list(kept.glob("*.part"))


def test_what_does_not_come_to_rest_or_comes_undone_is_not_pulled_again(kept, monkeypatch):
    module = sys.modules["dim_ladder.shape.tighten"]
    loose = replace(tight(WEAVE, "s"), converged=False)
    undone = replace(loose, pitch=0.1)
    for last, name in ((loose, "snake-left (1 | 2)"), (undone, "hitch-chain (1 | 2)")):
        other, pulled = weave_of(2, name), []

        def once(job, *, stop, last=last, pulled=pulled):
            pulled.append(job)
            yield last

        monkeypatch.setattr(module, "pulled", once)
        for _ in range(2):
            if last is undone:
                with pytest.raises(InputError, match="undone"):
                    tight(other, "s")
            else:
                assert not tight(other, "s").converged
        assert len(pulled) == 1
    # Left off by whoever asked, it is not the answer, and it is pulled again.
    left, pulled = weave_of(2, "reef (1 | 2)"), []

    def off(job, *, stop):
        pulled.append(job)
        yield loose

    monkeypatch.setattr(module, "pulled", off)
    for _ in range(2):
        list(tighten(left, "s", stop=lambda: True))
    assert len(pulled) == 2
