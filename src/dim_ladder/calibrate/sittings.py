"""Which ties were made in one go, and by whom.

Ties of one sitting go together: the same hands on the same day draw up alike, so ten of them say less of the next piece than
ten on ten days. A sitting is a day, a person and a lot of cord. What has no date counts as one sitting a person: nothing says
that it was more.
"""

from __future__ import annotations

from collections.abc import Sequence

from dim_ladder.calibrate.ties import Tie

Sitting = tuple[str, str, str]


def sitting(tie: Tie) -> Sitting:
    """Day, person and lot."""
    return tie.date.strip()[:10], _name(tie.who), _name(tie.lot)


def maker(ties: Sequence[Tie]) -> str:
    """Whose hands pieces are planned for: those that tied last."""
    last = max(ties, key=lambda t: t.date, default=None)
    return _name(last.who) if last else ""


def others(ties: Sequence[Tie]) -> tuple[str, ...]:
    """Everybody else, in the order in which they come up."""
    own = maker(ties)
    return tuple(dict.fromkeys(w for t in ties if (w := _name(t.who)) != own))


def person(tie: Tie) -> str:
    """Who tied it, however the name was written."""
    return _name(tie.who)


def _name(text: str) -> str:
    return " ".join(text.split()).casefold()
