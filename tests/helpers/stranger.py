"""A stranger with a sheet: reads its words and looks at its pictures, and ties what they say.

It knows how sentences of each school are built and nothing of the weave they were made from. What it understands it writes down as
steps of ends by letter, and ties those; a sentence it cannot read is an `Unread`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from dim_ladder.notation import parse_strict
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.diagram import tangle
from helpers.looking import counted, earlier, goes_into, side_of


class Unread(AssertionError):
    """A sentence that says nothing, or two things."""


NAME = r"(?:[A-Z]{1,2}(?![a-z])|the finished [\w ]+?(?=,| and |;|:|\.| \(|$))"
LIST = rf"{NAME}(?:, {NAME})*(?: and {NAME})?"
PLACE = r"(?:alone|far left|far right|in the middle|\d+(?:st|nd|rd|th) from the (?:left|right))"
THROUGH = r"(?:tuck it |pass it )?"
WHERE = {"front": ("in front", "on top"), "back": ("behind", "below")}
STARTS = (r"{who} goe?s? ?", r"Take {who} ?", r"Bring {who} ?")
WHO = rf"(?P<ends>{LIST})(?: as one)?(?: and (?P<below>{LIST}) beneath it)? \((?:[a-z0-9. ]+, )?(?P<place>{PLACE})\)"
TURN_OF_PHRASE = {"sets out": "first", "comes out": "last"}
EXCHANGED = {"left": "right", "right": "left"}
BEHIND = {"over": "under", "under": "over", "up": "down", "down": "up"}


@dataclass
class Deed:
    """One thing done, with the letters in it in braces: "{A}: over {B} {C}". led : hops that are looked up in a picture."""

    text: str
    turns: dict[tuple[str, int], str] = field(default_factory=dict)


def letters(text: str) -> list[str]:
    return [t.strip() for t in re.split(r", | and ", text) if t.strip()]


def braced(text: str) -> str:
    return " ".join("{" + x + "}" for x in letters(text))


class Stranger:
    """Reads a sheet. counts : of the size it ties, units by section. own : of every section its title's name."""

    def __init__(self, sheet_cords: Sequence[tuple[str, str]], hanging: str) -> None:
        self.cords = {name: letters(of) for name, of in sheet_cords}
        found = re.search(r"From left to right hang: (.*) \(\d+ \w+\)\.|One \w+ hangs: (.*?)\.", hanging)
        if not found:
            raise Unread(hanging)
        tails = (found.group(1) or found.group(2)).split(", ")
        self.hung = [t.split(" ")[0] for t in tails]
        self.end: dict[str, str] = {}
        for k, of in enumerate(self.cords.values()):
            for letter, side in zip(of, "abcd", strict=False):
                self.end[letter] = f"c{k}.{side}" if side in "ab" else f"c{k}{side}.a"
        self.sections: list[str] = []
        self.open: list[str] = []
        self.head = ""
        self.turn_at: dict[tuple[str, int], int] = {}
        self.pairs: dict[str, str] = {}
        self.knots: list[str] = []
        self.waiting: list[str] = []
        self.since: list[Deed] = []  # what was done since they wait

    # -- what is written down ---------------------------------------------------------------------

    def script(self, *more: str) -> str:
        names = dict.fromkeys(e.split(".")[0] for e in self.end.values())
        cords = "\n".join(f"  {c} nylon-4mm #1f6f8b" for c in names)
        hang = " ".join(self.end[x] for x in self.hung)
        body = [*self.sections]
        if self.head:
            body += [self.head, *(f"  {line}" for line in (*self.open, *more))]
        text = "\n".join(body)
        knots = "".join(k + "\n" for k in self.knots)
        beads = dict.fromkeys(re.findall(r"bead ([\w-]+)", text))
        declared = "beads\n" + "\n".join(f"  {b} 6 mm #111111" for b in beads) + "\n" if beads else ""
        return f'weave "Read"\ncords\n{cords}\n{declared}hang\n  {hang}\n{knots}{text}\n'

    def traced(self, *more: str) -> Trace:
        t = trace(parse_strict(self.script(*more)))
        if t.problems:
            raise Unread(f"{t.problems[0].message} in {[*self.sections, *self.open, *more][-1:]}")
        return t

    def named(self, text: str) -> str:
        return re.sub(
            r"\{([^{}]*)\}",
            lambda m: self.end.get(m[1]) or m[1].removeprefix("the finished ").replace(" ", "-"),
            text,
        )

    # -- sections -----------------------------------------------------------------------------------

    def begin(self, name: str, begin: str) -> None:
        if self.head:
            self.sections += [self.head, *(f"  {line}" for line in self.open)]
        self.open = []
        how = ""
        if begin.startswith("Turn the work end for end and tie back over the finished "):
            how = ", layer over " + begin.split("the finished ")[1].split(",")[0].replace(" ", "-")
        elif begin.startswith("Work on the finished "):
            how = ", stitched on " + begin.split("the finished ")[1].split(",")[0].replace(" ", "-")
            every = re.search(r"takes (\d+) units", begin)
            how += f" every {every[1]}" if every else ""
        elif begin:
            raise Unread(begin)
        self.head = f"section {name}: body{how}"

    def section(
        self, name: str, begin: str, steps: Sequence[tuple[str, object]], rows: Sequence[str], units: int
    ) -> None:
        """steps : sentence and picture of each. rows : who plays which part. units : how often it is worked."""
        self.begin(name, begin)
        only, told = self._rows(rows)
        known: dict[int, list[Deed]] = {}
        by_unit: dict[int, list[tuple[int, str, object]]] = {}
        for sentence, picture in steps:
            self.number += 1
            label = re.match(r"(\d+)(?:st|nd|rd|th) time: ", sentence)
            text = sentence[label.end() :] if label else sentence
            by_unit.setdefault(int(label[1]) - 1 if label else 0, []).append((self.number, text, picture))

        def tie(unit: int) -> list[Deed]:
            out: list[Deed] = []
            for number, text, picture in by_unit.get(unit, ()):
                known[number] = self._deeds(text, picture, known)
                out += known[number]
                self._do(known[number])
                self.since += known[number]
            return out

        first = tie(0)
        rest = first[only:]
        stitched = "stitched on" in self.head
        if stitched:
            if units > 1:
                how = f", {told[1][0]} every other" if told and told[1][0] else ""
                if 1 in by_unit:
                    # Loops that are counted from the other end: the motif lies the other way round.
                    assert all("counted from below" in text for _, text, _ in by_unit[1]), by_unit
                    how = ", end for end every other"
                self.head += f", repeat {units}{how}"
            return
        if units > 1 and not told and not only and all(d.text.startswith("{") for d in first):
            self.head += f", repeat {units}"
            return
        for u in range(1, units):
            cycle = len(told) + len(by_unit)
            if u % cycle in by_unit and u % cycle:
                tie(u % cycle)
                continue
            how, parts = told.get(u % cycle, ("", {})) if told else ("", {})
            self._do([_changed(d, how, parts) for d in rest])

    number = 0

    def _do(self, deeds: Sequence[Deed]) -> None:
        for d in deeds:
            if d.text:
                self.open.append(self._ordered(d))

    def _rows(self, rows: Sequence[str]) -> tuple[int, dict[int, tuple[str, dict[str, str]]]]:
        once, told = 0, {}
        for row in rows:
            if m := re.fullmatch(r"Steps? (\d+)(?: to (\d+))?: only once, at the head\.", row):
                once = int(m[2] or m[1]) - int(m[1]) + 1
            elif m := re.fullmatch(r"(\d+)(?:st|nd|rd|th) time: (.*)\.", row):
                told[int(m[1]) - 1] = _how_and_who(m[2])
            elif (
                row not in ("So on in turn.", "Then again as from the first time.")
                and "hang in the same places" not in row
            ):
                raise Unread(row)
        return once, told

    # -- sentences ------------------------------------------------------------------------------------

    def _deeds(self, said: str, picture: object, known: Mapping[int, list[Deed]]) -> list[Deed]:
        if m := re.match(r"Repeat (\d+)(?:(?: and | to )(\d+))?(.*)\.$", said):
            return self._repeat(int(m[1]), int(m[2] or m[1]), m[3], known)
        if said.startswith("Turn the work over"):
            return [Deed("turn over")]
        if m := re.match(r"Turn the work end for end\. From left to right now hang (.*)\.$", said):
            return [Deed("rotate")]
        if m := re.match(
            r"Turn the work by a quarter, so that its (left|right) side hangs down\. From .* hang (.*)\.$",
            said,
        ):
            return [Deed(f"rotate {m[1]} ({braced(m[2])})")]
        if m := re.match(r"Leave (.*) of free cord on (all|.*) before the next knot\.", said):
            who = "" if m[2] == "all" else f" ({braced(m[2])})"
            return [Deed(f"span {_free(m[1])}{who}")]
        if m := re.match(r"Lay (.*) aside: worked no more\.", said):
            return [Deed(f"drop {braced(m[1])}")]
        if m := re.match(r"Lay in the [a-z0-9. ]+ cord (\w+); it hangs (.*)\.", said):
            return [Deed(f"add {{{m[1]}}} at [{m[2]}]+1")]
        if m := re.match(
            rf"Lay the [a-z0-9. ]+ cord by its middle (over|under) (.*); ({LIST}) hang on either side\.", said
        ):
            return [Deed(f"add {braced(m[3])} {m[1]} {braced(m[2])}")]
        if m := re.match(
            rf"Lay in the [a-z0-9. ]+ cord by its fold; ({LIST}) hang (.*) and next to it\.", said
        ):
            return [Deed(f"add {braced(m[1])} at [{m[2]}]+2")]
        if m := re.match(
            r"Bring (\w+) \([a-z0-9. ]+ cord\) round from the other side of the work; it hangs (.*)\.", said
        ):
            return [Deed(f"add {{{m[1]}}} at [{m[2]}]+1")]
        if m := re.match(
            r"Let (.*) wait: (?:they follow|it follows) once the others have tied the knot\.", said
        ):
            self.waiting, self.since = letters(m[1]), []
            return [Deed(f"drop {braced(m[1])}")]
        if m := re.match(
            rf"({NAME}) \(.*?\) follows ({NAME}) through the whole knot, beside it on its (left|right), over",
            said,
        ):
            return [self._follows(m[1], m[2])]
        if re.match(rf"{LIST}: (tuck|cut|put|stitch|leave)", said):
            return []
        return [self._step(said, picture)]

    def _repeat(self, a: int, b: int, how: str, known: Mapping[int, list[Deed]]) -> list[Deed]:
        deeds = [d for n in range(a, b + 1) for d in known[n]]
        times = 1
        if m := re.match(r" (once|twice|(\d+) times) more", how):
            times = {"once": 1, "twice": 2}.get(m[1]) or int(m[2])
            how = how[m.end() :]
        if m := re.fullmatch(r" with (\w+) in the place of (\w+), then (.*)", how):
            each = [{m[2]: x} for x in (m[1], *letters(m[3]))]
            return [_changed(d, "", p) for p in each for d in deeds]
        if how.startswith(", first "):
            out = []
            for part in how[len(", first ") :].split("; then "):
                way, who = _how_and_who(part) if part != "as they stand" else ("", {})
                out += [_changed(d, way, who) for d in deeds]
            return out
        way, who = _how_and_who(how.strip()) if how.strip() else ("", {})
        return [_changed(d, way, who) for _ in range(times) for d in deeds]

    def _step(self, said: str, picture: object) -> Deed:
        """A sentence about moving ends, as a step."""
        deed = Deed("")
        said, tension = _tension(said)
        if m := re.fullmatch(rf"Push the (bead “.*?”) up ({LIST})\.", said):
            return Deed(
                "+".join("{" + x + "}" for x in letters(m[2]))
                + ": "
                + ", ".join(f"bead {b}" for b in re.findall(r"“(.*?)”", m[1]))
            )
        body, rest, stays = said, "", False
        for pattern in (
            rf"(.*?)(?:; (?:it|they) rests?|, and rests?) ({PLACE})\.$",
            r"(.*); the tip stays where it was\.()$",
            r"(.*)()\.$",
        ):
            if m := re.match(pattern, said):
                body, rest = m[1], m[2]
                stays = "stays" in pattern
                break
        else:
            raise Unread(said)
        goes_on = re.match(rf"({LIST}) goe?s? on: ", body)
        if goes_on:
            last = self.open_step
            ends, text = last.split(": ", 1)[0], body[goes_on.end() :]
            before = last.split(": ", 1)[1]
        else:
            ends, text, before = *self._who(body), ""
        hops = self._hops(text, ends, before, picture, rest, deed)
        whole = f"{ends}: " + ", ".join(([before] if before else []) + hops)
        self.open_step = whole
        finished = bool(rest) or stays
        deed.text = whole + tension if finished else ""
        return deed

    open_step = ""
    first = 0  # the first number in the sentence that is read

    def _who(self, body: str) -> tuple[str, str]:
        for start in (
            r"{who} (?:goes|go) ",
            r"Take {who},? ",
            r"Bring {who},? ",
            r"On {who}, ",
            r"{who}: ",
            r"{who} (?:is )?",
        ):
            m = re.match(start.replace("{who}", WHO), body)
            if m:
                ends = "+".join("{" + x + "}" for x in letters(m["ends"]))
                if m["below"]:
                    ends += "".join("/{" + x + "}" for x in letters(m["below"]))
                return ends, body[m.end() :].lstrip(", ")
        raise Unread(body)

    def _hops(self, text: str, ends: str, before: str, picture: object, rest: str, deed: Deed) -> list[str]:
        out: list[str] = []
        me = re.findall(r"\{(.*?)\}", ends)[0]
        last_through = ""
        self.first = 0
        while text:
            text = text.removeprefix(", ").removeprefix("then ")
            hop, text = self._hop(text, me, out, before, picture, rest, last_through, ends)
            if m := re.match(r" \((\d+)\)", text):
                self.first = self.first or int(m[1])
                text = text[m.end() :]
            last_through = hop if re.match(r"(up|down) ", hop) else ""
            if m := re.match(r" \(call this loop “(.*?)”\)", text):
                hop += f" @{m[1]}"
                text = text[m.end() :]
            if hop:
                out.append(hop)
            while m := re.match(r" \(call the turn with which it ([\w ]+?) turn (\d+)\)", text):
                t = self._so_far(ends, before, out)
                made = [0, *(h.turns for h in t.steps[-1].hops)]
                nth = re.match(r"turns the (\d+)", m[1])
                at = {"comes out": made[-1], "sets out": made[-2] + 1}.get(m[1], 0)
                if nth:
                    at = made[-2] + int(nth[1])
                elif m[1] == "comes to hang":
                    at = len(t.bends[t.steps[-1].end])
                for who in re.findall(r"\{(.*?)\}", ends):
                    self.turn_at[who, int(m[2])] = at
                text = text[m.end() :]
        return out

    def _hop(
        self,
        text: str,
        me: str,
        out: list[str],
        before: str,
        picture: object,
        rest: str,
        last: str,
        ends: str,
    ) -> tuple[str, str]:
        def done(hop: str, m: re.Match[str]) -> tuple[str, str]:
            return hop, text[m.end() :]

        if m := re.match(rf"at (\d+) (over|under) (its own cord|{NAME})", text):
            it = me if m[3] == "its own cord" else m[3]
            n = counted(picture, self._letter_ends(), me, it, int(m[1]))
            if loop := re.match(r" (into|out of) (?:its|(\w+)’s) first loop", text[m.end() :]):
                way = goes_into(picture, self._letter_ends(), me, it, int(m[1]), loop[2] or me)
                if way != (loop[1] == "into"):
                    raise Unread(text)
                text = text[: m.end()] + text[m.end() + loop.end() :]
            return done(f"{m[2]} {'own' if it == me else '{' + it + '}'} at {n}", m)
        if m := re.match(rf"(?:back )?(?:(left|right) )?(over|under) ({LIST})", text):
            return done(f"{m[2]} {braced(m[3])} <{m[1] or ''}>", m)
        doubled = re.match(r"(?:a doubled part of it|a bight of it|a loop of it) goes ", text)
        if doubled:
            inner, after = self._hop(text[doubled.end() :], me, out, before, picture, rest, last, ends)
            return f"bight {inner}", after
        if m := re.match(rf"{THROUGH}once more (up|down) through (.*?) the same way", text):
            return done(f"{m[1]} {self._what(m[2], me, picture, 0)}", m)
        if m := re.match(
            rf"{THROUGH}(up|down) through (.*?): in [\w ]+, out [\w ]+ (?:over|under) the loop’s edge(?:, (twice|\d+ times) round that edge)?",
            text,
        ):
            turns = {"twice": 2}.get(m[3] or "") or (int(m[3].split()[0]) if m[3] else 1)
            mark = re.match(r" \((\d+)\)", text[m.end() :])
            crossed = 0
            if "space beside" in m[2]:
                crossed = self._crossed(ends, before, out)
                # A picture of a part of the step begins with it; one with the numbers of what came before has that too.
                if not earlier(picture, self.first or (int(mark[1]) if mark else 0)):
                    crossed -= self._crossed(ends, before, [])
            what = self._what(m[2], me, picture, int(mark[1]) if mark else 0, crossed)
            return done(f"{m[1]} {what}" + (f" turns {turns}" if turns > 1 else ""), m)
        if m := re.match(rf"{THROUGH}(up|down) between ({LIST}), [\w ]*\w", text):
            return done(f"{m[1]} gap {braced(m[2])}", m)
        if m := re.match(
            rf"(?:round|wrapped round|wound round) ({LIST}) (once|twice|\d+ times), (in front|on top|behind|below) first",
            text,
        ):
            turns = {"once": 1, "twice": 2}.get(m[2]) or int(m[2].split()[0])
            behind = " behind" if m[3] in WHERE["back"] else ""
            return done(f"round {braced(m[1])} {turns}{behind}", m)
        if m := re.match(
            r"makes a loop and crosses to the (left|right) (over|under) its own (?:standing part|standing end|upper part)",
            text,
        ):
            return done(f"{m[2]} own {m[1]}", m)
        if m := re.match(
            r"leaving (.*?) standing in the turn (?:where it set out|where it turned back|where it came out|just made)",
            text,
        ):
            return done(f"leave {_free(m[1])}", m)
        if m := re.match(rf"push the bead “(.*?)” up {LIST}", text):
            return done(f"bead {m[1]}", m)
        if m := re.match(
            r"(?:goes )?through the ([\w ]+), (from behind|from below|from the front|from the top), and back to where it hung",
            text,
        ):
            behind = " behind" if m[2] in ("from behind", "from below") else ""
            return done(f"pass {m[1].replace(' ', '-')}{behind}", m)
        if m := re.match(r"turned about so that the other face lies up", text):
            return done("twist", m)
        if m := re.match(
            rf"runs back up beside ({NAME}) on its (left|right), to where it began, with the same overs and unders",
            text,
        ):
            return done(f"follow {{{m[1]}}} {m[2]} back", m)
        one = rf"(?:over|under) (?:its own cord|{NAME})"
        if m := re.match(
            rf"runs back up beside ({NAME}) on its (left|right), with it ({one}(?:, {one})*), and leaves it there",
            text,
        ):
            return done(f"follow {{{m[1]}}} {m[2]} back {len(m[3].split(', '))}", m)
        if m := re.match(r"runs on down beside its own path, on the (left|right)", text):
            return done(f"follow own {m[1]}", m)
        if m := re.match(rf"does what ({NAME}) has just done, beside it on its (left|right)", text):
            return done(f"follow {{{m[1]}}} {m[2]}", m)
        if m := re.match(
            rf"(?:on|across) (in front|on top|behind|below) to (?:where it rests|hang ({PLACE}))", text
        ):
            return done(f"to [{m[2] or rest}]", m)
        raise Unread(text)

    def _so_far(self, ends: str, before: str, out: list[str]) -> Trace:
        return self.traced(self._ordered(Deed(f"{ends}: " + ", ".join(([before] if before else []) + out))))

    def _crossed(self, ends: str, before: str, out: list[str]) -> int:
        """What the moving end has met by now, as the hand that leads it knows."""
        if not before and not out:
            return 0
        made = self._so_far(ends, before, out).steps[-1]
        return made.stop - made.start

    def _what(self, said: str, me: str, picture: object, mark: int, crossed: int = 0) -> str:
        if said == "its own loop":
            return "own"
        if said == "its own earlier loop":
            return f"{{{me}}}"
        if m := re.fullmatch(r"its own earlier turn (\d+)", said):
            return f"{{{me}}}.{self.turn_at[me, int(m[1])]}"
        if m := re.fullmatch(r"(\w+)’s loop", said):
            return f"{{{m[1]}}}"
        if m := re.fullmatch(r"(?:its own|(\w+)’s) turn (\d+)", said):
            at = self.turn_at[m[1] or me, int(m[2])]
            return (f"{{{m[1]}}}" if m[1] else "own") + f".{at}"
        if m := re.fullmatch(r"the (?:(\d+)\w\w )?loop “(.*)”", said):
            return f"@{m[2]}" + (f".{m[1]}" if m[1] else "")
        if m := re.fullmatch(r"the (\d+)\w\w loop at the (left|right) edge(, counted from below)?", said):
            return f"{m[2]} loop {'-' if m[3] else ''}{m[1]}"
        if m := re.fullmatch(r"the space (left|right) of (?:its|(\w+)’s) tail", said):
            return f"{m[1]} of {{{m[2] or me}}}"
        if m := re.fullmatch(r"the space beside (its own cord|\w+)", said):
            it = me if m[1] == "its own cord" else m[1]
            n = counted(picture, self._letter_ends(), me, it, mark, crossed)
            side = side_of(picture, self._letter_ends(), me, it, mark)
            return f"{side} of {{{it}}} {n}"
        raise Unread(said)

    def _letter_ends(self) -> dict[str, int]:
        return {x: k for k, x in enumerate(sorted(self.end, key=lambda x: (len(x), x)))}

    # -- what is tied doubled --------------------------------------------------------------------------

    def _follows(self, end: str, leader: str) -> Deed:
        """An end that waited follows another through the knot: the last one closes it, and the whole is tied with ends as one."""
        self.pairs[leader] = end
        if set(self.pairs.values()) != set(self.waiting):
            return Deed("")
        at = next(k for k in range(len(self.open) - 1, -1, -1) if self.open[k].startswith("drop "))
        steps = self.open[at + 1 :]
        del self.open[at:]
        for d in self.since:
            d.text = ""
        order = self._hangs()
        used = [e for e in order if any(re.search(rf"\b{re.escape(e)}", x) for x in steps)]
        slot = {e: f"s{k}" for k, e in enumerate(used)}
        name = f"doubled-{len(self.knots)}"
        lines = []
        for x in steps:
            for e, to in slot.items():
                x = re.sub(rf"(?<![\w.]){re.escape(e)}(?![\w])", to, x)
            lines.append("  " + x)
        self.knots.append(f"knot {name} ({' | '.join(slot.values())})\n" + "\n".join(lines))
        its = {e: x for x, e in self.end.items()}
        groups = []
        for e in used:
            both = sorted([e, self.end[self.pairs[its[e]]]], key=order.index) if its[e] in self.pairs else [e]
            groups.append("+".join("{" + its[x] + "}" for x in [e, *(x for x in both if x != e)]))
        self.pairs = {}
        return Deed(f"{name} ({' | '.join(groups)})")

    # -- where they hang now --------------------------------------------------------------------------

    def _ordered(self, deed: Deed) -> str:
        """A deed with ends by name and places as they are now: what is crossed side by side is met in the order it hangs in."""
        text = deed.text
        if not re.search(r"<|\[", text):
            return self.named(text)
        order = self._hangs()
        if "[" in text:
            adding = re.search(r"\+([12])", text)
            total = len(order) + (int(adding[1]) if adding else 0)
            text = re.sub(r"\[(.*?)\](?:\+[12])?", lambda m: str(_place(m[1], total)), text)
        ends, _, hops = text.partition(": ")
        done = []
        side = ""
        names = [self.named("{" + x + "}") for x in re.findall(r"\{(.*?)\}", ends)]
        for hop in hops.split(", "):
            m = re.fullmatch(r"(bight )?(over|under) (.*?) <(left|right|)>(.*)", hop)
            if m:
                met = [self.named(x) for x in re.findall(r"\{.*?\}", m[3])]
                side = m[4] or side
                ranks = {e: order.index(e) for e in order}
                met.sort(key=lambda e: ranks.get(e, 0), reverse=side == "left")
                hop = f"{m[1] or ''}{m[2]} {' '.join(met)}{m[5]}"
            else:
                side = ""
            done.append(self.named(hop))
        del names
        return f"{self.named(ends)}: " + ", ".join(done) if hops else self.named(text)

    def _hangs(self) -> list[str]:
        t = self.traced()
        return list(t.names_shown()) if t.steps else [self.end[x] for x in self.hung]


