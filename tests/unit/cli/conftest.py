"""A script and a document to call the command line with."""

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan
from dim_ladder.shelf import Document, save_document
from helpers.ties import tie
from helpers.weaves import TERN, stiff


@pytest.fixture
def script(tmp_path):
    path = tmp_path / "tern.weave"
    path.write_text(TERN, "utf-8")
    return path


@pytest.fixture
def document(tmp_path):
    path = tmp_path / "tern.dimladder"
    save_document(
        Document(stiff(parse_strict(TERN)), (tie("T1"), tie("T2", 8, 1.02)), Plan(fastening="side-buckle")),
        path,
    )
    return path
