"""What ships: knots as scripts, and the tables of hangings, finishes and fastenings with allowances and cautions."""

from dim_ladder.library.knots import library_knot, library_knots
from dim_ladder.library.tables import (
    CAUTIONS,
    CORD_KINDS,
    FASTENINGS,
    FINISHES,
    HANGINGS,
    LOOP_MM,
    PASS_MM,
    CordKind,
    Fastening,
    Finish,
    Hanging,
    cord_kind,
    finish_words,
    kind_named,
    nearest_fastening,
)
from dim_ladder.library.vocabulary import VOCABULARIES, Vocabulary

__all__ = [
    "CAUTIONS",
    "CORD_KINDS",
    "FASTENINGS",
    "FINISHES",
    "HANGINGS",
    "LOOP_MM",
    "PASS_MM",
    "VOCABULARIES",
    "CordKind",
    "Fastening",
    "Finish",
    "Hanging",
    "Vocabulary",
    "cord_kind",
    "finish_words",
    "kind_named",
    "library_knot",
    "library_knots",
    "nearest_fastening",
]
