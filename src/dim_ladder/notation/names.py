"""Whether what a weave names is there: cords, ends, beads and places of knots, across all lines of its script."""

from __future__ import annotations

from collections.abc import Callable, Collection

from dim_ladder.notation.cursor import nearest
from dim_ladder.notation.refs import item_refs
from dim_ladder.notation.values import LEGGED, LEGS, STRUNG, Add, Item, Rotate, Step, Thread, Weave

Path = tuple[object, ...]
Say = Callable[[Path, str, str], None]  # where, what is wrong, what to do


def check_names(weave: Weave, say: Say, misread: Collection[str] = ()) -> None:
    """Say of everything that is named and is not there where it stands, and what may have been meant. misread : cords of which something else
    is said already."""
    cords = {c.name for c in weave.cords}.union(misread)
    for end in weave.hang.ends:
        _check_end(say, ("hang",), end, cords, STRUNG + (LEGS if weave.hang.on in LEGGED else ""))
        cord, _, letter = end.partition(".")
        if letter == STRUNG and (
            any(f"{cord}.{x}" in weave.hang.ends for x in f"ab{LEGS}") or _added(weave, cord)
        ):
            say(
                ("hang",),
                f"{cord} is strung between two points, so it has no working end",
                f"Hang {cord}.s alone, or another cord",
            )
        if end[-2:] in (".m", ".n") and f"{end[:-1]}{'ab'['mn'.index(end[-1])]}" not in weave.hang.ends:
            say(
                ("hang",),
                f"{end} hangs without the end it belongs to",
                f"Hang {end[:-1]}{'ab'['mn'.index(end[-1])]} too",
            )
    _check_joins(weave, say)
    beads = {b.name for b in weave.beads}
    for knot in weave.knots:
        names = {p.name for p in knot.params}
        for i, step in enumerate(knot.steps):
            path: Path = ("knot", knot.name, i)
            _check_beads(say, path, step, beads)
            for ref in item_refs(step):
                if isinstance(ref, int):
                    say(path, f"a knot names its places; “{ref}” is a number", nearest("", names))
                elif ref not in names:
                    say(path, f"“{ref}” is not a place of {knot.name}", nearest(ref, names))
    known = set(weave.hang.ends) | {s.over for s in weave.sections if s.over}
    known |= {f"{c.name}.{x}" for c in weave.cords for x in "ab" if _comes_in(weave, c.name)}
    for s, section in enumerate(weave.sections):
        if section.former is not None and not section.former.leads:
            say(("section", s), f"{section.name} has no leads and bights", "Such as: leads 5 bights 8")
        for i, item in enumerate(section.items):
            path = ("section", s, i)
            _check_beads(say, path, item, beads)
            if isinstance(item, Add):
                for end in item.ends:
                    _check_end(say, path, end, cords)
            for ref in item_refs(item):
                if isinstance(ref, str) and ref not in known:
                    say(path, f"no end “{ref}” hangs here", nearest(ref, known))


def _check_joins(weave: Weave, say: Say) -> None:
    """Two cords that are joined hang by one end each; the other ends are one."""
    taken: set[str] = set()
    for i, c in enumerate(weave.cords):
        if not c.joined:
            continue
        path: Path = ("cord", i)
        others = [o.name for o in weave.cords if o.name != c.name]
        if c.joined not in others:
            say(
                path,
                f"there is no other cord “{c.joined}” to join {c.name} to",
                nearest(c.joined, others),
            )
        elif {c.name, c.joined} & taken:
            again = c.name if c.name in taken else c.joined
            say(path, f"{again} is joined twice", "A cord that is folded has one other end to join")
        else:
            for name in (c.name, c.joined):
                hung = sum(f"{name}.{x}" in weave.hang.ends for x in "ab")
                why = f"both ends of {name} are worked" if hung else f"no end of {name} hangs"
                if hung != 1 or _comes_in(weave, name):
                    say(path, f"{why}, so it cannot be joined", f"Hang one of {name}.a and {name}.b")
        taken |= {c.name, c.joined}


def _check_end(say: Say, path: Path, end: str, cords: set[str], legs: str = "") -> None:
    cord, _, letter = end.partition(".")
    if cord not in cords:
        say(path, f"{end} hangs, but there is no cord “{cord}”", nearest(cord, cords))
    elif letter not in ("a", "b", *legs):
        say(path, f"{end} is not an end", f"A cord has two ends: {cord}.a and {cord}.b")


def _check_beads(say: Say, path: Path, item: Item, beads: set[str]) -> None:
    if isinstance(item, Step):
        for hop in item.hops:
            if isinstance(hop, Thread) and hop.bead not in beads:
                hint = (
                    nearest(hop.bead, beads) or "Add a part: beads, with a line such as: shell 8 mm #f4f2ec"
                )
                say(path, f"there is no bead “{hop.bead}”", hint)


def _added(weave: Weave, cord: str) -> bool:
    return any(
        isinstance(i, Add) and any(e.split(".")[0] == cord for e in i.ends)
        for s in weave.sections
        for i in s.items
    )


def _comes_in(weave: Weave, cord: str) -> bool:
    """Whether ends of a cord that do not hang at first come in later: by `add`, or when the work is rotated."""
    for section in weave.sections:
        for item in section.items:
            if isinstance(item, Rotate) and any(e.split(".")[0] == cord for e in weave.hang.ends):
                return True
            if isinstance(item, Add) and any(e.split(".")[0] == cord for e in item.ends):
                return True
    return False
