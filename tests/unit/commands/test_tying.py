"""Tying along, without a window: what is to be done, how far it is, and what is said by the way."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate
from dim_ladder.commands.tying import (
    as_tie,
    begun,
    cautions,
    checkpoint,
    digest,
    heading,
    read_tying,
    seconds_left,
    sentence,
    side_due,
    start,
    tape,
    unit_seconds,
)
from dim_ladder.notation import parse_strict
from dim_ladder.publish.seen import check_units
from helpers.ties import tie
from helpers.weaves import TERN, weave_of

WEAVE = parse_strict(TERN)
RING = """weave "Ring"
cords
  tide nylon-4mm #1f6f8b
hang
  tide.a
section ring: body, on former, leads 3 bights 5
  follow left
"""


def at(n, each=10.0, units=4):
    """Tied along for n beats, each taking `each` seconds."""
    trace, beats = begun(WEAVE, {"bar": units})
    t = start(WEAVE, {"bar": units}, "2026-03-01")
    for k in range(n):
        t = t.next(beats, (k + 1) * each)
    return trace, beats, t


def test_every_step_of_every_unit_and_the_finish():
    trace, beats = begun(WEAVE, {"bar": 4})
    assert len(beats) == 4 * 4 + 1
    assert [(b.unit, b.step) for b in beats[:6]] == [(1, 1), (1, 2), (1, 3), (1, 4), (2, 1), (2, 2)]
    assert beats[-1].section == "end"
    assert heading(trace, beats[1], "plain") == heading(trace, beats[0], "plain") != ""
    assert sentence(trace, beats[0], "plain", "hanging").startswith("D (orange")
    assert [side_due(trace, b) for b in beats[:4]] == ["right", "left", "left", "right"]
    assert side_due(trace, beats[-1]) == ""
    assert any("flame" in c.lower() for c in cautions(trace, beats[-1]))
    assert cautions(trace, beats[0]) == ()
    middle = begun(weave_of(3, "2: over 3"), {})
    assert side_due(middle[0], middle[1][0]) == "middle"


def test_what_cannot_be_tied_says_why():
    with pytest.raises(InputError, match="Mend the weave"):
        begun(weave_of(2, "1: over 2", "2: over 2"), {})
    with pytest.raises(InputError, match="no step"):
        begun(weave_of(2), {})


def test_on_a_former_what_is_called_out_is_done_one_by_one():
    trace, beats = begun(parse_strict(RING), {})
    assert sentence(trace, beats[0], "plain", "hanging") == beats[0].call
    assert beats[0].call.startswith("1. ")
    assert [b.laid for b in beats] == sorted(b.laid for b in beats)
    assert side_due(trace, beats[0]) == heading(trace, beats[0], "plain") == ""


def test_units_are_counted_when_whole_and_going_back_takes_them_back():
    _, beats, t = at(9)
    assert t.done(beats) == {"bar": 2, "end": 0}
    assert t.back(95.0).back(96.0).done(beats)["bar"] == 1
    assert t.back(95.0).log == t.log[:8]
    assert t.go(16, 200.0).done(beats)["bar"] == 4
    assert t.go(-5, 200.0).at == 0
    full = at(17)[2]
    assert full.next(beats, 999.0).at == 17


def test_times_are_medians_of_whole_units():
    _, beats, t = at(3)
    assert unit_seconds(t, beats) is None
    _, beats, t = at(9)
    assert unit_seconds(t, beats) == pytest.approx(40)
    assert seconds_left(t, beats) == pytest.approx(7 * 10)
    assert seconds_left(at(16)[2], beats) is None  # another section


def test_it_is_text_and_is_read_back_or_refused():
    t = at(9)[2]
    assert read_tying(t.model_dump_json()) == t
    assert read_tying("{}") is None
    assert read_tying("nonsense") is None
    assert read_tying(t.model_dump_json().replace('"version":1', '"version":9')) is None
    assert t.weave == digest(WEAVE) != digest(parse_strict(RING))


def test_it_ends_in_a_tie_with_what_is_known():
    _, beats, t = at(9, each=30.0)
    made = as_tie(t, beats)
    assert (made.counts, made.minutes, made.date) == ({"bar": 2}, 4.5, "2026-03-01")
    assert made.readings == ()
    assert as_tie(at(1)[2], beats).counts == {}


def test_checkpoints_tell_what_the_tape_should_read():
    calibration = calibrate(WEAVE, (tie("T1"), tie("T2")))
    every = check_units(calibration, "bar")
    pitch = calibration.pitch("bar").median
    assert 25 <= every * pitch <= 100
    assert check_units(None, "bar") == 10
    _, beats, t = at(0, units=every * 2)
    told = {}
    for k in range(len(beats) - 1):
        t = t.next(beats, k * 10.0)
        if text := checkpoint(t, beats, calibration):
            told[t.at] = text
    assert list(told) == [every * 4, every * 8]
    assert told[every * 4].startswith(f"{every} units of bar made: the tape should read about")
    assert checkpoint(t, beats, None).endswith("made")
    assert tape(calibration, {"bar": 0}) == tape(None, {"bar": 3}) == tape(calibration, {"other": 3}) == ""
    low, high = calibration.length({"bar": every}).interval(0.9)
    assert f"({round(low)} to {round(high)} mm)" in tape(calibration, {"bar": every})