def _place(words: str, total: int) -> int:
    if words in ("alone", "far left"):
        return 1
    if words == "far right":
        return total
    if words == "in the middle":
        return total // 2 + 1
    n = int(re.match(r"\d+", words)[0])  # type: ignore[index]
    return n if words.endswith("left") else total + 1 - n


def _free(said: str) -> str:
    said = said.removesuffix(" (your size says how much, the same every time)")
    for words, share in (
        ("half the girth", "1 of 2 of girth"), ("a third of the girth", "1 of 3 of girth"),
        ("a quarter of the girth", "1 of 4 of girth"), ("the girth", "girth"),
    ):  # fmt: skip
        if said.startswith(words):
            return said.replace(words, share)
    return re.sub(r"^(\d+)/(\d+) of the girth", r"\1 of \2 of girth", said)


def _tension(said: str) -> tuple[str, str]:
    said = re.sub(r"(?<=\.) \([^()]*\)$", "", said)
    said = re.sub(r" Keep [^.]*? straight\.", "", said)  # how a hand holds it, not how it goes
    for words, how in ((" Pull tight.", " tight"), (" Draw snug.", " snug"), (" Leave easy.", " easy")):
        if said.endswith(words):
            return said[: -len(words)], how
    return said, ""


def _how_and_who(said: str) -> tuple[str, dict[str, str]]:
    """ "with left and right exchanged, A and D changing parts" -> how, and who stands in for whom."""
    who: dict[str, str] = {}
    mirrored = "left and right exchanged" in said
    flipped = "over becomes under" in said
    for m in re.finditer(
        r"(\w+) in the place of (\w+)|(\w+) as (\w+)(?=,|$)|(\w+) and (\w+) changing parts", said
    ):
        if m[1]:
            who[m[2]] = m[1]
        elif m[3] and m[3] != "as" and len(m[3]) <= 2:
            who[m[4]] = m[3]
        elif m[5]:
            who[m[5]], who[m[6]] = m[6], m[5]
    rest = re.sub(
        r"(\w+) in the place of (\w+)|\w+ as \w+(?=,|$)|\w+ and \w+ changing parts|left and right exchanged"
        r"|from behind, so that over becomes under and up becomes down|as the first time",
        "", said,
    )  # fmt: skip
    if re.sub(r"\b(with|and)\b|[ ,]", "", rest):
        raise Unread(said)
    how = "turn" if mirrored and flipped else "mirror" if mirrored else "flip" if flipped else ""
    return how, who


