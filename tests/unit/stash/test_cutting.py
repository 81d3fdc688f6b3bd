"""What is cut from what: against trying everything, against instances whose best is known, and by the rules that hold always."""

from __future__ import annotations

import itertools
import random
from collections import Counter

import pytest

from dim_ladder.stash.cutting import DEARER, NEW, Alike, Shelf, cut_stock
from dim_ladder.stash.patterns import all_patterns, fullest


def random_case(rng: random.Random):
    shelf = [
        Shelf(f"s{k}", rng.randint(300, 2600), rng.choice("AB"), rng.random() < 0.25, rng.choice([1, 1, 2]))
        for k in range(rng.randint(0, 4))
    ]
    pieces = []
    for _ in range(rng.randint(1, 3)):
        takes = Counter(rng.choice([400, 550, 700, 910, 1200]) for _ in range(rng.randint(1, 2)))
        pieces.append(Alike(dict(takes), rng.randint(1, 2)))
    return pieces, shelf, rng.choice([0, 5])


def least(pieces, shelf, loss) -> float:
    """Everything is tried: every lot for every piece, every length for every cut."""
    every = [sorted(Counter(p.takes).elements(), reverse=True) for p in pieces for _ in range(p.count)]
    rooms = tuple((s.lot, s.spool, s.mm) for s in shelf for _ in range(s.count))
    lots = sorted({s.lot for s in shelf})
    best = float("inf")
    for chosen in itertools.product([*lots, None], repeat=len(every)):
        new = sum(sum(need) for need, lot in zip(every, chosen, strict=True) if lot is None) * DEARER
        cuts = [(mm, lot) for need, lot in zip(every, chosen, strict=True) if lot is not None for mm in need]
        if new < best:
            best = min(best, new + packed(cuts, rooms, loss, best - new))
    return best


def packed(cuts, rooms, loss, most) -> float:
    if not cuts:
        return 0.0
    (mm, lot), rest = cuts[0], cuts[1:]
    best = most
    tried = set()
    for k, (room_lot, spool, room) in enumerate(rooms):
        if room_lot != lot or room < mm + loss or (room_lot, spool, room) in tried:
            continue
        tried.add((room_lot, spool, room))
        cost = mm if spool else 0
        if cost < best:
            left = (*rooms[:k], (room_lot, spool, room - mm - loss), *rooms[k + 1 :])
            best = min(best, cost + packed(rest, left, loss, best - cost))
    return best


def check(pieces, shelf, loss, found):
    """Every piece gets what it takes, of one lot; no length is longer than it is."""
    got = Counter()
    by_lot = [Counter() for _ in pieces]
    seen = Counter()
    lots = {s.key: s for s in shelf}
    for used in found.used:
        for p, mm in used.cuts:
            got[p, mm] += 1
            by_lot[p][used.lot, mm] += 1
        if used.key:
            s = lots[used.key]
            seen[used.key] += 1
            assert used.nth < s.count
            assert (used.lot, used.mm) == (s.lot, s.mm)
            assert sum(mm + loss for _, mm in used.cuts) <= s.mm
    for p, piece in enumerate(pieces):
        assert sum(found.lots[p].values()) == piece.count
        for mm, n in piece.takes.items():
            assert got[p, mm] == n * piece.count
            for lot, many in found.lots[p].items():
                assert by_lot[p][lot, mm] == n * many
    assert all(seen[s.key] <= s.count for s in shelf)
    assert found.new_mm == sum(mm for u in found.used if not u.key for _, mm in u.cuts)


@pytest.mark.parametrize("seed", range(10))
def test_five_hundred_small_cases_are_as_good_as_trying_everything(seed):
    rng = random.Random(seed)
    for _ in range(50):
        pieces, shelf, loss = random_case(rng)
        found = cut_stock(pieces, shelf, loss_mm=loss)
        check(pieces, shelf, loss, found)
        assert found.proven
        assert DEARER * found.new_mm + found.spool_mm == pytest.approx(least(pieces, shelf, loss))


