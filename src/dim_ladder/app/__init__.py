"""The window: the only package that knows Qt. In: a document or a workshop folder. Out: what the person did."""

from dim_ladder.app.main import start

__all__ = ["start"]
