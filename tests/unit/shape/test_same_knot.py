"""What is drawn up is the knot that was laid: told by a library that is not ours, from nothing but the lines."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.shape.tighten import job_for, pulled
from dim_ladder.shape.twice import wider
from helpers.invariants import seifert_numbers
from helpers.restarts import begun_elsewhere
from helpers.space import in_a_ring, projected
from helpers.weaves import weave_of

WORKS = {
    "half knots over a core": (4, "half-right (1 | 2 3 | 4)"),
    "a reef and a snake": (3, "reef (1 | 2)", "snake (2 | 3)"),
    "double connection": (2, "double-connection (1 | 2)"),
    "hitches of two on one": (3, "half-hitch (1+2 | 3)"),
    "a bar": (4, "bar-right (1 | 2 3 4)"),
    "button": (1, "button (1)"),
    "coil": (1, "coil-5 (1)"),
    "diamond": (4, "diamond-4 (1 | 2 | 3 | 4)"),
    "walker": (3, "walker-3 (1 | 2 | 3)"),
    "round plait": (6, "round-6 (1 | 2 | 3 | 4 | 5 | 6)"),
}


def numbers(lines, follow, pitch, angle):
    """Determinant, signature and linking numbers of a unit bent round to a ring."""
    link = projected(in_a_ring(lines, pitch, follow=follow, angle=angle))
    if not link.crossings:
        return (1, 0), []
    linking = np.array(link.linking_matrix()) if len(link.link_components) > 1 else np.zeros(0)
    return seifert_numbers(link), sorted(linking.ravel().tolist())


def laid_and_drawn_up(job):
    *_, tight = pulled(job)
    c = job.curves
    return (
        tight,
        numbers(c.strands, c.follow, c.pitch, 0.0),
        numbers(tight.lines, tight.follow, tight.pitch, tight.angle),
    )


@pytest.mark.parametrize("name", WORKS)
def test_it_is_the_same_link(name):
    job = job_for(weave_of(*WORKS[name]), "s")
    tight, laid, drawn_up = laid_and_drawn_up(job)
    assert tight.converged, tight.amiss
    assert drawn_up == laid


@pytest.mark.parametrize("seed", [5, 9])
def test_so_it_is_from_elsewhere(seed):
    job = begun_elsewhere(job_for(weave_of(2, "button-two (1 | 2)"), "s"), seed)
    _, laid, drawn_up = laid_and_drawn_up(job)
    assert drawn_up == laid == ((40, -1), laid[1])


def test_cord_that_is_drawn_long_between_two_nodes_is_not_passed_through():
    """Held fast at a knot, what was drawn past it went on in a few long pieces: through those another cord passed, far from every node, and
    the knot was gone, with a certificate that it could not be."""
    job = replace(job_for(weave_of(2, "button-two (1 | 2)"), "s"), also=None, otherwise=None)
    job = replace(job, curves=wider(job.curves, held=False), knots_first=True)
    tight, laid, drawn_up = laid_and_drawn_up(job)
    assert tight.passed or drawn_up == laid
