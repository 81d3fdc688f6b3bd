"""Dim Ladder: record knotted weaves strand by strand, learn their cord, publish how to tie them."""

__version__ = "0.1.0"
