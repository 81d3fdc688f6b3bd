"""What ships: knots as scripts, and the tables of hangings, finishes and fastenings with allowances and cautions."""

from dim_ladder.library.fastenings import (
    BUTTONS,
    FASTENINGS,
    OPENS_MM,
    SLIDE_MM,
    STOPPERS,
    Fastening,
    nearest_fastening,
)
from dim_ladder.library.kinds import (
    CordKind,
    all_kinds,
    check_kind,
    cord_kind,
    kind_named,
    own_kinds,
    use_kinds,
)
from dim_ladder.library.knots import library_knot, library_knots
from dim_ladder.library.tables import (
    CAUTIONS,
    FINISHES,
    HANGINGS,
    LOOP_MM,
    PASS_MM,
    Finish,
    Hanging,
    finish_words,
)
from dim_ladder.library.vocabulary import VOCABULARIES, Vocabulary

__all__ = [
    "BUTTONS",
    "CAUTIONS",
    "FASTENINGS",
    "FINISHES",
    "HANGINGS",
    "LOOP_MM",
    "OPENS_MM",
    "PASS_MM",
    "SLIDE_MM",
    "STOPPERS",
    "VOCABULARIES",
    "CordKind",
    "Fastening",
    "Finish",
    "Hanging",
    "Vocabulary",
    "all_kinds",
    "check_kind",
    "cord_kind",
    "finish_words",
    "kind_named",
    "library_knot",
    "library_knots",
    "nearest_fastening",
    "own_kinds",
    "use_kinds",
]
