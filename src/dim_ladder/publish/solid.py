"""The tight weave as a glTF file, for anybody who renders it or prints it in 3-D."""

# mypy: disable-error-code="no-untyped-call"

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dim_ladder.base.colours import rgb
from dim_ladder.shape.solid import Body

METRES = 1e-3  # glTF is in metres, and y goes up


def to_glb(bodies: Sequence[Body], unit_mm: float, names: Sequence[str] = ()) -> bytes:
    """One binary glTF file of all bodies, each a mesh with its colour. unit_mm : of a diameter. names : of the ends."""
    import trimesh  # slow to load

    scene = trimesh.Scene()
    for k, body in enumerate(bodies):
        points = body.points * unit_mm * METRES * np.array([1.0, -1.0, -1.0])
        look = trimesh.visual.material.PBRMaterial(
            name=body.colour,
            baseColorFactor=[*rgb(body.colour), 255],
            metallicFactor=0.0,
            roughnessFactor=0.7,
        )
        mesh = trimesh.Trimesh(points, body.corners, process=False, validate=False)
        mesh.visual = trimesh.visual.TextureVisuals(material=look)
        name = (
            names[body.end]
            if 0 <= body.end < len(names)
            else f"bead {k}"
            if body.end < 0
            else f"end {body.end}"
        )
        scene.add_geometry(mesh, node_name=name, geom_name=name)
    return bytes(scene.export(file_type="glb"))