def _changed(deed: Deed, how: str, who: Mapping[str, str]) -> Deed:
    text = re.sub(r"\{(\w+)\}", lambda m: "{" + who.get(m[1], m[1]) + "}", deed.text)
    if how in ("mirror", "turn"):
        text = re.sub(r"\b(left|right)\b", lambda m: EXCHANGED[m[1]], text)
    if how in ("flip", "turn"):
        text = re.sub(r"\b(over|under|up|down)\b", lambda m: BEHIND[m[1]], text)
        text = re.sub(
            r"(round [^,]*? \d+)( behind)?(?=,|$| @)", lambda m: m[1] + ("" if m[2] else " behind"), text
        )
    return Deed(text)


def likeness(t: Trace, letter_of: Mapping[str, str]) -> tuple[object, ...]:
    """What a diagram is apart from how it was numbered: per end by letter its passages, crossings numbered in the order in which
    they are met, who is in front and from which side; and the order of tails."""
    made = tangle(t)
    names = [letter_of.get(e, e) for e in t.ends]
    number: dict[int, int] = {}
    walks = []
    for k in sorted(range(len(names)), key=lambda k: (len(names[k]), names[k], k)):
        walk = []
        for n, over in made.walks[k]:
            walk.append((number.setdefault(n, len(number)), over, made.from_right[n]))
        walks.append((names[k], tuple(walk)))
    return (tuple(walks), tuple(names[e] for e in t.order))