def test_lengths_that_are_cut_from_wholes_go_back_into_them():
    """Offcuts that were made by cutting the very lengths: nothing is bought, nothing comes off a spool, nothing is left."""
    rng = random.Random(4)
    for _ in range(6):
        shelf, takes = [], Counter()
        for k in range(5):
            cuts = [rng.randint(35, 120) * 10 for _ in range(rng.randint(2, 3))]
            shelf.append(Shelf(f"o{k}", sum(cuts), "A", False))
            takes.update(cuts)
        found = cut_stock(
            [Alike({mm: 1}, n) for mm, n in takes.items()], [*shelf, Shelf("spool", 50_000, "A", True)]
        )
        assert (found.new_mm, found.spool_mm) == (0, 0)
        assert found.proven
        assert sum(u.mm - sum(mm for _, mm in u.cuts) for u in found.used) == 0


def test_a_lot_is_not_mixed_within_a_piece():
    """Two cords of one piece would fit on two offcuts of two lots: they are taken off the spool of one instead."""
    shelf = [Shelf("a", 1000, "A", False), Shelf("b", 1000, "B", False), Shelf("c", 9000, "B", True)]
    found = cut_stock([Alike({1000: 2}, 1)], shelf)
    assert found.spool_mm == 1000
    assert found.lots == ({"B": 1},)
    assert {u.lot for u in found.used} == {"B"}


def test_an_offcut_is_left_whole_where_another_does():
    """The remnant that can still be used is the long one."""
    shelf = [Shelf("long", 3000, "A", False), Shelf("short", 1100, "A", False)]
    found = cut_stock([Alike({1000: 1}, 1)], shelf)
    assert [u.key for u in found.used] == ["short"]


def test_what_there_is_not_is_bought_of_one_lot():
    found = cut_stock([Alike({900: 2}, 3)], [Shelf("a", 1900, "A", False)])
    assert found.new_mm == 3600
    assert found.lots == ({"A": 1, NEW: 2},)
    assert cut_stock([], []).proven


def test_sixty_pieces_over_forty_lengths_come_near_the_bound():
    rng = random.Random(1)
    shelf = [Shelf(f"o{k}", rng.randint(400, 4000), rng.choice("ABC"), False) for k in range(36)]
    shelf += [Shelf(f"s{k}", rng.randint(8000, 40_000), rng.choice("ABC"), True) for k in range(4)]
    sizes = [rng.randint(450, 2200) for _ in range(5)]
    pieces = [Alike({mm: 1, int(mm * 0.4) + 100: 1}, 12) for mm in sizes]
    found = cut_stock(pieces, shelf, seconds=10.0)
    check(pieces, shelf, 0, found)
    assert found.new_mm == 0
    assert found.gap < 0.06


def test_bounds_are_below_what_is_found_and_gaps_honest():
    """Where the time is too short for anything, the answer still holds and its gap is said."""
    rng = random.Random(9)
    shelf = [Shelf(f"o{k}", rng.randint(900, 5000), "A", False) for k in range(25)]
    shelf.append(Shelf("spool", 90_000, "A", True))
    pieces = [Alike({rng.randint(300, 1500): 1}, 6) for _ in range(10)]
    quick = cut_stock(pieces, shelf, seconds=0.2)
    check(pieces, shelf, 0, quick)
    long = cut_stock(pieces, shelf, seconds=6.0)
    assert long.spool_mm <= quick.spool_mm
    assert long.spool_mm >= quick.spool_mm * (1 - quick.gap) - 1


def test_patterns_are_all_there_are_and_the_fullest_is_the_fullest():
    sizes, rooms = [700, 450, 310], range(200, 2600, 37)
    for room in rooms:
        brute = [
            p for p in itertools.product(range(4), range(6), range(9))
            if any(p) and sum(n * s for n, s in zip(p, sizes, strict=True)) <= room
        ]  # fmt: skip
        assert sorted(all_patterns(room, sizes, [3, 5, 8], 10_000)) == sorted(brute)
        most = max((sum(n * s for n, s in zip(p, sizes, strict=True)) for p in brute), default=0)
        assert fullest(room, sizes, [3, 5, 8]) == most
    assert all_patterns(2000, sizes, [9, 9, 9], 3) is None


@pytest.mark.parametrize("shelf", [[Shelf("a", -5, "A", True)], [Shelf("a", 50, NEW, True)]])
def test_lengths_of_less_than_nothing_are_refused(shelf):
    with pytest.raises(ValueError, match=r"more than nothing|may be called"):
        cut_stock([Alike({10: 1}, 1)], shelf)
