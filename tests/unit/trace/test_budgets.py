"""A script cannot ask for more work than a weave may: it is refused in words, with its place, and what nobody waits for any
more leaves off."""

import pytest

from dim_ladder.base import Cancelled, InputError
from dim_ladder.base.budget import (
    ASK_EVERY,
    MOST_CORDS,
    MOST_LAYERS,
    MOST_PROBLEMS,
    STEP_WORK,
    TRACE_WORK,
    Meter,
    TooMuch,
    metered,
    spend,
)
from dim_ladder.notation import parse, parse_strict
from dim_ladder.trace import (
    Tracer,
    check_structure,
    colour_cycle,
    cycles,
    end_cycle,
    permutation,
    trace,
)
from dim_ladder.trace.roles import roles
from dim_ladder.trace.solved import solve_knot
from dim_ladder.trace.turning import turning

HEAD = """weave "x"
cords
  a k #112233
  b k #112233
hang
  a.a a.b b.a b.b
"""
BODY = "section s: body, repeat 1\n"


def hung(cords, body):
    names = [f"c{i}" for i in range(cords)]
    lines = "".join(f"  {n} k #112233\n" for n in names)
    ends = " ".join(f"{n}.a {n}.b" for n in names)
    return f'weave "x"\ncords\n{lines}hang\n  {ends}\n{BODY}{body}'


def nested(deep, times, call="  {0} (p | q)\n"):
    knots = "knot k0 (p | q)\n  p: over q\n"
    for i in range(1, deep):
        knots += f"knot k{i} (p | q)\n" + call.format(f"k{i - 1}") * times
    return knots


REFUSED = {
    "turns through an own loop": (HEAD + BODY + "  1: over 2, up own turns 80\n", "This step asks for more work"),
    "turns in many passes": (HEAD + BODY + "  1: over 2" + ", up own" * 300 + "\n", "This step asks for more work"),
    "many heavy steps": (
        HEAD + "section s: body, repeat 9000\n  1: over 2, up own turns 12\n  2: over 1\n", "up to here this weave asks for more",
    ),
    "empty knots in empty knots": (
        HEAD + "knot e (p)\nknot f (p)\n  e (p) repeat 10000\nknot g (p)\n  f (p) repeat 10000\n" + BODY + "  g (1)\n",
        "makes more than 20,000 steps",
    ),
    "empty knots again and again": (HEAD + "knot e (p)\n" + "section s: body, repeat 10000\n  e (1) repeat 10000\n", "more than 20,000 steps"),
    "knots of knots": (HEAD + nested(8, 10) + BODY + "  k7 (1 | 2)\n", "makes more than 20,000 steps"),
    "knots of knots in a mirror": (HEAD + nested(8, 10) + "knot m = mirror k7\n" + BODY + "  m (1 | 2)\n", "makes more than 20,000 steps"),
    "a fan of repeats": (HEAD + nested(9, 2, "  {0} (p | q) repeat 10000\n") + BODY + "  k8 (1 | 2)\n", "makes more than 20,000 steps"),
    "knots too deep": (HEAD + nested(40, 1) + BODY + "  k39 (1 | 2)\n", "lies too deep"),
    "a knot made of itself": (HEAD + "knot k (p)\n  j (p)\nknot j (p)\n  k (p)\n" + BODY + "  k (1)\n", "is made from “k” itself"),
    "ranges": (HEAD + BODY + "  flat (" + "1200..1 " * 100 + "| 2)\n", "fewer places"),
    "ranges on many lines": (HEAD + BODY + "  plait (1200..1 1200..1)\n" * 60, "ends are named"),
    "cords": (hung(MOST_CORDS + 1, "  1: over 2\n"), "more than 600 cords"),
    "sections": (HEAD + "".join(f"section s{i}: body\n  1: over 2\n" for i in range(301)), "more than 300 sections"),
    "knots": (HEAD + nested(401, 1), "more than 400 knots"),
    "layers": (
        HEAD + "section s0: body\n  1: over 2\n"
        + "".join(f"section s{i}: body, layer over s{i - 1}\n  1: over 2\n" for i in range(1, MOST_LAYERS + 2)),
        "layers lie over each other",
    ),
    "a long line": (HEAD + BODY + "  1: over 2  -- " + "x" * 4000 + "\n", "this line is too long"),
    "a long name": (HEAD.replace("  b k", "  " + "b" * 200 + " k"), "this name is too long"),
}  # fmt: skip


@pytest.mark.parametrize("what", REFUSED)
def test_it_is_refused_in_words_with_its_place(what):
    text, words = REFUSED[what]
    with metered(2 * TRACE_WORK) as meter:
        parsed = parse(text)
        problems = parsed.problems or trace(parsed.weave, parsed=parsed).problems
    assert meter.left > 0
    assert words in problems[0].message, problems[0]
    assert problems[0].line > 1
    assert len(problems) <= MOST_PROBLEMS


