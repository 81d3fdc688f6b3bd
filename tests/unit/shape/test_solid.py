"""The tight weave turned in the hand, and as solid bodies."""

import io

import numpy as np
import pytest
import trimesh
from tests.unit.shape.conftest import SOFT

from dim_ladder.library.kinds import SHIPPED
from dim_ladder.picture.display import PAPER, Line
from dim_ladder.publish.solid import to_glb
from dim_ladder.shape.faces import Bead, Strand, cords_of, draw, strands_of
from dim_ladder.shape.ribbons import filled, widths
from dim_ladder.shape.sheath import Look, cord_pieces, look_of
from dim_ladder.shape.solid import bodies
from dim_ladder.shape.turning import MOST_TIP, held, rotation


@pytest.fixture
def strands(soft):
    return strands_of(soft["band"], cords_of(*SOFT["band"]), 3)


def test_turning_keeps_right_and_size():
    for turn, tip in ((0, 0), (90, 0), (-40, 30), (200, -200)):
        r = rotation(turn, tip)
        assert r @ r.T == pytest.approx(np.eye(3))
        assert np.linalg.det(r) == pytest.approx(1)
    right, top = np.array([1.0, 0, 0]), np.array([0, -1.0, 0])  # y goes down the band, z to the viewer
    assert (rotation(90, 0) @ right)[2] == pytest.approx(1)
    assert (rotation(0, 45) @ top)[2] > 0
    assert rotation(0, 200) == pytest.approx(rotation(0, MOST_TIP))


def test_a_held_weave_is_seen_from_anywhere_in_one_frame(strands):
    body = held(strands, [Bead(strands[0].line[5], 0.8, "#c9a13b")])
    sizes = {(p.width, p.height) for p in (body.seen(t, 20, scale=20) for t in (0, 50, 180, -90))}
    assert len(sizes) == 1
    front, back = body.seen(0, 0, scale=20), body.seen(180, 0, scale=20)
    assert front.shapes != back.shapes
    points = [xy for s in front.shapes if isinstance(s, Line) for c in s.path for xy in c[1:]]
    assert all(-1 < x < front.width + 1 and -1 < y < front.height + 1 for x, y in points)
    quick = body.seen(0, 0, scale=20, quick=True)
    assert 0 < len(quick.shapes) < len(front.shapes) / 2


def test_cord_that_nothing_presses_is_as_wide_all_along_however_its_points_lie():
    y = np.concatenate([np.linspace(0, 3, 17), np.linspace(3, 5, 40)[1:], np.linspace(5, 40, 10)[1:]])
    straight = np.column_stack([np.zeros_like(y), y, np.zeros_like(y)])
    (wide,) = widths([straight], (1.0,), np.array([0.0, 0.0, 1.0]))
    assert wide == pytest.approx(np.ones_like(y))
    # Nor does cord that is drawn from its middle both ways press on itself there.
    for each in widths([straight, -straight], (1.0, 1.0), np.array([0.0, 0.0, 1.0])):
        assert each == pytest.approx(np.ones_like(y))


def test_free_cord_shows_its_sheath_all_along():
    """Every piece of it is seen, and not its neighbours that reach over it: where points were far apart most marks lay under them."""
    few = np.array([[0.0, 0.0, 0.0], [0.0, 20.0, 0.0], [0.0, 40.0, 0.0]])
    more = filled(few, 0.4)
    assert np.linalg.norm(np.diff(more, axis=0), axis=1).max() < 0.4001
    assert all((more == point).all(axis=1).any() for point in few)
    picture = draw([Strand(few, Look("#1f6f8b"), 1.0, 0)], "front", scale=20.0)
    lines = [s for s in picture.shapes if isinstance(s, Line)]
    seen: list[tuple[float, float]] = []  # from where to where the cord is drawn over, after each mark
    hidden = marks = 0
    for line in reversed(lines):
        ys = [a[-1] for _, a in line.path]
        if line.width > 15:
            seen.append((min(ys), max(ys)))
        elif line.width < 0.06 * 20:
            middles = [
                (p[-1] + q[-1]) / 2 for (_, p), (_, q) in zip(line.path[::2], line.path[1::2], strict=True)
            ]
            marks += len(middles)
            hidden += sum(any(a < y < b for a, b in seen) for y in middles)
    assert marks > 200
    assert hidden < 0.4 * marks


def test_cord_is_drawn_wider_where_it_is_pressed_from_the_front_and_narrower_from_the_side():
    line = np.linspace(-3, 3, 61)[:, None]
    over, under = np.hstack([line, 0 * line, 0 * line + 0.35]), np.hstack([0 * line, line, 0 * line - 0.35])
    eye = np.array([0.0, 0.0, 1.0])
    front, _ = widths([over, under], (1.0, 1.0), eye)
    assert front[30] > 1.1
    assert front[0] == front[-1] == 1.0
    side, _ = widths([over, under], (1.0, 1.0), np.array([0.0, 1.0, 0.0]))
    assert side[30] < 0.95


def test_every_cord_is_one_closed_body_of_about_its_own_volume(strands, soft):
    shape = soft["band"]
    beads = [Bead(np.array([0.0, 30.0, 0.0]), 1.0, "#c9a13b")]
    made = bodies(strands, beads)
    assert len(made) == 5
    scene = trimesh.load(io.BytesIO(to_glb(made, shape.unit_mm, shape.ends)), file_type="glb")
    assert set(scene.geometry) == {*shape.ends, "bead 4"}
    for name, mesh in scene.geometry.items():
        assert mesh.is_watertight
        assert mesh.is_winding_consistent
        assert mesh.volume > 0  # its outside is outside
        if name in shape.ends:
            cord = 3 * shape.per_end[name] * shape.unit_mm
            assert mesh.volume * 1e9 == pytest.approx(cord * np.pi * (shape.unit_mm / 2) ** 2, rel=0.2)
    assert scene.extents[1] * 1000 == pytest.approx(30 * 4 + 4 - strands[0].line[:, 1].min() * 4, rel=0.2)


def test_a_straight_cord_is_a_round_stick():
    line = np.column_stack([np.zeros(41), np.linspace(0, 10, 41), np.zeros(41)])
    (body,) = bodies([Strand(line, Look("#1f6f8b"), 1.0, 0)])
    out = np.hypot(body.points[:-2, 0], body.points[:-2, 2])
    assert out == pytest.approx(0.5)
    assert np.unique(body.corners).size == len(body.points)


def test_tracer_threads_and_mottling_are_drawn_in_their_own_colour():
    line = np.column_stack([np.full(60, 20.0), np.linspace(0, 300, 60), np.zeros(60)])

    def colours(look, quick=False):
        return {
            s.colour for p in cord_pieces(line, look, 30.0, 0.5, -0.5, PAPER, quick=quick) for s in p.lines
        }

    plain = colours(Look("#1f6f8b", 0, "braid"))
    for sheath in ("tracer", "mottled"):
        found = colours(Look("#1f6f8b", 0, sheath, "#ff0000")) - plain
        assert found
        assert all(int(c[1:3], 16) > 150 > int(c[5:7], 16) for c in found)
        assert not colours(Look("#1f6f8b", 0, sheath, "#ff0000"), quick=True) - plain
    assert look_of("tracer-4mm", "#123456").second == SHIPPED["tracer-4mm"].second
    assert look_of("cotton-3mm", "#123456").sheath == "twist"
