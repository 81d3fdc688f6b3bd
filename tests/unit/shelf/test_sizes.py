"""Tables of sizes: edited as text, kept beside the weaves, refused with their line."""

from __future__ import annotations

import random

import pytest

from dim_ladder.base import InputError
from dim_ladder.publish.choices import SizeRow
from dim_ladder.shelf.sizes import (
    NAME,
    USUAL,
    SizeTable,
    read_tables,
    size_named,
    tables_of,
    tables_text,
    write_tables,
)


def test_what_is_written_as_text_is_read_again_as_it_was():
    rng = random.Random(2)
    for _ in range(60):
        tables = tuple(
            SizeTable(
                name=f"table {t}",
                of=rng.choice(["girth", "length"]),
                sizes=tuple(
                    SizeRow(
                        name=rng.choice(["S", "child", "extra long", "no. 4"]) + f" {k}",
                        size_mm=rng.randint(10, 9000),
                    )
                    for k in range(rng.randint(1, 24))
                ),
            )
            for t in range(rng.randint(0, 5))
        )
        assert read_tables(tables_text(tables)) == tables


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ("S 15 cm", "line 1"),
        ("wrists, girth\n  S 15 cm\n  what", "line 3"),
        ("wrists, girth\n S 15 parsecs", "line 2"),
        ("a, girth\n S 1 cm\na, length\n S 1 cm", "line 3"),
        ("a, girth\n S 15 cm\n S 16 cm", "line 3"),
        ("a, girth\n S 40 m", "line 2"),
        ("a, girth\n" + "\n".join(f" S{k} 15 cm" for k in range(30)), "line 26"),
    ],
)
def test_a_line_that_is_no_size_is_named_with_a_remedy(text, line):
    with pytest.raises(InputError) as e:
        read_tables(text)
    assert line in str(e.value)
    assert e.value.hint


def test_an_empty_table_is_refused_and_no_table_is_fine():
    with pytest.raises(InputError, match="empty"):
        read_tables("wrists, girth\n")
    assert read_tables("") == ()


def test_they_lie_beside_the_weaves(tmp_path):
    assert tables_of(tmp_path) == tables_of(None) == USUAL
    own = read_tables("necks, girth\n heron 31 cm\n")
    write_tables(own, tmp_path)
    assert tables_of(tmp_path) == own
    (tmp_path / NAME).write_text('{"format": "dim-ladder-sizes", "tables": [{"name": "x", "sizes": []}]}')
    with pytest.raises(InputError, match=r"sizes\.json: tables"):
        tables_of(tmp_path)
    assert (tmp_path / NAME).read_text().startswith('{"format"')


def test_a_size_is_found_by_its_name():
    table, row = size_named(USUAL, "M")
    assert (table.name, row.size_mm) == ("wrists", 170)
    assert size_named(USUAL, "straps long")[1].size_mm == 600
    assert size_named(USUAL, "17 cm") is None
    assert size_named(USUAL, "") is None
