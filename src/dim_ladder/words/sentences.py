"""Sentences for steps, made from what the trace did, in the reader's words and as the work lies before the reader."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.base.budget import spend
from dim_ladder.base.colours import colour_word
from dim_ladder.library import Vocabulary, finish_words
from dim_ladder.notation import (
    Add,
    Call,
    Cross,
    Curl,
    Drop,
    Follow,
    Leave,
    Pass,
    Past,
    Rotate,
    Round,
    Span,
    Thread,
    Through,
    To,
    Turn,
    Twist,
)
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.value import HopRecord, Trace
from dim_ladder.words.phrases import Lie, free_words, lie_of, listing, ordinal, place_words, times, vocabulary


@dataclass(frozen=True, slots=True)
class StepText:
    """One step in words. heading : its knot, said at the knot's first step."""

    step: int
    section: str
    unit: int
    heading: str
    sentence: str


def step_sentence(trace: Trace, index: int, voice: str = "plain", lie: str = "hanging") -> str:
    """What one step does, as a sentence; the end by letter, colour and place."""
    return _Speaker(trace, index, vocabulary(voice), lie_of(lie)).sentence()


class _Speaker:
    """Says one step."""

    def __init__(self, trace: Trace, index: int, words: Vocabulary, lie: Lie) -> None:
        spend(100)
        self.t, self.words, self.lie = trace, words, lie
        self.r = trace.steps[index]
        before, after = trace.order_before(index), self.r.order
        # As seen from the side that lies up.
        self.before = before[::-1] if self.r.turned else before
        self.after = after[::-1] if self.r.turned else after

    def name(self, end: int) -> str:
        return letter_of(self.t, end) or f"the finished {self.t.ends[end].replace('-', ' ')}"

    def names(self, ends: tuple[int, ...]) -> str:
        return listing([self.name(e) for e in ends]) if ends else ""

    def side(self, side: int) -> str:
        return "right" if (side > 0) != self.r.turned else "left"

    def sentence(self) -> str:
        r = self.r
        if r.finish:
            under = r.op.value.under if isinstance(r.op.value, Call) else 0
            return f"{self.names(r.ends)}: {finish_words(r.finish, under)}."
        if r.deed is not None:
            return self.deed() + (f" ({r.deed.note})" if r.deed.note else "")
        parts: list[str] = []
        asides: list[str] = []
        side = 0
        for hop in r.hops:
            said = self.hop(hop, side, first=not parts)
            if isinstance(hop.hop, Leave | Thread):
                asides.append(said)
            elif said:
                parts.append(said)
            side = hop.side if isinstance(hop.hop, Cross) and not hop.hop.bight else 0
        text = ", ".join(parts)
        if text:
            moves = [h for h in r.hops if h.ends]
            stays = bool(moves) and all(isinstance(h.hop, Cross | Through) and h.hop.bight for h in moves)
            rest = f"rests {self.place(self.after)}"
            if stays and r.hops:
                text += "; the tip stays where it was."
            elif self.words.name == "plain" and len(parts) == 1 and isinstance(r.hops[0].hop, Cross):
                text += f", and {rest}."
            else:
                text += f"; {'they' if len(r.ends) > 1 else 'it'} {rest.replace('rests', 'rest') if len(r.ends) > 1 else rest}."
        for aside in asides:
            text += (" " if text else "") + aside
        if r.step is not None:
            if r.step.tension:
                text += {"tight": " Pull tight.", "snug": " Draw snug.", "easy": " Leave easy."}[
                    r.step.tension
                ]
            if r.step.note:
                text += f" ({r.step.note})"
        return text

    def place(self, order: tuple[int, ...]) -> str:
        at = min(order.index(e) for e in self.r.ends if e in order)
        return place_words(at, len(order))

    def who(self) -> str:
        r = self.r
        cord = self.t.weave.cord_of(self.t.ends[r.end])
        colour = f"{colour_word(cord.colour)}, " if cord else ""
        if len(r.ends) > 1:
            ends = tuple(sorted(r.ends, key=self.before.index))
            if r.step is not None and r.step.stacked:
                below = self.names(tuple(e for e in ends if e != r.end))
                return f"{self.name(r.end)} and {below} beneath it ({place_words(self.before.index(ends[0]), len(self.before))})"
            return f"{self.names(ends)} as one ({place_words(self.before.index(ends[0]), len(self.before))})"
        return f"{self.name(r.end)} ({colour}{place_words(self.before.index(r.end), len(self.before))})"

    def start(self, where: str) -> str:
        many = len(self.r.ends) > 1
        move = self.words.move_many if many else self.words.move
        return move.format(end=self.who(), side=where).strip().replace("  ", " ")

    # -- hops ----------------------------------------------------------------------------------------

    def hop(self, h: HopRecord, side: int, *, first: bool) -> str:
        hop = h.hop
        if isinstance(hop, Cross):
            return self.cross(h, hop, side, first=first)
        if isinstance(hop, Through):
            return self.through(h, hop, first=first)
        if isinstance(hop, Past):
            verb = "over" if hop.over != self.r.turned else "under"
            it = "its own cord" if h.ends[0] == self.r.end else self.name(h.ends[0])
            where = f"above its {ordinal(hop.count)} crossing from the tail" if hop.count else "at its tail"
            text = f"{verb} {it} {where}"
            return f"{self.start('')} {text}" if first else text
        if isinstance(hop, Round):
            how = f"{self.lie.in_front} first" if hop.over != self.r.turned else "behind first"
            if self.lie.name == "table" and how == "behind first":
                how = "below first"
            text = f"{self.words.round} {self.names(h.ends)} {times(hop.turns)}, {how}"
            return f"{self.start('')} {text}" if first else text
        if isinstance(hop, Curl):
            over = "over" if hop.over != self.r.turned else "under"
            text = f"makes a loop and crosses to the {self.side(h.side)} {over} its own {self.words.standing}"
            return f"{self.who()} {text}" if first else f"then {text}"
        if isinstance(hop, Follow):
            text = self.follow(h, hop)
            return f"{self.who()} {text}" if first else f"then {text}"
        if isinstance(hop, Leave):
            return f"Leave {free_words(hop.mm, hop.share)} standing in that turn."
        if isinstance(hop, Pass):
            way = self.lie.from_back if hop.behind != self.r.turned else self.lie.from_front
            text = f"through the {hop.what.replace('-', ' ')}, {way}, and back"
            return f"{self.start('')} {text}" if first else f"then {text}"
        if isinstance(hop, Twist):
            text = "turned about so that the other face lies up"
            return f"{self.who()} is {text}" if first else f"is {text}"
        if isinstance(hop, Thread):
            return f"Thread the bead “{hop.bead}” onto {self.names(self.r.ends)}."
        assert isinstance(hop, To)
        return f"{self.start('')} across {'behind' if self.r.turned else self.lie.in_front}" if first else ""

    def cross(self, h: HopRecord, hop: Cross, side: int, *, first: bool) -> str:
        verb = "over" if hop.over != self.r.turned else "under"
        where = self.side(h.side)
        targets = f"{verb} {self.names(h.ends)}"
        if hop.bight:
            text = f"{self.words.bight} goes {where} {targets}"
            return f"{self.who()}: {text}" if first else text
        if first:
            return f"{self.start(where)} {targets}"
        if side == 0:
            return f"then {where} {targets}"
        return targets if h.side == side else f"back {where} {targets}"

    def through(self, h: HopRecord, hop: Through, *, first: bool) -> str:
        up = hop.up != self.r.turned
        lie = self.lie
        if hop.loop.kind == "gap":
            where = f"between {self.names(h.ends)}"
            text = f"{'up' if up else 'down'} {where}, {lie.from_back + ' ' + lie.to_front if up else lie.from_front + ' to come out ' + lie.to_back}"
            return f"{self.start('')} {text}" if first else f"then {text}"
        what = self.loop(h, hop)
        if up:
            text = f"{self.words.thread}up through {what}: in {lie.from_back}, out {lie.to_front} over the loop’s edge"
        else:
            text = f"{self.words.thread}down through {what}: in {lie.from_front}, out {lie.to_back} under the loop’s edge"
        if hop.turns > 1:
            text += f", {times(hop.turns)} round that edge"
        if hop.bight:
            text = f"{self.words.bight} goes {text}"
            return f"{self.who()}: {text}" if first else f"then {text}"
        if not first:
            return f"then {text}"
        return f"{self.start('')}, {text}" if self.words.thread else f"{self.start('')} {text}"

    def loop(self, h: HopRecord, hop: Through) -> str:
        owner = h.ends[0]
        whose = "its own" if owner == self.r.end else f"{self.name(owner)}’s"
        loop = hop.loop
        if loop.kind == "name":
            return f"the loop “{loop.name}”"
        if loop.kind == "edge":
            side = self.side(-1 if loop.left else 1)
            below = ", counted from below" if loop.bend < 0 else ""
            return f"the {ordinal(abs(loop.bend))} loop at the {side} edge{below}"
        if loop.kind == "beside":
            side = "left" if loop.left else "right"
            if not loop.bend:
                return f"the space {side} of {'its' if owner == self.r.end else whose} tail"
            return f"the space {side} of {self.name(owner)}, above its {ordinal(loop.bend)} crossing from the tail"
        if loop.bend == 1:
            return f"{whose} loop"
        return f"the loop at {whose} {ordinal(loop.bend)} turn"

    def follow(self, h: HopRecord, hop: Follow) -> str:
        side = "left" if hop.left else "right"
        if hop.ref is None:
            return f"runs on down beside its own path, on the {side}"
        it = self.names(h.ends)
        if not hop.back and isinstance(self.r.op.value, Call) and self.r.op.value.as_one:
            return f"follows {it} through the whole knot, beside it on its {side}, over and under as it goes"
        if not hop.back:
            return f"does what {it} has just done, beside it on its {side}"
        far = f"for {hop.most} crossings" if hop.most else "to where it began"
        return f"runs back up beside {it} on its {side}, {far}, with the same overs and unders"

    # -- the whole work ------------------------------------------------------------------------------

    def deed(self) -> str:
        r = self.r
        deed = r.deed
        if isinstance(deed, Turn):
            return (
                f"Turn the work over: left becomes right, and its {'back' if r.turned else 'front'} lies up."
            )
        if isinstance(deed, Rotate):
            if deed.how == "half":
                how = "Turn the work end for end"
            else:
                how = f"Turn the work by a quarter, so that its {deed.how} side hangs down"
            return f"{how}. From left to right now hang {self.names(r.order)}."
        if isinstance(deed, Span):
            whose = "all" if not deed.refs else self.names(r.ends)
            return f"Leave {free_words(deed.mm, deed.share)} of free {self.words.cord} on {whose} before the next knot."
        if isinstance(deed, Drop):
            if r.waits:
                it = "they follow" if len(r.ends) > 1 else "it follows"
                return f"Let {self.names(r.ends)} wait: {it} once the others have tied the knot."
            return f"Lay {self.names(r.ends)} aside: worked no more."
        assert isinstance(deed, Add)
        return self.add(deed)

    def add(self, deed: Add) -> str:
        r = self.r
        cord = self.t.weave.cord_of(self.t.ends[r.end])
        what = f"{colour_word(cord.colour)} {self.words.cord}" if cord else self.words.cord
        if len(r.ends) == 1 and self.t.first_of(r.end) != r.end:
            return f"Bring {self.name(r.end)} ({what}) round from the other side of the work; it hangs {self.place(self.after)}."
        if len(r.ends) == 1:
            return f"Lay in the {what} {self.name(r.end)}; it hangs {self.place(self.after)}."
        if r.stop > r.start:
            tails = tuple(self.t.crossings[n].lane_end for n in range(r.start, r.stop))
            verb = "over" if deed.over else "under"
            tails = tuple(sorted(tails, key=self.before.index))
            return f"Lay the {what} by its middle {verb} {self.names(tails)}; {self.names(r.ends)} hang on either side."
        return f"Lay in the {what} by its fold; {self.names(r.ends)} hang {self.place(self.after)} and next to it."


