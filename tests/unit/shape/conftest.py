"""Shapes of the works that everything here is about, each pulled tight once."""

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import ready, tight
from helpers.weaves import PLAIT, SPIRAL, TERN, stiff, weave_of

SOFT = {
    "band": (parse_strict(TERN), "bar"),
    "spiral": (parse_strict(SPIRAL), "bar"),
    "plait": (parse_strict(PLAIT), "reed"),
    "snake": (weave_of(2, "snake (1 | 2)"), "s"),
}
WORKS = {name: (stiff(weave), section) for name, (weave, section) in SOFT.items()}  # of ideal rope


@pytest.fixture(scope="session", autouse=True)
def _own_cache(tmp_path_factory):
    """Nothing that was kept before is believed."""
    with pytest.MonkeyPatch.context() as m:
        m.setenv("DIM_LADDER_CACHE", str(tmp_path_factory.mktemp("cache")))
        assert ready(wait=True)
        yield


@pytest.fixture(scope="session")
def shapes(_own_cache):
    """Of ideal rope."""
    return {name: tight(*what) for name, what in WORKS.items()}


@pytest.fixture(scope="session")
def soft(_own_cache):
    """The same works in kernmantle."""
    return {name: tight(*what) for name, what in SOFT.items()}
