import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import Reading, Tie, ties_from_csv, ties_to_csv

TIES = (
    Tie(
        id="T1", date="2026-10-03", tension="snug", counts={"bar": 6, "edge": 2}, length_mm=104.5, minutes=18.25,
        readings=(Reading(ends=("buoy.a",), cut_mm=1000, left_mm=561.123456), Reading(ends=("tide.a", "tide.b"), cut_mm=700)),
        note="first, \"quoted\"\nsecond line",
    ),
    Tie(
        id="T3", length_mm=99, kinds={"tide": "cotton-3mm"}, lot="-spool 3", versions={"bar": "16238e4f4594"}, who="Wren",
        photos=("one.jpg", "two.jpg"), readings=(Reading(ends=("tide.a",), cut_mm=800, left_g=2.25),),
    ),
    Tie(id="=T2", counts={"bar": 3}, note="@SUM(A1)"),
)  # fmt: skip


def test_out_and_in_again_is_the_same():
    assert ties_from_csv(ties_to_csv(TIES)) == TIES


def test_no_cell_can_be_taken_for_a_formula():
    for line in ties_to_csv(TIES).split("\n"):
        for cell in line.split(","):
            assert cell.strip('"')[:1] not in ("=", "@", "+", "-")


def test_lengths_may_be_written_as_makers_do():
    text = "tie,units,length,ends,cut,left\nA,bar=6,4 1/8 in,buoy.a,1.2 m,30 + 2.5 cm\n"
    (t,) = ties_from_csv(text)
    assert t.length_mm == pytest.approx(104.775)
    assert t.readings[0].used_mm == pytest.approx(875)


@pytest.mark.parametrize(
    ("text", "message", "line"),
    [
        ("", "no column “tie”", 0),
        ("a,b\n1,2\n", "no column “tie”", 0),
        ("tie,length\nA,xx\n", "not a unit of length", 2),
        ("tie,length\nA,3 cm\nB,4 parsecs\n", "not a unit", 3),
        ("tie,units\nA,bar6\n", "not a count of units", 2),
        ("tie,minutes\nA,long\n", "not a number of minutes", 2),
        ("tie,length\n,3 cm\n", "names no tie", 2),
        ("tie,ends,grams\nA,buoy.a,heavy\n", "not a mass in grams", 2),
        ("tie,cords\nA,nylon\n", "not a name and a value", 2),
        ("tie,tension\nA,wild\n", "tie A", 0),
        ("tie,ends,cut\nA,buoy.a,0 cm\n", "greater than 0", 2),
    ],
)
def test_bad_tables_are_refused_with_the_row(text, message, line):
    with pytest.raises(InputError) as e:
        ties_from_csv(text)
    assert message in e.value.problems[0].message
    assert e.value.problems[0].line == line


def test_every_bad_row_is_told_at_once():
    with pytest.raises(InputError) as e:
        ties_from_csv("tie,length\nA,xx\nB,3 cm\nC,yy\n")
    assert [p.line for p in e.value.problems] == [2, 4]
