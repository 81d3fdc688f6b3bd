"""The same engine without a window. In: files. Out: text, or one JSON object a call; errors as JSON with status 2."""

from dim_ladder.cli.main import run

__all__ = ["run"]
