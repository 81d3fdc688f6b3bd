"""Trace -> pictures. In: a Trace, or how cords hang, or work on a former. Out: a Picture, one display list in pixels that
screen, SVG and PDF all draw (display.py); other rooms that draw something build the same list. Says no sentence."""

from dim_ladder.picture.diagrams import diagram, step_parts, step_picture
from dim_ladder.picture.display import PAPER, Ink, Picture
from dim_ladder.picture.look import Style

__all__ = ["PAPER", "Ink", "Picture", "Style", "diagram", "step_parts", "step_picture"]
