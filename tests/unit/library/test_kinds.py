"""Kinds of cord as data."""

from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.library import all_kinds, check_kind, cord_kind, kind_named, own_kinds, use_kinds
from dim_ladder.library.kinds import SHIPPED, CordKind


@pytest.fixture(autouse=True)
def _none_of_ones_own():
    yield
    use_kinds({})


def test_every_kind_that_ships_can_be_and_says_where_it_comes_from():
    for name, kind in SHIPPED.items():
        check_kind(name, kind)
        assert kind.source.startswith(("measured", "an estimate", "round, rigid"))
        assert kind_named(kind.words) == name
    measured = SHIPPED["nylon-4mm"]
    assert all(measured.spread <= k.spread for k in SHIPPED.values() if k.give)


def test_a_thickness_that_does_not_ship_gives_way_as_its_material():
    thick = cord_kind("nylon-6mm")
    assert (thick.diameter, thick.give) == (6.0, SHIPPED["nylon-4mm"].give)
    assert thick.grams_per_metre == pytest.approx(6.6 * 2.25)
    assert thick.spread >= 0.3
    assert cord_kind("cotton-4.5mm").soft == SHIPPED["cotton-5mm"].soft
    assert cord_kind("hemp-3mm").source.startswith("an estimate")


def test_ones_own_go_before_those_that_ship():
    mine = CordKind("salt-stiff line 4 mm", 4.1, 9.0, 0.2, 1.5, 0.9, 0.1, "ten half knots on the bench")
    use_kinds({"nylon-4mm": mine, "tarred-2mm": replace(mine, diameter=2.0, words="tarred 2 mm")})
    assert cord_kind("nylon-4mm") == mine
    assert kind_named("Tarred 2 mm") == "tarred-2mm"
    assert set(own_kinds()) < set(all_kinds())
    use_kinds({})
    assert cord_kind("nylon-4mm") == SHIPPED["nylon-4mm"]


@pytest.mark.parametrize(
    ("changed", "message"),
    [
        ({"give": 0.9}, "give of 0.9"), ({"diameter": 0.0}, "diameter of 0"), ({"soft": float("nan")}, "softness"),
        ({"grip": -1.0}, "grip"), ({"sheath": "plaid"}, "sheath"), ({"second": "red"}, "second colour"), ({"words": " "}, "no words"), ({"grams_per_metre": 1e9}, "mass per metre"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_its_bounds(changed, message):
    with pytest.raises(InputError, match=message):
        use_kinds({"tarred-2mm": replace(SHIPPED["nylon-2mm"], **changed)})
    assert not own_kinds()


def test_a_name_must_be_one_that_a_script_can_say():
    with pytest.raises(InputError, match="cannot name"):
        use_kinds({"4 mm!": SHIPPED["nylon-4mm"]})


def test_flat_cord_has_as_much_in_it_as_the_round_cord_it_is_taken_for():
    flat = SHIPPED["flat-4mm"]
    assert flat.across**2 * 3.14159 / 4 == pytest.approx(flat.diameter * flat.thick, rel=1e-3)
    assert flat.across * flat.spreads == pytest.approx(flat.diameter)
    assert flat.across * (1 - flat.presses) == pytest.approx(flat.thick)
    assert cord_kind("flat-8mm").thick == pytest.approx(1.2 * 2**0.5)
    round_ = SHIPPED["nylon-4mm"]
    assert (round_.across, round_.presses) == (round_.diameter, round_.give)
    with pytest.raises(InputError, match="thickness of 5"):
        use_kinds({"tape-4mm": replace(flat, thick=5.0)})


def test_what_stretches_is_measured_out_shorter():
    assert SHIPPED["stiff-4mm"].stretch == 0
    assert all(0 < k.stretch <= 0.05 for n, k in SHIPPED.items() if n != "stiff-4mm")
    with pytest.raises(InputError, match="stretch"):
        use_kinds({"rubber-4mm": replace(SHIPPED["nylon-4mm"], stretch=0.9)})
