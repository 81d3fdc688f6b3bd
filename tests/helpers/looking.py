"""Looking at a picture of a step: where cords cross, told from the lines that are drawn and nothing else."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from functools import lru_cache

import numpy as np

from dim_ladder.picture.display import Disc, Label, Line, Picture
from dim_ladder.picture.parts import flattened

Point = tuple[float, float]


@lru_cache(maxsize=4)
def courses(picture: Picture) -> tuple[dict[int, list[Point]], dict[int, float]]:
    """Every cord from its top to its tip, by the number in its tag, and where on the moving ones the drawn-in part begins (in
    nodes). A cord is drawn in at most two pieces: what lay there before, and what moves."""
    widest: dict[int, list[tuple[float, list[Point]]]] = {}
    for s in picture.shapes:
        if isinstance(s, Line) and s.tag.startswith("end") and not s.dash:
            pts = flattened(s.path)
            widest.setdefault(int(s.tag[3:]), []).append((s.width, pts))
    out, since = {}, {}
    for end, lines in widest.items():
        pieces: list[list[Point]] = []
        for _, pts in lines:
            if not any(_same(pts, p) for p in pieces):
                pieces.append(pts)
        pieces.sort(key=length, reverse=True)
        whole = pieces[0]
        # The piece that goes on from another: it begins where that one stops.
        for p in pieces[1:]:
            a, b = (whole, p) if joins(whole, p) else (p, whole) if joins(p, whole) else ([], [])
            if a and length(p) > 8.0 and not inside(p, whole):
                k = min(range(len(b)), key=lambda k: math.dist(b[k], a[-1]))
                since[end] = float(len(a))
                whole = [*a, *b[k + 1 :]]
                break
        out[end] = whole
    return out, since


@lru_cache(maxsize=4)
def elsewhere(picture: Picture) -> list[list[Point]]:
    """What else of cords runs through a picture, and out of it again at its top."""
    main, _ = courses(picture)
    found: list[list[Point]] = []
    for s in picture.shapes:
        if isinstance(s, Line) and s.tag.startswith("end") and not s.dash:
            pts = flattened(s.path)
            out_at_top = max(pts[0][1], pts[-1][1]) < 2.0 and length(pts) > 8.0
            if out_at_top and not inside(pts, main[int(s.tag[3:])]) and not any(_same(pts, p) for p in found):
                found.append(pts)
    return found


def _same(a: list[Point], b: list[Point]) -> bool:
    return len(a) == len(b) and all(math.dist(p, q) < 0.01 for p, q in zip(a, b, strict=True))


def length(p: list[Point]) -> float:
    return sum(math.dist(a, b) for a, b in itertools.pairwise(p))


def inside(p: list[Point], whole: list[Point]) -> bool:
    """Whether a piece only lies on a longer one, as a bridge over a crossing does."""
    return all(
        min(_off(q, a, b) for a, b in itertools.pairwise(whole)) < 0.6 for q in (p[0], p[len(p) // 2], p[-1])
    )


def _off(q: Point, a: Point, b: Point) -> float:
    dx, dy = b[0] - a[0], b[1] - a[1]
    size = dx * dx + dy * dy
    f = 0.0 if not size else min(1.0, max(0.0, ((q[0] - a[0]) * dx + (q[1] - a[1]) * dy) / size))
    return math.dist(q, (a[0] + f * dx, a[1] + f * dy))


def joins(a: list[Point], b: list[Point]) -> bool:
    return min(math.dist(a[-1], q) for q in b[: max(8, len(b) // 2)]) < 3.0


def meetings(one: list[Point], other: list[Point], same: bool) -> list[tuple[float, float, Point]]:
    """Where two courses cross: place on the one, on the other, and the point; of a course with itself, either way."""
    p, q = np.array(one), np.array(other)
    a, u = p[:-1, None], (p[1:] - p[:-1])[:, None]
    c, v = q[None, :-1], (q[1:] - q[:-1])[None]
    den = u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0]
    flat = np.abs(den) < 1e-9
    den = np.where(flat, 1.0, den)
    w = c - a
    f = (w[..., 0] * v[..., 1] - w[..., 1] * v[..., 0]) / den
    g = (w[..., 0] * u[..., 1] - w[..., 1] * u[..., 0]) / den
    met = ~flat & (f >= 0) & (f < 1) & (g >= 0) & (g < 1)
    i, j = np.nonzero(met)
    if same:
        i, j = i[np.abs(i - j) >= 3], j[np.abs(i - j) >= 3]
    spot = p[i] + (p[i + 1] - p[i]) * f[i, j][:, None]
    return [
        (float(x), float(y), (float(s[0]), float(s[1])))
        for x, y, s in zip(i + f[i, j], j + g[i, j], spot, strict=True)
    ]


def number_at(picture: Picture, number: int) -> Point:
    spots = [s for s in picture.shapes if isinstance(s, Disc) and s.tag == "number"]
    texts = [
        s for s in picture.shapes if isinstance(s, Label) and s.tag == "number" and s.text == str(number)
    ]
    assert len(texts) == 1, f"number {number} stands {len(texts)} times"
    spot = min(spots, key=lambda s: math.dist((s.x, s.y), (texts[0].x, texts[0].y)))
    return spot.x, spot.y


def earlier(picture: object, first: int) -> bool:
    """Whether a picture bears numbers of passages before the first in its own sentence."""
    assert isinstance(picture, Picture)
    texts = [s.text for s in picture.shapes if isinstance(s, Label) and s.tag == "number"]
    return any(int(x) < first for x in texts)


def tags(picture: Picture, ends: Mapping[str, int]) -> dict[str, int]:
    """Which cord bears which letter: its tip lies at it. ends : letters there are."""
    drawn, _ = courses(picture)
    out = {}
    for s in picture.shapes:
        if isinstance(s, Label) and s.tag == "label" and s.text in ends:
            out[s.text] = min(drawn, key=lambda e: math.dist(drawn[e][-1], (s.x, s.y)))
    return out


def passage(
    picture: Picture, ends: Mapping[str, int], me: str, it: str, number: int, ringed: bool = False
) -> tuple[float, float, Point]:
    """Where the moving end `me` passes `it` at a number: place on either. ringed : whether a ring lies round the passage itself."""
    drawn, since = courses(picture)
    mine, its = (tags(picture, ends)[x] for x in (me, it))
    found = meetings(drawn[mine], drawn[its], mine == its)
    spot = number_at(picture, number)
    if ringed:
        rings = [(s.x, s.y) for s in picture.shapes if isinstance(s, Disc) and s.tag == "pass"]
        spot = min(rings, key=lambda ring: math.dist(ring, spot), default=spot)
    begin = since.get(mine, 0.0)
    # The end itself passes: of two visits of one cord to a crossing, the later.
    found = [x for x in found if x[0] >= begin - 1.0 and (mine != its or x[0] > x[1])]
    assert found, f"{me} meets {it} nowhere in its picture"
    return min(found, key=lambda x: math.dist(x[2], spot))


def counted(
    picture: object, ends: Mapping[str, int], me: str, it: str, number: int, crossed: int | None = None
) -> int:
    """How many crossings lie on `it` between its tail and where `me` passes it, before `me` does. crossed : what `me` has met in this
    picture when it sets out on a way that crosses more than its number; None where it only passes `it`."""
    assert isinstance(picture, Picture)
    drawn, _ = courses(picture)
    at, there, _ = passage(picture, ends, me, it, number, crossed is not None)
    mine, its = (tags(picture, ends)[x] for x in (me, it))
    since = at if crossed is None else begun(picture, mine, crossed)
    count = 0
    for end, course in drawn.items():
        for a, b, _ in meetings(drawn[its], course, end == its):
            # What the moving end has not come to yet does not count, nor this passage.
            late = (end == mine and b >= since - 1e-6) or (its == mine and a >= since - 1e-6)
            if a > there + 1e-6 and not late:
                count += 1
    return count + sum(
        a > there + 1e-6 for run in elsewhere(picture) for a, _, _ in meetings(drawn[its], run, False)
    )


def begun(picture: Picture, mine: int, crossed: int) -> float:
    """Where on its course the moving end is when it has met so many, from where it began to move."""
    drawn, since = courses(picture)
    begin = since.get(mine, 0.0)
    met = sorted(
        x[0]
        for it, course in drawn.items()
        for x in meetings(drawn[mine], course, it == mine)
        if x[0] > begin and (it != mine or x[0] > x[1])
    )
    return met[crossed - 1] + 1e-3 if crossed else begin


def side_of(picture: object, ends: Mapping[str, int], me: str, it: str, number: int) -> str:
    """On which side of `it`, as it hangs, the moving end lies before it passes it."""
    assert isinstance(picture, Picture)
    drawn, _ = courses(picture)
    at, there, point = passage(picture, ends, me, it, number, True)
    k, j = int(at), int(there)
    mine, its = (drawn[tags(picture, ends)[x]] for x in (me, it))
    (ax, ay), (bx, by) = its[j], its[j + 1]
    x, y = mine[k]
    if math.dist((x, y), point) < 1e-6 and k:
        x, y = mine[k - 1]
    # Going down the cord, y downwards: what lies to its left has a positive cross product.
    return "left" if (bx - ax) * (y - ay) - (by - ay) * (x - ax) > 0 else "right"


def goes_into(picture: object, ends: Mapping[str, int], me: str, it: str, number: int, whose: str) -> bool:
    """Whether the moving end goes into the first loop that `whose` makes with itself where it passes `it` at a number, or comes out
    of it; it does the one or the other."""
    assert isinstance(picture, Picture)
    drawn, _ = courses(picture)
    named = tags(picture, ends)
    owner = drawn[named[whose]]
    a, b, _ = min((m for m in meetings(owner, owner, True) if m[0] < m[1]), key=lambda m: m[1])
    loop = np.array(owner[int(a) + 1 : int(b) + 1])
    at, _, _ = passage(picture, ends, me, it, number)
    mine = np.array(drawn[named[me]])
    before, after = (_around(loop, _beside(mine, at, way)) for way in (-1, 1))
    assert before != after, f"{me} goes neither into {whose}’s first loop at {number} nor out of it"
    return after


def _beside(course: np.ndarray, at: float, way: int) -> np.ndarray:
    """A point of a course a cord's width before a place on it, or behind it."""
    k = min(max(int(at), 0), len(course) - 2)
    here = course[k] + (course[k + 1] - course[k]) * (at - k)
    left = 5.0
    nodes = course[k::-1] if way < 0 else course[k + 1 :]
    for node in nodes:
        size = float(np.hypot(*(node - here)))
        if size >= left:
            return np.asarray(here + (node - here) * (left / size))
        left, here = left - size, node
    return np.asarray(here)


def _around(loop: np.ndarray, point: np.ndarray) -> bool:
    """Whether a closed line goes round a point: the angle under which it is seen from there."""
    away = loop - point
    angle = np.arctan2(away[:, 1], away[:, 0])
    turns = np.diff(np.append(angle, angle[0]))
    return bool(abs(float(((turns + np.pi) % (2 * np.pi) - np.pi).sum())) > np.pi)
