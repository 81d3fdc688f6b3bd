"""Sentences for steps, made from what the trace did, in the reader's words and as the work lies before the reader."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.base.budget import spend
from dim_ladder.base.lengths import mm_words
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
from dim_ladder.trace.diagram import visits
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.led import marks
from dim_ladder.trace.value import HopRecord, StepRecord, Trace
from dim_ladder.trace.within import passages
from dim_ladder.words.headings import step_heading
from dim_ladder.words.phrases import (
    Lie,
    cord_colour,
    end_name,
    free_words,
    lie_of,
    listing,
    ordinal,
    place_words,
    times,
    vocabulary,
)


@dataclass(frozen=True, slots=True)
class StepText:
    """One step in words. heading : its knot, said at the knot's first step."""

    step: int
    section: str
    unit: int
    heading: str
    sentence: str


def step_sentence(
    trace: Trace, index: int, voice: str = "plain", lie: str = "hanging", part: range | None = None
) -> str:
    """What one step does, as a sentence; the end by letter, colour and place. part : only these of its hops."""
    return _Speaker(trace, index, vocabulary(voice), lie_of(lie)).sentence(part)


AHEAD = 400  # steps after one, among which one that passes its turns is looked for


def passed_turns(trace: Trace, index: int) -> dict[int, int]:
    """The turns of a step, but for its first, that are passed later: as a loop each by a number of its own."""
    r = trace.steps[index]
    found = {_turn(h) for h in r.hops if _of_this_step(h)}
    for s in trace.steps[index + 1 : index + 1 + AHEAD]:
        found |= {_turn(h) for h in s.hops if h.ends[:1] and h.ends[0] in r.ends and not _of_this_step(h)}
        if set(s.ends) & set(r.ends) and any(h.turns for h in s.hops):
            break
    return {bend: n for n, bend in enumerate(sorted(found - {0}), 1)}


def _of_this_step(h: HopRecord) -> bool:
    """Whether a hop passes a loop that its own step has made."""
    return isinstance(h.hop, Through) and h.hop.loop.kind == "bend" and h.hop.loop.ref is None


def is_passed(trace: Trace, index: int, k: int, name: str) -> bool:
    """Whether the loop that hop k of a step names is passed by that name."""
    own = trace.steps[index].hops
    if any(isinstance(h.hop, Through) and h.hop.loop.name == name for h in own[: k + 1]):
        return True  # a chain goes on as it began
    rest = list(own[k + 1 :])
    rest += [h for s in trace.steps[index + 1 : index + 1 + AHEAD] for h in s.hops]
    for h in rest:
        if isinstance(h.hop, Through) and h.hop.loop.kind == "name" and h.hop.loop.name == name:
            return True
        if getattr(h.hop, "name", "") == name and h.hop is not own[k].hop:
            return False  # another is called so now; the same one may only be made again, in another unit
    return False


def _turn(h: HopRecord) -> int:
    """Which turn of its owner's latest step a hop passes, where that is not the first; else 0."""
    hop = h.hop
    passed = isinstance(hop, Through) and hop.loop.kind == "bend" and hop.loop.bend > 1
    return hop.loop.bend if isinstance(hop, Through) and passed else 0


def turn_number(trace: Trace, index: int, h: HopRecord) -> int:
    """By which number the turn is called that a hop passes; 0 for the first turn of a step, which needs none."""
    bend = _turn(h)
    if not bend:
        return 0
    owner, at = h.ends[0], index
    if not _of_this_step(h):
        at = next(
            i for i in range(index - 1, -1, -1)
            if owner in trace.steps[i].ends and any(x.turns for x in trace.steps[i].hops)
        )  # fmt: skip
    return passed_turns(trace, at).get(bend, 0)


def held_straight(trace: Trace, index: int) -> tuple[int, ...]:
    """Ends that a hand holds taut while a step hitches round them: gone round in front and behind, the turn locked by the moving
    end's own loop. Two that are tied round each other in one knot are drawn up together, and neither is held."""
    r = trace.steps[index]
    round_them = hitched_round(r)
    if not round_them:
        return ()
    both: set[int] = set()
    for step in (index - 1, index + 1):
        way = step - index
        while 0 <= step < len(trace.steps) and trace.steps[step].op is r.op:
            if r.end in hitched_round(trace.steps[step]):
                both.add(trace.steps[step].end)
            step += way
    return tuple(e for e in round_them if e not in both)


