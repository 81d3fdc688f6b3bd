"""What the short run comes by, room by room, and what it does not: written to docs/coverage.md.

`./run test --coverage`. Exit status 1 where less than the given share of the lines of src is come by.
"""

from __future__ import annotations

import json
import sys
import tempfile
from collections import defaultdict
from collections.abc import Sequence
from pathlib import Path

from coverage import Coverage

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "docs" / "coverage.md"
HEAD = """# What the tests come by

Lines of `src/dim_ladder` that the short run executes (coverage.py), made by `./run test --coverage`. Loops that are compiled
(`shape/fast.py`) and what runs in another process (the compiling itself, a command line started as a program) cannot be
seen by it, though they are tested.

"""


def runs(lines: Sequence[int]) -> str:
    """3, 4, 5, 9 as "3-5, 9"."""
    out: list[list[int]] = []
    for n in lines:
        if out and n == out[-1][1] + 1:
            out[-1][1] = n
        else:
            out.append([n, n])
    return ", ".join(f"{a}" if a == b else f"{a}-{b}" for a, b in out)


def main() -> int:
    least = float(sys.argv[1])
    data = Coverage(data_file=str(ROOT / ".coverage"), config_file=str(ROOT / "pyproject.toml"))
    data.load()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "coverage.json"
        total = data.json_report(outfile=str(path))
        files = json.loads(path.read_text("utf-8"))["files"]
    rooms: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    missing: list[tuple[str, str]] = []
    for name in sorted(files):
        inside = name.split("dim_ladder/", 1)[1]
        room = inside.split("/")[0] if "/" in inside else "(top)"
        summary = files[name]["summary"]
        rooms[room][0] += summary["covered_lines"]
        rooms[room][1] += summary["num_statements"]
        if files[name]["missing_lines"]:
            missing.append((inside, runs(files[name]["missing_lines"])))
    text = (
        HEAD
        + f"**{total:.1f} %** of all; at least {least:.0f} % is asked.\n\n| room | lines | come by |\n|---|---:|---:|\n"
    )
    for room, (covered, count) in sorted(rooms.items()):
        if count:
            text += f"| {room} | {count} | {100 * covered / count:.1f} % |\n"
    text += "\n## Not come by\n\n" + "".join(f"- `{name}`: {lines}\n" for name, lines in missing)
    OUT.write_text(text, "utf-8")
    print(f"{total:.1f} % of the lines of src; see docs/coverage.md")
    return 0 if total >= least else 1


if __name__ == "__main__":
    sys.exit(main())
