"""How many crossings are real: simplifying the diagram with every tail held fast.

A run of crossings in which one strand is in front all along (or behind all along) can be lifted off and laid down
again any way that stays in front; laid the shortest way, it often crosses less. Taking the best such move until none
helps covers Reidemeister's first two moves and every third one that a run can make. The result is an upper bound on
the real crossings: the diagram is not promised to be the smallest there is.

The diagram is kept as strands with their passages; edges, faces and their sides follow from those, the side on which
the over strand comes, and the order of the ends on the frame (bar above, tails below), which nothing may leave.
"""

from __future__ import annotations

from collections import Counter, deque

from dim_ladder.base.budget import spend
from dim_ladder.trace.diagram import Tangle


class TooMuch(Exception):
    """The diagram takes more work than was allowed."""


def simplified(t: Tangle, work: int = 0) -> Tangle:
    """The same with fewer crossings where runs can be laid shorter. The given tangle is left as it is.

    work : how many passages may be looked at in all, 0 for any number. Raises TooMuch beyond.
    """
    t = Tangle([list(w) for w in t.walks], dict(t.from_right), t.top, t.bottom, t.fresh)
    budget = [work or 1 << 60]
    quiet = 0  # strands looked at since the last gain
    strand = 0
    while quiet < len(t.walks):
        gained = False
        while _shorten(t, strand, budget):
            gained = True
        quiet = 0 if gained else quiet + 1
        strand = (strand + 1) % len(t.walks)
    return t


def _shorten(t: Tangle, strand: int, budget: list[int]) -> bool:
    """Lay one run of this strand shorter; False where none gets shorter."""
    walk = t.walks[strand]
    own = Counter(n for n, _ in walk)
    i = 0
    while i < len(walk):
        j = i
        while j < len(walk) and walk[j][1] == walk[i][1]:
            j += 1
        # A strand reaches from bar to tail, so to cross it once is to change sides: only a loop of its own can go.
        if j > i + 1 or own[walk[i][0]] == 2:
            budget[0] -= 2 * t.crossings
            if budget[0] < 0:
                raise TooMuch
            if _relay(t, strand, i, j):
                return True
        i = j
    return False


# A dart is an edge in one direction: (piece, edge, forward). Edge k of a piece leads from passage k - 1 to passage k.
Dart = tuple[int, int, bool]


class _Map:
    """Faces of a tangle with one strand cut open. Pieces 0.. are the strands, the last one what follows the cut."""

    def __init__(self, t: Tangle, pieces: list[list[tuple[int, bool]]], cut: int) -> None:
        self.pieces = pieces
        self.t = t
        rest = len(pieces) - 1
        where: dict[tuple[int, bool], tuple[int, int]] = {
            v: (p, k) for p, piece in enumerate(pieces) for k, v in enumerate(piece)
        }
        # After a dart: the next one round the face on its left, which is the next half edge clockwise.
        self.next: dict[Dart, Dart] = {}
        for (n, over), (p, k) in where.items():
            if over:
                continue
            q, m = where[n, True]
            # Half edges counter-clockwise as darts that lead away: under in, ..., under out, ...
            o_in, o_out = (q, m, False), (q, m + 1, True)
            sides = (o_in, o_out) if t.from_right[n] else (o_out, o_in)
            ring: list[Dart] = [(p, k, False), sides[0], (p, k + 1, True), sides[1]]
            for a in range(4):
                self.next[_back(ring[a])] = ring[a - 1]
        frame: list[Dart] = [(s, 0, True) for s in t.top]
        for s in reversed(t.bottom):
            piece = rest if s == cut else s
            frame.append((piece, len(pieces[piece]), False))
        for a in range(len(frame)):
            self.next[_back(frame[a])] = frame[a - 1]
        for loose in ((cut, len(pieces[cut]), True), (rest, 0, False)):
            self.next[loose] = _back(loose)
        self.face: dict[Dart, int] = {}
        count = 0
        for dart in self.next:
            if dart in self.face:
                continue
            at = dart
            while at not in self.face:
                self.face[at] = count
                at = self.next[at]
            count += 1
        self.faces = count

    def way(self, cut: int, most: int) -> list[Dart] | None:
        """Darts to cross, each from its left to its right, from one loose end to the other; None where that takes
        more than `most`."""
        start = self.face[cut, len(self.pieces[cut]), True]
        goal = self.face[len(self.pieces) - 1, 0, True]
        beside: dict[int, list[Dart]] = {}
        for dart, f in self.face.items():
            beside.setdefault(f, []).append(dart)
        came: dict[int, tuple[int, Dart] | None] = {start: None}
        queue = deque([(start, 0)])
        while queue:
            f, far = queue.popleft()
            if f == goal:
                out: list[Dart] = []
                step = came[f]
                while step is not None:
                    out.append(step[1])
                    step = came[step[0]]
                return out[::-1]
            if far == most:
                continue
            for dart in beside[f]:
                g = self.face[_back(dart)]
                if g not in came:
                    came[g] = (f, dart)
                    queue.append((g, far + 1))
        return None


def _back(d: Dart) -> Dart:
    return d[0], d[1], not d[2]


def _relay(t: Tangle, strand: int, i: int, j: int) -> bool:
    """Lift the run of passages i..j-1 of a strand off and lay it the shortest way, if that is shorter."""
    spend(300)
    run = t.walks[strand][i:j]
    over = run[0][1]
    gone = {n for n, _ in run}
    pieces = [[v for v in w if v[0] not in gone] for w in t.walks]
    before = sum(v[0] not in gone for v in t.walks[strand][:i])
    whole = pieces[strand]
    pieces[strand] = whole[:before]
    pieces.append(whole[before:])
    plan = _Map(t, pieces, strand)
    way = plan.way(strand, len(gone) - 1)
    if way is None:
        return False
    for n in gone:
        del t.from_right[n]
    laid: list[tuple[int, bool]] = []
    inserts: list[tuple[int, int, tuple[int, bool]]] = []
    for piece, edge, forward in way:
        n = t.fresh
        t.fresh += 1
        laid.append((n, over))
        inserts.append((piece, edge, (n, not over)))
        # The run crosses a dart from its left to its right: over a forward dart it comes from the left of it.
        t.from_right[n] = forward != over
    for piece, edge, visit in sorted(inserts, key=lambda x: (x[0], -x[1])):
        pieces[piece].insert(edge, visit)
    last = pieces.pop()
    pieces[strand] = [*pieces[strand], *laid, *last]
    t.walks[:] = pieces
    return True


def euler(t: Tangle) -> int:
    """Vertices - edges + faces of the tangle with its frame as one vertex: 2 where it is planar."""
    pieces = [*[list(w) for w in t.walks], []]
    if not t.walks:
        return 2
    # Cut the first strand at its very end: the cut adds an edge and two loose vertices.
    plan = _Map(t, pieces, 0)
    vertices = t.crossings + 1 + 2
    edges = sum(len(w) + 1 for w in t.walks) + 1
    return vertices - edges + plan.faces