def step_heading(trace: Trace, index: int, voice: str = "plain") -> str:
    """The knot that begins with this step, else ""."""
    r = trace.steps[index]
    if isinstance(r.op.value, Call) and r.knot_step in (0, -1):
        if r.finish:
            return r.finish.replace("-", " ").capitalize()
        name = vocabulary(voice).knot(r.op.value.knot)
        return name[0].upper() + name[1:]
    return ""


def words_for(trace: Trace, voice: str = "plain", lie: str = "hanging") -> tuple[StepText, ...]:
    """Every step of a trace in words."""
    sections = trace.weave.sections
    return tuple(
        StepText(
            i,
            sections[r.op.section].name if r.op.section < len(sections) else "",
            r.op.unit,
            step_heading(trace, i, voice),
            step_sentence(trace, i, voice, lie),
        )
        for i, r in enumerate(trace.steps)
        if not r.quiet
    )


def hang_sentence(trace: Trace, voice: str = "plain") -> str:
    """How the work begins: the tails from left to right, by letter and colour."""
    words = vocabulary(voice)
    tails = []
    for e in trace.start:
        cord = trace.weave.cord_of(trace.ends[e])
        tails.append(f"{letter_of(trace, e)} {colour_word(cord.colour)}" if cord else letter_of(trace, e))
    if len(tails) == 1:
        return f"One {words.end} hangs: {tails[0]}."
    return f"From left to right hang: {', '.join(tails)} ({len(tails)} {words.end}s)."
