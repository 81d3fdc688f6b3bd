"""What holds a piece of work, in sentences."""

from __future__ import annotations

from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.holds import MOST_TUCKS, Hold
from dim_ladder.trace.value import Trace
from dim_ladder.words.phrases import listing


def hold_sentence(trace: Trace, held: Hold) -> str:
    """What is locked and by how many tucks, what slips out, and which crossing holds it all."""
    if not held.real:
        if any(p.kind == "leave" for s in trace.steps for p in s.placed):
            return "No tip locks it: once its standing loop is drawn back through, it comes apart."
        return "Nothing is locked: pulled, it comes apart without undoing a tuck."
    out = []
    if held.tucks == 0:
        out.append("Nothing is tucked: it holds only while its ends are held.")
    elif held.tucks < 0:
        out.append(f"It is locked: more than {MOST_TUCKS} tucks must be undone before it falls apart.")
    else:
        most = "at most " if held.whole else ""
        count = "one tuck is" if held.tucks == 1 else f"{most}{held.tucks} tucks are"
        out.append(f"It is locked: it falls apart after {count} undone.")
    if held.loose:
        who = listing([letter_of(trace, e) for e in held.loose])
        out.append(f"{who} {'slips' if len(held.loose) == 1 else 'slip'} out without undoing anything.")
    if held.key >= 0:
        c = trace.crossings[held.key]
        over, under = (c.lane_end, c.row_end) if c.lane_over else (c.row_end, c.lane_end)
        a, b = letter_of(trace, over), letter_of(trace, under)
        step = next((i for i, s in enumerate(trace.steps) if s.start <= held.key < s.stop), -1)
        where = f" in step {step + 1}" if step >= 0 else ""
        what = "itself" if a == b else b
        out.append(
            f"What holds it is {a} over {what}{where}: the other way round, most of it would come loose."
        )
    return " ".join(out)


def slipped_sentence(locked: bool) -> str:
    """What is to be known of a chain of bights. locked : by an end that goes through its last loop."""
    chain = (
        "It is slipped: every bight holds the one before it, and pulled at the last one all of it runs out."
    )
    return chain + (
        " The end that is led through the last loop below keeps it." if locked
        else " Lead an end through the last loop to keep it."
    )  # fmt: skip
