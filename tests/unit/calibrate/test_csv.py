import csv
import io

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import Reading, Tie, ties_from_csv, ties_to_csv
from dim_ladder.calibrate.csvio import read_table

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
        ("", "no column “tie”", 1),
        ("a,b\n1,2\n", "no column “tie”", 1),
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


HEAD = "tie,date,units,length,ends,cut,left,note\n"


def test_a_length_whose_comma_cut_it_in_two_is_put_together_again():
    (t,) = ties_from_csv(HEAD + "A,2026-01-02,bar=6,82,5 cm,buoy.a,1 m,20 cm,fine\n")
    assert (t.length_mm, t.note) == (825, "fine")
    (t,) = ties_from_csv(HEAD + "A,2026-01-02,bar=6,82,5 cm,buoy.a,1,25 m,20 cm,fine\n")
    assert (t.length_mm, t.readings[0].cut_mm) == (825, 1250)


@pytest.mark.parametrize(
    ("row", "words"),
    [
        (
            "A,2026-01-02,bar=6,82,5 cm,buoy.a,1 m,20 cm\n",
            "a comma cut in two",
        ),  # 8 cells: nothing tells it from whole
        ("A,2026-01-02,bar=6,82,5 cm,buoy.a\n", "a comma cut in two"),
        ("A,2026-01-02,bar=6,82 cm,buoy.a,1 m,20 cm,fine,even better\n", "9 cells and the table 8 columns"),
        ("A,2026,5 mm,bar=6,82 cm,buoy.a,1 m,20 cm,x\n", "stands where no length belongs"),
    ],
)
def test_where_it_could_be_read_in_two_ways_it_is_refused_with_its_row(row, words):
    with pytest.raises(InputError, match=words) as e:
        ties_from_csv(HEAD + row)
    assert e.value.problems[0].line == 2


def test_columns_that_are_not_known_are_named():
    with pytest.raises(InputError, match="no column “lenght”") as e:
        ties_from_csv("tie,lenght\nA,3 cm\n")
    assert e.value.hint == "Did you mean “length”?"
    with pytest.raises(InputError, match="two columns “cut”"):
        ties_from_csv("tie,ends,cut,cut\nA,buoy.a,1 m,2 m\n")
    table = read_table("tie,length,weather\nA,3 cm,rain\n")
    assert (table.ties[0].length_mm, table.left_out) == (30, ("weather",))


def test_semicolons_between_cells_are_read_as_well():
    (t,) = ties_from_csv("tie;length;note\nA;82,5 cm;with, a comma\n")
    assert (t.length_mm, t.note) == (825, "with, a comma")


@pytest.mark.parametrize(
    "text", ["'Tis knotted", "''", "=1+1", "-3", "+4", "@x", "'=1", "plain 'quoted'", "'"]
)
def test_apostrophes_and_signs_survive_there_and_back(text):
    (t,) = ties_from_csv(ties_to_csv((Tie(id="T1", note=text),)))
    assert t.note == text
    cell = dict(zip(*csv.reader(io.StringIO(ties_to_csv((Tie(id="T1", note=text),)))), strict=True))["note"]
    assert cell[0] not in "=+-@"


@pytest.mark.parametrize("units", ["bar=²", "bar=1e3", "bar=" + "9" * 5000, "bar=-1", "bar="])
def test_counts_are_plain_digits(units):
    with pytest.raises(InputError, match="not a count of units"):
        ties_from_csv(f"tie,units\nA,{units}\n")
