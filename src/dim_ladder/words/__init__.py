"""Trace -> sentences. In: a Trace, or work on a former, and the reader's vocabulary. Out: text, ends by letter. Draws
nothing."""

from dim_ladder.words.gather import Line, gathered
from dim_ladder.words.headings import step_heading
from dim_ladder.words.sentences import StepText, hang_sentence, step_sentence, words_for

__all__ = ["Line", "StepText", "gathered", "hang_sentence", "step_heading", "step_sentence", "words_for"]
