"""What of a knot that is tied once is work: it was drawn up with its ends held somewhere, and its tails hang there without being part of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dim_ladder.shape.faces import Bead
from dim_ladder.shape.frames import hangs_straight
from dim_ladder.shape.measure import cut_off, reach_of
from dim_ladder.shape.rope import Array, Flags, along_of
from dim_ladder.shape.value import TightShape

NEAR = 1.05  # of half of both thicknesses, within which cords touch where nothing presses
CROSSES = 0.9  # cosine of the angle between two cords, above which they lie side by side and hold nothing
OWN = np.pi / 2  # diameters along itself, from which on a cord touches itself
LEAVES = 0.5  # diameters of tail that lead out of a knot, of what is held aside
IDLE = 1.0  # diameters beyond what it touches, from which on an end only hangs
TRIM = 0.3  # diameters of tail that are kept


def worked_part(
    shape: TightShape, lines: list[Array], scale: float, beads: Sequence[Bead] = ()
) -> list[Array]:
    """What is drawn of a knot that is tied once without the tails that hang where they were held: as long as it was measured, where most cords
    hold each other, and as far as its beads are, in diameters of its own. lines : scale times as large as the shape. All of it where none do."""
    if shape.kind != "held" or shape.standing or shape.cells:
        return lines  # loops stand out of it, or it is a chain with its begin and its lock
    touched = _touched(shape, [line / scale for line in lines])
    y = np.sort(np.concatenate([x[of, 1] for x, of in zip(lines, touched, strict=True)])) / scale
    if not len(y):
        return lines
    long = max(shape.pitch - 1.0, 0.0)  # between the middles of its outermost cords
    many = np.searchsorted(y, y + long, side="right") - np.arange(len(y))
    within = [b for b in beads if y[0] < b.at[1] < y[-1]]
    if within:  # what lies between beads and knots is part of it
        many += len(y) * ((y <= min(b.at[1] for b in within)) & (y + long >= max(b.at[1] for b in within)))
    top = float(y[int(np.argmax(many))]) - 0.5
    low = min([top, *(float(b.at[1]) - b.radius for b in beads)])
    high = max([top + max(shape.pitch, 1.0), *(float(b.at[1]) + b.radius for b in beads)])
    return cut_off(lines, (low - TRIM) * scale, (high + TRIM) * scale)


def _touched(shape: TightShape, lines: Sequence[Array]) -> list[Flags]:
    """By strand, which points touch another cord that crosses it, or their own further along."""
    from scipy.spatial import cKDTree  # slow to load, and nothing is drawn before a window stands

    own = np.vstack(lines)
    many = [len(x) for x in lines]
    of = np.repeat(np.arange(len(lines)), many)
    far = np.concatenate([along_of(x) for x in lines])
    wide = np.array(shape.diameter)[of]
    way = np.vstack([np.gradient(x, axis=0) for x in lines])
    way /= np.maximum(np.linalg.norm(way, axis=1), 1e-9)[:, None]
    i, j = cKDTree(own).query_pairs(NEAR * float(wide.max()), output_type="ndarray").T
    near = np.linalg.norm(own[i] - own[j], axis=1) < NEAR * (wide[i] + wide[j]) / 2
    near &= np.abs((way[i] * way[j]).sum(axis=1)) < CROSSES
    near &= (of[i] != of[j]) | (np.abs(far[i] - far[j]) > OWN * wide[i])
    out = np.zeros(len(own), bool)
    out[i[near]] = out[j[near]] = True
    return np.split(out, np.cumsum(many)[:-1])


def idle_ends(
    shape: TightShape, drawn: Sequence[Array], lines: Sequence[Array], scale: float
) -> list[tuple[int, int]]:
    """By strand, how many points of its line only hang beside work, at its head and at its foot. drawn : lines as they are in the shape; lines : as
    they are laid, scale times as large."""
    met = {k for *both, _ in shape.touching for k in both}
    if shape.kind != "held" or shape.standing or shape.cells:
        return [(0, 0) if k in met or not hangs_straight(x) else (len(x), 0) for k, x in enumerate(drawn)]
    out = []
    for line, of, wide in zip(
        lines, _touched(shape, [x / scale for x in lines]), shape.diameter, strict=True
    ):
        at, along = np.flatnonzero(of), along_of(line)
        if not len(at):
            out.append((len(line), 0) if hangs_straight(line) else (0, 0))
            continue
        least = IDLE * wide * scale
        head = int((along < along[at[0]] - least).sum())
        out.append((head, int((along > along[at[-1]] + least).sum())))
    return out


def tails_with(beads: Sequence[Bead], lines: Sequence[Array], least: float) -> tuple[float, float]:
    """How much of the tails of a held knot is to be shown for its beads on them, above and below; no less than that."""
    reach = reach_of(lines) or (0.0, 0.0)
    above = max([0.0, *(reach[0] - float(b.at[1]) + b.radius for b in beads)])
    below = max([0.0, *(float(b.at[1]) + b.radius - reach[1] for b in beads)])
    return above + least, below + least


def by_end(
    shape: TightShape, holder: Sequence[str], lines: Sequence[Array], scale: float
) -> list[tuple[str, Array, int]]:
    """The line of every end, and how many points at its end only a hand held out aside: of a cord that was laid in by its fold, from the fold down.
    holder : whose each line is, wing.a+wing.b of such a cord. lines : scale times as large as the shape."""
    out: list[tuple[str, Array, int]] = []
    touched = _touched(shape, [x / scale for x in lines]) if any("+" in e for e in holder) else ()
    for k, (name, line) in enumerate(zip(holder, lines, strict=True)):
        a, _, b = name.partition("+")
        if not b:
            out.append((a, line, 0))
            continue
        fold = int(np.argmin(line[:, 1]))
        fold = min(max(fold, 3), len(line) - 4)
        for end, own, met in (
            (a, line[: fold + 1][::-1], touched[k][: fold + 1][::-1]),
            (b, line[fold:], touched[k][fold:]),
        ):
            along = along_of(own)
            last = float(along[met].max()) if met.any() else 0.0
            beyond = int((along > last + LEAVES * shape.diameter[k] * scale).sum())
            out.append((end, own, min(beyond, len(own) - 4)))
    return out