def test_what_is_wrong_a_thousand_times_is_told_a_hundred_times():
    assert len(parse(HEAD + BODY + "  q.a: over 2\n" * 2000).problems) == MOST_PROBLEMS
    assert len(parse("x\n" * 2000).problems) == MOST_PROBLEMS
    assert len(trace(parse_strict(HEAD + BODY + "  kn (1 | 2)\n" * 2000)).problems) == MOST_PROBLEMS


def test_the_widest_and_longest_work_that_is_allowed_is_worked_out():
    weave = parse_strict(hung(300, "".join(f"  {n}: over {n + 1}\n" for n in range(1, 599, 2))))
    t = trace(weave)
    assert not t.problems
    assert turning(weave, "s").kind == "spiral"
    assert end_cycle(t) == 2
    same = "".join(f"section s{i}: body, same as s{i - 1}\n  1: over 2\n" for i in range(1, 300))
    weave = parse_strict(HEAD + "section s0: body, repeat 2\n  1: over 2\n" + same)
    assert len(trace(weave).steps) == 600
    assert len(roles(weave).names) >= 1


def test_knots_that_name_each_other_again_and_again_are_worked_out_once():
    """Ten ways to each of four knots: ten thousand steps, but four knots to solve."""
    text = (
        HEAD
        + nested(5, 10)
        + "".join(f"knot m{i} = mirror m{i - 1}\n" for i in range(1, 300)).replace("m0", "k4")
    )
    weave = parse_strict(text + BODY + "  m299 (1 | 2)\n")
    with metered(200_000):
        solved = solve_knot(weave, "m299")
    assert solved.length(4) == 10_000
    even, odd = solve_knot(weave, "m298"), solve_knot(weave, "m297")
    assert [p.name for p in even.params] == [p.name for p in solve_knot(weave, "k4").params]
    assert even.params == odd.params[::-1]


def test_colours_are_the_same_again_after_a_number_that_need_not_be_counted_to():
    """Orbits of 2, 3, 5, ... 23 places: everything is back after 223,092,870 units, the colours far sooner."""
    sizes, steps, at = (2, 3, 5, 7, 11, 13, 17, 19, 23), [], 1
    for size in sizes:
        steps += [f"  {at}: over {' '.join(str(n) for n in range(at + 1, at + size))}\n"]
        at += size
    weave = parse_strict(hung(50, "".join(steps)))
    t = trace(weave)
    assert not t.problems
    assert sorted({len(c) for c in cycles(permutation(t))} - {1}) == list(sizes)
    assert end_cycle(t) == 223_092_870
    assert colour_cycle(t) == 1
    assert turning(weave, "s") is not None


HEAVY = (
    HEAD
    + "knot k (p | q)\n"
    + "  p: over q\n  q: over p, up own turns 3\n" * 10
    + "section s: body, repeat 4\n  k (1 | 2) repeat 3\n"
)


def test_told_to_stop_it_goes_on_from_there_and_comes_to_the_same():
    weave = parse_strict(HEAVY)
    whole = Tracer().trace(weave)
    tracer, stops = Tracer(), 0
    while True:
        try:
            found = tracer.trace(weave, cancel=lambda: True)
            break
        except Cancelled:
            stops += 1
            so_far = tracer.so_far(weave, None)
            assert len(so_far.steps) <= len(whole.steps)
    assert stops > 3  # in the midst of a call of a knot, too
    assert found == whole
    check_structure(found)


def test_told_to_stop_in_the_midst_of_a_knot_another_weave_is_begun_from_what_is_alike():
    weave = parse_strict(HEAVY)
    tracer = Tracer()
    with pytest.raises(Cancelled):
        tracer.trace(weave, cancel=lambda: True)
    other = parse_strict(HEAVY.replace("repeat 3\n", "repeat 2\n"))
    assert tracer.trace(other) == Tracer().trace(other)
    with pytest.raises(Cancelled):
        tracer.trace(weave, cancel=lambda: True)
    assert tracer.trace(weave) == Tracer().trace(weave)


def test_a_meter_asks_often_and_ends_what_is_too_much():
    asked = []
    with metered(10 * ASK_EVERY, lambda: bool(asked.append(1))), pytest.raises(TooMuch) as e:  # noqa: PT012
        for _ in range(100):
            spend(ASK_EVERY // 2)
    assert len(asked) >= 4
    assert isinstance(e.value, InputError)
    assert "more work" in str(e.value)
    spend(10**18)  # nobody counts
    with metered(100) as outer, metered(50), pytest.raises(TooMuch):
        spend(60)
    assert outer.left == 40
    with pytest.raises(Cancelled):
        Meter(10**9, lambda: True).spend(ASK_EVERY + 1)
    assert STEP_WORK >= 10 * ASK_EVERY