def hitched_round(r: StepRecord) -> tuple[int, ...]:
    """Ends that a step goes round in front and behind before it passes its own loop."""
    own = [k for k, h in enumerate(r.hops) if isinstance(h.hop, Through) and r.end in h.ends]
    if not own or r.deed is not None:
        return ()
    sides: dict[bool, list[int]] = {True: [], False: []}
    for h in r.hops[: own[-1]]:
        if isinstance(h.hop, Cross):
            sides[h.hop.over] += h.ends
    over, under = sides[True], sides[False]
    return tuple(dict.fromkeys(e for e in over if e in under and e not in r.ends))


class _Speaker:
    """Says one step."""

    def __init__(self, trace: Trace, index: int, words: Vocabulary, lie: Lie) -> None:
        spend(100)
        self.t, self.index, self.words, self.lie = trace, index, words, lie
        self.r = trace.steps[index]
        before, after = trace.order_before(index), self.r.order
        # As seen from the side that lies up.
        self.before = before[::-1] if self.r.turned else before
        self.after = after[::-1] if self.r.turned else after
        self.turns = passed_turns(trace, index)
        self.passages = passages(trace, index)

    def name(self, end: int) -> str:
        return end_name(self.t, end)

    def names(self, ends: tuple[int, ...]) -> str:
        return listing([self.name(e) for e in ends]) if ends else ""

    def side(self, side: int) -> str:
        return "right" if (side > 0) != self.r.turned else "left"

    def sentence(self, part: range | None = None) -> str:
        """part : of a step that is told over several pictures, which of its hops; None for all."""
        r = self.r
        if r.finish:
            under = r.op.value.under if isinstance(r.op.value, Call) else 0
            return f"{self.names(r.ends)}: {finish_words(r.finish, under)}."
        if r.deed is not None:
            return self.deed() + (f" ({r.deed.note})" if r.deed.note else "")
        if r.hops and all(isinstance(h.hop, Thread) for h in r.hops):
            beads = [f"bead “{h.hop.bead}”" for h in r.hops if isinstance(h.hop, Thread)]
            return f"Push the {listing(beads)} up {self.names(r.ends)}."
        part = range(len(r.hops)) if part is None else part
        parts: list[str] = []
        side = 0
        begun = part.start > 0
        for k in part:
            h = r.hops[k]
            said = self.hop(h, side, first=not parts)
            if said and not parts and begun:
                said = self.goes_on(said)
            if said:
                parts.append(said + self.marked(k) + self.called(k))
            side = h.side if isinstance(h.hop, Cross) and not h.hop.bight else 0
        text = ", ".join(parts)
        if part.stop < len(r.hops):
            return text + "."
        if text:
            text += self.resting(len(parts))
            straight = held_straight(self.t, self.index)
            text += f" Keep {self.names(straight)} straight." if straight else ""
        if r.step is not None:
            if r.step.tension:
                text += {"tight": " Pull tight.", "snug": " Draw snug.", "easy": " Leave easy."}[
                    r.step.tension
                ]
            # A knot speaks of its slots by names that nobody knows outside of it.
            if r.step.note and not isinstance(r.op.value, Call):
                text += f" ({r.step.note})"
        return text

    def resting(self, parts: int) -> str:
        r = self.r
        moves = [h for h in r.hops if h.ends or isinstance(h.hop, To)]
        if moves and all(isinstance(h.hop, Cross | Through) and h.hop.bight for h in moves):
            return "; the tip stays where it was."
        many = len(r.ends) > 1
        rest = f"{'rest' if many else 'rests'} {self.place(self.after)}"
        if self.words.name == "plain" and parts == 1 and isinstance(r.hops[0].hop, Cross):
            return f", and {rest}."
        return f"; {'they' if many else 'it'} {rest}."

    def goes_on(self, said: str) -> str:
        """A step that was told in part."""
        before = self.start("")
        on = f"{self.names(self.r.ends)} {'go' if len(self.r.ends) > 1 else 'goes'} on: "
        for whole in (before + ", ", before + " ", self.who() + ": ", self.who() + " "):
            if said.startswith(whole):
                return on + said[len(whole) :]
        return on + said

    def marked(self, k: int) -> str:
        """The number at which a hop is marked in the picture, where there are many."""
        n = marks(self.r).get(k)
        return f" ({n})" if n and not isinstance(self.r.hops[k].hop, Past) else ""

    def number(self, h: HopRecord) -> int:
        """The number of a hop in its picture."""
        return marks(self.r)[next(k for k, other in enumerate(self.r.hops) if other is h)]

    def called(self, k: int) -> str:
        """What the loop is called that a hop leaves, where it is named or passed later by more than its owner."""
        hop = self.r.hops[k].hop
        name = getattr(hop, "name", "")
        out = f" (call this loop “{name}”)" if name and is_passed(self.t, self.index, k, name) else ""
        before = self.r.hops[k - 1].turns if k else 0
        for turn, number in self.turns.items():
            if before < turn <= self.r.hops[k].turns:
                last = turn == self.r.hops[k].turns and (turn > before + 1 or isinstance(hop, Through))
                nth = f"it turns the {ordinal(turn - before)} time"
                where = "it comes out" if last else "it sets out" if turn == before + 1 else nth
                out += f" (call the turn with which {where} turn {number})"
            elif turn > self.r.hops[-1].turns and k == max(
                (i for i, h in enumerate(self.r.hops) if h.ends), default=-1
            ):
                out += f" (call the turn with which it comes to hang turn {number})"
        return out

    def place(self, order: tuple[int, ...]) -> str:
        at = min(order.index(e) for e in self.r.ends if e in order)
        return place_words(at, len(order))

    def who(self) -> str:
        r = self.r
        cord = self.t.weave.cord_of(self.t.ends[r.end])
        colour = f"{cord_colour(self.t.weave, cord)}, " if cord else ""
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
            text = f"at {self.number(h)} {verb} {it}{self.passage(h)}"
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
            return f"leaving {free_words(hop.mm, hop.share)} standing in the turn {self.stands(h)}"
        if isinstance(hop, Pass):
            way = self.lie.from_back if hop.behind != self.r.turned else self.lie.from_front
            text = f"through the {hop.what.replace('-', ' ')}, {way}, and back to where it hung"
            return f"{self.start('')} {text}" if first else f"then {text}"
        if isinstance(hop, Twist):
            text = "turned about so that the other face lies up"
            return f"{self.who()} is {text}" if first else f"is {text}"
        if isinstance(hop, Thread):
            onto = f"push the bead “{hop.bead}” up {self.names(self.r.ends)}"
            return f"On {self.who()}, {onto}" if first else f"then {onto}"
        assert isinstance(hop, To)
        return self.to(h, first=first)

    def passage(self, h: HopRecord) -> str:
        """Into or out of the loop that an end began with, as it is seen."""
        met = self.passages.get(next(k for k, other in enumerate(self.r.hops) if other is h))
        if met is None:
            return ""
        whose = "its" if met.owner == self.r.end else f"{self.name(met.owner)}’s"
        return f" {'into' if met.into else 'out of'} {whose} first loop"

    def to(self, h: HopRecord, *, first: bool) -> str:
        """Where an end is brought to rest elsewhere than it would: on which side of what hangs there it goes."""
        k = next(i for i, other in enumerate(self.r.hops) if other is h)
        before = [x.hop for x in self.r.hops[:k] if x.ends]
        over = True
        if before:
            last = before[-1]
            over = last.up if isinstance(last, Through) else bool(getattr(last, "over", True))
            over = not over if isinstance(last, Round) else over
        went = f"{self.lie.in_front if over != self.r.turned else self.lie.behind} to where it rests"
        if any(x.ends for x in self.r.hops[k + 1 :]):
            count = len(self.before)
            at = place_words(count - 1 - h.place if self.r.turned else h.place, count)
            went = went.replace("where it rests", f"hang {at}")
        if first:
            return f"{self.start('')} across {went}"
        return f"then on {went}"

    def stands(self, h: HopRecord) -> str:
        """Which turn stands: the latest that was made."""
        k = next(i for i, other in enumerate(self.r.hops) if other is h)
        made = next((i for i in range(k - 1, -1, -1) if self.r.hops[i].turns > self.before_hop(i)), None)
        if made is None:
            return "just made"
        last = self.r.hops[made].hop
        if isinstance(last, Cross):
            earlier = [x for x in self.r.hops[:made] if x.ends]
            return (
                "where it turned back"
                if earlier and isinstance(earlier[-1].hop, Cross)
                else "where it set out"
            )
        return "where it came out" if isinstance(last, Through | Past) else "just made"

    def before_hop(self, k: int) -> int:
        return self.r.hops[k - 1].turns if k else 0

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
        k = next(i for i, other in enumerate(self.r.hops) if other is h)
        if k and self.r.hops[k - 1].hop == hop and hop.turns == 1 and not hop.bight:
            return f"then once more {'up' if up else 'down'} through {what} the same way"
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
        if owner == self.r.end and hop.loop.kind == "bend" and not _of_this_step(h):
            whose = "its own earlier"
        loop = hop.loop
        if loop.kind == "name":
            which = f"{ordinal(loop.bend)} " if loop.bend > 1 else ""
            return f"the {which}loop “{loop.name}”"
        if loop.kind == "edge":
            side = self.side(-1 if loop.left else 1)
            below = ", counted from below" if loop.bend < 0 else ""
            return f"the {ordinal(abs(loop.bend))} loop at the {side} edge{below}"
        if loop.kind == "beside":
            side = self.side(-1 if loop.left else 1)
            if not loop.bend:
                return f"the space {side} of {'its' if owner == self.r.end else whose} tail"
            return f"the space beside {'its own cord' if owner == self.r.end else self.name(owner)}"
        number = turn_number(self.t, self.index, h)
        return f"{whose} turn {number}" if number else f"{whose} loop"

    def follow(self, h: HopRecord, hop: Follow) -> str:
        side = self.side(-1 if hop.left else 1)
        if hop.ref is None:
            return f"runs on down beside its own path, on the {side}"
        it = self.names(h.ends)
        if not hop.back and isinstance(self.r.op.value, Call) and self.r.op.value.as_one:
            return f"follows {it} through the whole knot, beside it on its {side}, over and under as it goes"
        if not hop.back:
            return f"does what {it} has just done, beside it on its {side}"
        beside = f"runs back up beside {it} on its {side}"
        if not hop.most:
            return f"{beside}, to where it began, with the same overs and unders"
        return f"{beside}, with it {', '.join(self.beside(h, hop.most))}, and leaves it there"

    def beside(self, h: HopRecord, most: int) -> list[str]:
        """What an end passes that runs back up beside another: what that one passed before, from its tail on."""
        leader = h.ends[0]
        passed = [v for v in visits(self.t)[leader] if v.crossing < h.start]
        out = []
        for v in passed[::-1][:most]:
            c = self.t.crossings[v.crossing]
            other = c.row_end if c.lane_end == leader else c.lane_end
            it = "its own cord" if other == self.r.end else self.name(other)
            out.append(f"{'over' if v.over != self.r.turned else 'under'} {it}")
        return out

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
            most = (
                f" to {mm_words(deed.most)} (your size says how much, the same every time)"
                if deed.most
                else ""
            )
            return f"Leave {free_words(deed.mm, deed.share)}{most} of free {self.words.cord} on {whose} before the next knot."
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
        what = f"{cord_colour(self.t.weave, cord)} {self.words.cord}" if cord else self.words.cord
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
        tails.append(
            f"{letter_of(trace, e)} {cord_colour(trace.weave, cord)}" if cord else letter_of(trace, e)
        )
    if len(tails) == 1:
        return f"One {words.end} hangs: {tails[0]}."
    return f"From left to right hang: {', '.join(tails)} ({len(tails)} {words.end}s)."
