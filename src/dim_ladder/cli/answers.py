"""Answers and errors of the command line: strict JSON, or text for people."""

from __future__ import annotations

import json
import math
import sys
from collections.abc import Mapping
from typing import Any

from dim_ladder.base import DimLadderError, InputError

Answer = dict[str, Any]


def strict(body: Answer, missing: Mapping[str, str] | None = None) -> Answer:
    """The answer with nothing in it that JSON has no word for.

    missing : why values may be absent, by their key. None, or a number that is not finite, becomes null with its reason
    under "missing", by its path; for None a "why" beside it will do. One without a reason is a bug, raised as ValueError.
    """
    reasons: dict[str, str] = {}

    def walk(value: Any, path: str, key: str, told: bool) -> Any:
        if isinstance(value, Mapping):
            said = bool(value.get("why"))
            return {
                str(k): walk(v, f"{path}.{k}" if path else str(k), str(k), said) for k, v in value.items()
            }
        if isinstance(value, list | tuple):
            return [walk(v, f"{path}[{i}]", key, told) for i, v in enumerate(value)]
        if value is None or (isinstance(value, float) and not math.isfinite(value)):
            why = (missing or {}).get(key, "")
            if why:
                reasons[path] = why
            elif value is not None or not told:
                raise ValueError(f"{path} has no value, and nothing says why")
            return None
        return value

    out: Answer = walk(body, "", "", False)
    return {**out, "missing": reasons} if reasons else out


def answer(body: Answer, as_json: bool, text: str = "", missing: Mapping[str, str] | None = None) -> None:
    """One JSON object on standard output, or lines for people."""
    if as_json:
        print(json.dumps(strict(body, missing), ensure_ascii=False, allow_nan=False))
    else:
        print(text or "\n".join(f"{k}: {v}" for k, v in body.items()))


def complain(e: DimLadderError, as_json: bool) -> None:
    """What is wrong, on standard error."""
    problems = e.problems if isinstance(e, InputError) else ()
    if as_json:
        body = {"error": e.message, "hint": e.hint, "problems": [p.as_json() for p in problems]}
        print(json.dumps(body, ensure_ascii=False, allow_nan=False), file=sys.stderr)
    elif problems:
        for p in problems:
            print(p, file=sys.stderr)
    else:
        print(e, file=sys.stderr)
