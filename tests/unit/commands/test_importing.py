"""Ties of a table and ties that are here already."""

from dim_ladder.commands.importing import meeting, merged
from helpers.ties import tie

HERE = (tie("A"), tie("B"))
TABLE = (tie("A"), tie("B", 9), tie("C"))


def test_ties_are_told_apart_by_what_is_here():
    found = meeting(HERE, TABLE)
    assert ([t.id for t in found.new], [t.id for t in found.known], [t.id for t in found.clash]) == (
        ["C"],
        ["A"],
        ["B"],
    )
    assert found.question == "One tie of the table (B) has a name that other ties have here"


def test_what_becomes_of_them_is_what_was_said():
    found = meeting(HERE, TABLE)
    assert merged(HERE, found, "keep") == (*HERE, TABLE[2])
    assert merged(HERE, found, "replace") == (HERE[0], TABLE[1], TABLE[2])
    both = merged(HERE, found, "both")
    assert [t.id for t in both] == ["A", "B", "C", "B (2)"]
    assert both[3].counts == TABLE[1].counts
    again = merged(both, meeting(both, TABLE), "both")
    assert [t.id for t in again] == ["A", "B", "C", "B (2)", "B (3)"]
