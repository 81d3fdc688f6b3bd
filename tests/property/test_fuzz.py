"""Inputs that were good once, mutated by their structure: read, or refused in words."""

import pytest

from helpers.fuzz import READERS, fuzz
from helpers.sizes import sized


@pytest.mark.parametrize("reader", READERS)
def test_a_reader_answers_or_refuses(reader):
    many = sized(300, 3000)
    found = fuzz(reader, many)
    assert found["read"] + found["refused"] == many
    assert found["read"] >= many // 100  # it comes far enough in to be read
    if reader not in ("typing", "lock"):  # these take anything, and believe little of it
        assert found["refused"] >= many // 20
