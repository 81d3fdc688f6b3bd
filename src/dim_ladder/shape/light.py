"""Where light does not come: beside and below what lies over it. It makes depth readable on paper."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dim_ladder.shape.rope import Array

SLANT = 0.32  # how far aside a shadow falls, of how far below it is seen
REACH = 0.8  # diameters from the middle of a shadow, to where it ends
CLOSE, FAR = 0.3, 3.0  # diameters above: nearer is the cord itself, further lies in no shadow
SPARSE = 0.5  # diameters between points that are looked at


def shadows(seen: Sequence[tuple[Array, Array]], light: tuple[float, float]) -> list[Array]:
    """By line, at every point: how much of the light is kept from it, 0 to 1. seen : places on paper, (n, 2), and how near to the eye, (n,),
    in diameters. light : where it comes from, on paper."""
    count = [len(depth) for _, depth in seen]
    if not count:
        return []
    chosen = [_some(flat) for flat, _ in seen]
    flat = np.vstack([f[k] for (f, _), k in zip(seen, chosen, strict=True)])
    depth = np.concatenate([d[k] for (_, d), k in zip(seen, chosen, strict=True)])
    # Along the light all that lies in the same ray comes to the same place.
    along = flat - np.array(light) * SLANT * depth[:, None]
    from scipy.spatial import cKDTree  # slow to load, and nothing is drawn before a window stands

    i, j = cKDTree(along).query_pairs(REACH, output_type="ndarray").T
    above = depth[j] - depth[i]
    under = np.where(above > 0, i, j)
    kept = (np.abs(above) > CLOSE) & (np.abs(above) < FAR)
    dark = np.clip(1 - np.linalg.norm(along[i] - along[j], axis=1) / REACH, 0, 1)
    out = np.zeros(len(depth))
    np.maximum.at(out, under[kept], dark[kept])
    parts = np.split(out, np.cumsum([len(k) for k in chosen])[:-1])
    return [np.interp(np.arange(n), k, _evened(p)) for n, k, p in zip(count, chosen, parts, strict=True)]


def _some(flat: Array) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """Which points of a line are looked at."""
    step = float(np.linalg.norm(np.diff(flat, axis=0), axis=1).mean()) if len(flat) > 1 else 1.0
    every = max(1, int(SPARSE / max(step, 1e-6)))
    return np.unique(np.append(np.arange(0, len(flat), every), len(flat) - 1)).astype(np.int64)


def _evened(values: Array) -> Array:
    if len(values) < 3:
        return values
    padded = np.pad(values, 1, mode="edge")
    return np.asarray((padded[:-2] + 2 * padded[1:-1] + padded[2:]) / 4, np.float64)
