"""`dim-ladder` opens the window; with a command it works without one."""

from __future__ import annotations

import sys

COMMANDS = {
    "check",
    "trace",
    "words",
    "document",
    "draw",
    "shape",
    "ties",
    "calibrate",
    "scale",
    "plan",
    "publish",
    "restore",
    "instrument",
}


def main() -> int:
    args = sys.argv[1:]
    if args and (args[0] in COMMANDS or args[0] in ("--help", "-h", "--version")):
        from dim_ladder.cli import run

        return run(args)
    from dim_ladder.app import start

    try:
        return start(args)
    except Exception as e:  # before there is a window that could say it
        from dim_ladder.base.crash import STATUS, crash_report, crash_words

        print(". ".join(crash_words(e, crash_report(e, "starting"))), file=sys.stderr)
        return STATUS


if __name__ == "__main__":
    sys.exit(main())
