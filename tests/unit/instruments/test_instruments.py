"""Instruments: the lines, the simulated ones on real pseudo-terminals, glitches and unplugging."""

import threading

import pytest

from dim_ladder.base import WorldError
from dim_ladder.instruments import KINDS, Lines, Port, Simulated, ports, read_line


@pytest.mark.parametrize(
    ("line", "value", "mass", "steady"),
    [
        ("+0123.4 mm S", 123.4, False, True),
        ("12,5 cm", 125.0, False, True),
        ("W1: 2.5 in U", 63.5, False, False),
        ("1.2 m S", 1200.0, False, True),
        ("scale 6.20 g S", 6.2, True, True),
        ("1 oz S", 28.349523125, True, True),
    ],
)
def test_lines_are_read(line, value, mass, steady):
    found = read_line(line)
    assert found.value == pytest.approx(value)
    assert (found.mass, found.steady) == (mass, steady)


@pytest.mark.parametrize(
    "line", ["", "mm", "12.3.4 mm", "ERR", "12 parsecs", "1e999 mm", "9" * 90 + " mm", "2000 m S", "12"]
)
def test_glitches_are_not_read(line):
    assert read_line(line) is None


def test_bytes_come_in_pieces():
    lines = Lines()
    assert lines.feed(b"+1 mm S\n+12.5 m")[0].value == 1
    (one,) = lines.feed(b"m S\r\n??\r\n")
    assert one.value == 12.5
    assert lines.glitches == 1
    assert lines.feed(b"x" * 1000) == []
    assert lines.glitches == 2
    assert [m.value for m in lines.feed(b"+7 mm S\n+8 mm U\n")] == [7, 8]


@pytest.mark.parametrize(
    ("said", "values", "glitches"),
    [
        # The port was opened in the midst of a line: what it says is not what was measured.
        (b"3.4 mm S\n123.4 mm S\n", [123.4], 1),
        (b"+23.4 mm S\n-3 mm S\n", [23.4, -3], 0),  # a sign shows where a line begins
        (
            b"W1: 6.20 g S\n0 g S\nW1: 6.30 g S\n",
            [6.2, 6.3],
            1,
        ),  # its name is gone, and who knows what with it
        (b"+12.5 mm S\n2.5 mm S\n", [12.5], 1),  # its sign is gone
        (b"+12.5 mm S\n+12.5 m\n+12.5 mm U\n", [12.5, 12.5], 1),  # not twelve metres: the end is gone
        (b"+12.5 mm S\n+12.5 mm\n", [12.5], 1),  # steady, or not?
        (b"+12.5 mm\n+12.5 m\n", [12.5], 1),
        (b"+12.5 mm\n+12.", [12.5], 0),  # not ended yet
        (b"-3 mm S\n4 mm S\n", [-3, 4], 0),  # one that has a sign below nought only
        (b"+1 in S\n+25.4 mm S\n", [25.4, 25.4], 0),  # another unit is chosen on it
    ],
)
def test_a_line_that_lacks_its_head_or_its_end_is_a_glitch(said, values, glitches):
    lines = Lines()
    assert [m.value for m in lines.feed(said)] == pytest.approx(values)
    assert lines.glitches == glitches


class Ear:
    """What a port delivers, waited for."""

    def __init__(self):
        self.heard, self.why = [], ""
        self.wake = threading.Condition()

    def hear(self, measure):
        with self.wake:
            self.heard.append(measure)
            self.wake.notify()

    def end(self, why):
        with self.wake:
            self.why = why
            self.wake.notify()

    def wait(self, until):
        with self.wake:
            assert self.wake.wait_for(lambda: until(self), 10)


@pytest.mark.parametrize("kind", KINDS)
def test_a_simulated_instrument_is_heard_through_its_port(kind):
    it = Simulated(kind, glitch=0.0, period_s=0.01)
    ear = Ear()
    port = Port(it.port, ear.hear, ear.end)
    try:
        ear.wait(lambda e: len(e.heard) > 3)
        assert ear.heard[-1].value == pytest.approx(it.value, abs=6 * it.kind.noise + 0.02)
        assert ear.heard[-1].mass == (kind == "scale")
        it.put(it.value * 2)
        ear.wait(lambda e: any(not m.steady for m in e.heard) and e.heard[-1].steady)
        assert ear.heard[-1].value == pytest.approx(it.value, abs=6 * it.kind.noise + 0.05)
        unit = it.press_unit()
        ear.wait(lambda e: e.heard[-1].unit == unit)
        # Another unit says the same length or mass.
        assert ear.heard[-1].value == pytest.approx(it.value, rel=0.02, abs=6 * it.kind.noise + 0.1)
        it.press_zero()
        ear.wait(lambda e: abs(e.heard[-1].value) < 6 * it.kind.noise + 0.3)
    finally:
        port.close()
        it.close()
    assert ear.why == ""  # closed, not lost


def test_glitches_are_counted_and_what_is_between_them_heard():
    it = Simulated("wheel", glitch=0.5, period_s=0.005)
    ear = Ear()
    port = Port(it.port, ear.hear, ear.end)
    try:
        ear.wait(lambda e: len(e.heard) > 10 and port.glitches > 3)
        assert all(abs(m.value - it.value) < 10 for m in ear.heard)
        assert not port.silent
    finally:
        port.close()
        it.close()


def test_unplugging_in_the_middle_of_a_line_is_said_and_nothing_is_made_up():
    it = Simulated("wheel", glitch=0.0, period_s=0.01)
    ear = Ear()
    port = Port(it.port, ear.hear, ear.end)
    ear.wait(lambda e: e.heard)
    it.unplug()
    ear.wait(lambda e: e.why)
    assert "unplugged" in ear.why
    assert all(abs(m.value - it.value) < 10 for m in ear.heard)  # the half line was not taken for 12
    port.close()


def test_a_port_that_is_not_there_is_refused_with_a_remedy():
    with pytest.raises(WorldError, match="cannot be opened") as e:
        Port("/dev/nothing-here", print, print)
    assert "Plug it in" in e.value.hint
    assert isinstance(ports(), list)
