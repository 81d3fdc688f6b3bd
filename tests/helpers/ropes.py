"""Closed curves whose ropelength (length over radius) is published or exact, loose, as points in diameters."""

from __future__ import annotations

import numpy as np

T = np.linspace(0, 2 * np.pi, 241)


def _circle(centre, u, v):
    t = T[:, None]
    return np.array(centre) + np.cos(t) * np.array(u) + np.sin(t) * np.array(v)


# Trefoil and figure-eight: Ashton, Cantarella, Piatek and Rawdon, Knot tightening by constrained gradient descent,
# Experimental Mathematics 20 (2011). Borromean rings: Cantarella, Fu, Kusner, Sullivan and Wrinkle, Criticality for the
# Gehring link problem, Geometry & Topology 10 (2006). Hopf link: 8 pi, exact.
KNOWN = {
    "trefoil": (
        [np.column_stack([np.sin(T) + 2 * np.sin(2 * T), np.cos(T) - 2 * np.cos(2 * T), -np.sin(3 * T)]) * 1.3],
        32.743,
    ),
    "figure-eight": (
        [np.column_stack([(2 + np.cos(2 * T)) * np.cos(3 * T), (2 + np.cos(2 * T)) * np.sin(3 * T), np.sin(4 * T)]) * 1.5],
        42.089,
    ),
    "Borromean rings": (
        [
            _circle((0, 0, 0), (3.6, 0, 0), (0, 1.6, 0)),
            _circle((0, 0, 0), (0, 3.6, 0), (0, 0, 1.6)),
            _circle((0, 0, 0), (0, 0, 3.6), (1.6, 0, 0)),
        ],
        58.006,
    ),
    "Hopf link": ([_circle((0, 0, 0), (2, 0, 0), (0, 2, 0)), _circle((2, 0, 0), (2, 0, 0), (0, 0, 2))], 8 * np.pi),
}  # fmt: skip
