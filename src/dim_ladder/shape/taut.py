"""Where work is not held by what is packed against it: at its first and its last unit, and beside free cord.

A unit of a body is drawn up between others like it. A cord may run aside there along its neighbours, where nothing of its own unit holds
it; with free cord instead of those neighbours it is taut, from what it last touches to what it touches next.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from dim_ladder.shape.measure import cut_off
from dim_ladder.shape.rope import Array, Flags, Ints, along_of, turned
from dim_ladder.shape.value import TightShape

NEAR = (
    1.05  # of half of both thicknesses, within which cords touch: where nothing presses they lie so far apart
)
CROSSES = (
    0.9  # cosine of the angle between two cords, above which they lie side by side and do not hold each other
)
OWN = np.pi / 2  # diameters along itself, from which on a cord touches itself
DEEP = 2.0  # diameters down, the most that is let go: further in, other work would lie in the way
TRIM = 0.3  # diameters of tail that are kept of a knot that is tied once
ASIDE = 1.0  # diameters, the least that cord runs aside where it is let go
CLEAR = 0.6  # diameters between cords that are led anew, below which they stay as they are


def taut(
    shape: TightShape,
    lines: Sequence[Array],
    scale: float,
    units: int,
    above: Sequence[Array | None],
    lay: Callable[[Array], Array],
) -> list[Array]:
    """What is drawn of so many units without what runs aside above and below where nothing of the section holds it.

    lines : (n, 3) by the cord that begins in each strand, scale times as large as the shape. above : what of each cord was drawn before, as the
    piece lies; lay : points as the piece lies. Where cords led on to it would run through each other, it begins as it was.
    """
    if _stays(shape):
        return list(lines)
    if shape.kind == "cell":
        heads, tails = loose_ends(shape, units)
    else:
        heads, tails = let_go(shape, [line / scale for line in lines], above=False, below=False)
    lines = [line[: len(line) - n] for line, n in zip(lines, tails, strict=True)]
    ways = [
        (last[-1], lay(line[n : n + 1])[0])
        for last, line, n in zip(above, lines, heads, strict=True)
        if last is not None
    ]
    return [line[n:] for line, n in zip(lines, heads, strict=True)] if _clear(ways) else lines


def let_go(
    shape: TightShape, lines: Sequence[Array], *, above: bool, below: bool
) -> tuple[list[int], list[int]]:
    """By strand, how many points of its line are free before the first and after the last that something holds.

    lines : (n, 3) of one unit, or a part of it, by strand. above, below : whether other units are packed against it there.
    Beads and standing loops hold their cord too; what touches nothing stays.
    """
    if shape.places:  # each as it hangs by itself
        return [0] * len(lines), [0] * len(lines)
    held = [h | k for h, k in zip(_touched(shape, lines, above, below), _marked(shape, lines), strict=True)]
    heads, tails = [], []
    deep = np.inf if shape.kind == "held" else DEEP  # the tails of what is tied once lie free
    for line, of in zip(lines, held, strict=True):
        at = np.flatnonzero(of)
        first, last = (int(at[0]), int(at[-1])) if len(at) else (0, len(line) - 1)
        heads.append(first if _aside(line[: first + 1], deep) else 0)
        tails.append(len(line) - 1 - last if _aside(line[last:], deep) else 0)
    kept = [h + t + 4 < len(line) for h, t, line in zip(heads, tails, lines, strict=True)]
    return [h * k for h, k in zip(heads, kept, strict=True)], [
        t * k for t, k in zip(tails, kept, strict=True)
    ]


def _aside(line: Array, deep: float) -> bool:
    """Whether free cord runs aside, and less than so deep down."""
    return bool(np.hypot(np.ptp(line[:, 0]), np.ptp(line[:, 2])) > ASIDE and np.ptp(line[:, 1]) < deep)


def loose_ends(shape: TightShape, units: int) -> tuple[list[int], list[int]]:
    """The same of so many units that go on in each other, by the cord that begins in each strand: of the first unit, and of the last.
    Of a knot that is tied once, of what is drawn of it."""
    heads, _ = let_go(shape, shape.lines, above=False, below=units > 1)
    _, last = let_go(shape, shape.lines, above=units > 1, below=False)
    begun: list[int] = list(range(len(last)))
    for _ in range(units - 1):
        begun = shape.handed_on(begun)
    tails = [0] * len(last)
    for k, of in enumerate(begun):
        tails[of] = last[k]
    return heads, tails


def worked_part(shape: TightShape, lines: list[Array], scale: float) -> list[Array]:
    """What is drawn of a knot that is tied once without the tails that hang where they were held: as long as it was measured, where most cords
    hold each other. lines : scale times as large as the shape. All of it where none do."""
    if shape.kind != "held" or _stays(shape):
        return lines
    touched = _touched(shape, [line / scale for line in lines], False, False)
    y = np.sort(np.concatenate([x[of, 1] for x, of in zip(lines, touched, strict=True)])) / scale
    if not len(y):
        return lines
    long = max(shape.pitch - 1.0, 0.0)  # between the middles of its outermost cords
    many = np.searchsorted(y, y + long, side="right") - np.arange(len(y))
    top = float(y[int(np.argmax(many))]) - 0.5
    return cut_off(lines, (top - TRIM) * scale, (top + max(shape.pitch, 1.0) + TRIM) * scale)


def _stays(shape: TightShape) -> bool:
    """Whether nothing of it is let go: loops stand out of it, beads are pushed up to it, or it is a chain with its begin and its lock."""
    if shape.kind == "held":
        return bool(shape.standing or shape.beads) or shape.cells > 0
    return bool(shape.standing) or shape.kind != "cell"


def _clear(ways: Sequence[tuple[Array, Array]]) -> bool:
    """Whether cords can be led straight, each from one point to another, and none through another."""
    u = np.linspace(0.0, 1.0, 24)[:, None]
    lines = [a + u * (b - a) for a, b in ways]
    for k, one in enumerate(lines):
        for other in lines[k + 1 :]:
            if np.linalg.norm(one[:, None] - other[None], axis=2).min() < CLEAR:
                return False
    return True


def _touched(shape: TightShape, lines: Sequence[Array], above: bool, below: bool) -> list[Flags]:
    """By strand, which points touch another cord, or their own further along."""
    from scipy.spatial import cKDTree  # slow to load, and nothing is drawn before a window stands

    own = np.vstack(lines)
    many = [len(x) for x in lines]
    of = np.repeat(np.arange(len(lines)), many)
    far = np.concatenate([along_of(x) for x in lines])
    wide = np.array(shape.diameter)[of]
    way = np.vstack([_ways(x) for x in lines])
    out = np.zeros(len(own), bool)
    for unit in (0, *([-1] if above else []), *([1] if below else [])):
        at = own if unit == 0 else turned(own, unit, shape.angle, shape.pitch)
        pairs = cKDTree(own).sparse_distance_matrix(
            cKDTree(at), NEAR * float(wide.max()), output_type="ndarray"
        )
        i, j = np.asarray(pairs["i"], np.int64), np.asarray(pairs["j"], np.int64)
        near = pairs["v"] < NEAR * (wide[i] + wide[j]) / 2
        near &= np.abs((way[i] * turned(way, unit, shape.angle, 0.0)[j]).sum(axis=1)) < CROSSES
        other = (of[i] != of[j]) | (np.abs(far[i] - far[j]) > OWN * wide[i])
        if unit:
            other = _apart(shape, of, far, many, i, j, unit)
        out[i[near & other]] = True
    return np.split(out, np.cumsum(many)[:-1])


def _ways(line: Array) -> Array:
    """(n, 3) of length 1, the ways in which a cord runs."""
    way = np.gradient(line, axis=0)
    return np.asarray(way / np.maximum(np.linalg.norm(way, axis=1), 1e-9)[:, None])


def _apart(
    shape: TightShape, of: Ints, far: Array, many: Sequence[int], i: Ints, j: Ints, unit: int
) -> Flags:
    """Whether points of this unit and of one beside it are not the same cord a little further along."""
    long = np.array([far[n - 1] for n in np.cumsum(many)])
    follow = np.array(shape.follow)
    first, second = (i, j) if unit > 0 else (j, i)
    goes_on = follow[of[first]] == of[second]
    along = long[of[first]] - far[first] + far[second]
    return np.asarray(~goes_on | (along > OWN * np.array(shape.diameter)[of[first]]))


def _marked(shape: TightShape, lines: Sequence[Array]) -> list[Flags]:
    """By strand, which points lie in a bead or at a standing loop."""
    out = [np.zeros(len(x), bool) for x in lines]
    for strand, part in (
        *((k, p) for k, p, *_ in shape.beads),
        *((s.strand, s.part) for s in shape.standing),
    ):
        along = along_of(lines[strand])
        out[strand][min(int(np.searchsorted(along, part * along[-1])), len(along) - 1)] = True
    return out
