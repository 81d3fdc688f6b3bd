"""A reader at a published page, in a real browser: sets what can be set, reads what it says, and has it looked at for faults."""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Mapping, Sequence
from html import unescape
from pathlib import Path
from re import S, search

from helpers.browser import dom

# Pages in files may look into each other; they still reach nothing else.
FLAGS = ("--allow-file-access-from-files", "--disable-web-security")
FIELDS = ("size", "own", "ease", "closing", "risk", "units", "voice", "lie")

SET = """
const frame = document.getElementById("page");
frame.addEventListener("load", () => {
  const doc = frame.contentDocument, out = [];
  for (const choice of CHOICES) {
    for (const [id, value] of Object.entries(choice)) {
      const field = doc.getElementById(id);
      field.value = value;
      field.dispatchEvent(new Event(field.tagName === "SELECT" ? "change" : "input"));
    }
    const shown = (el) => { for (; el; el = el.parentElement) if (el.hidden) return false; return true; };
    out.push({
      made: doc.getElementById("made").textContent,
      cuts: Array.from(doc.querySelectorAll("#yours tbody tr")).map((tr) => ({
        mm: Number(tr.querySelector(".num").dataset.mm), cells: Array.from(tr.cells).map((c) => c.textContent) })),
      words: Array.from(doc.querySelectorAll("#glossary > *")).map((el) => el.textContent),
      times: Array.from(doc.querySelectorAll(".times")).map((t) => t.textContent),
      steps: Array.from(doc.querySelectorAll(".steps > li")).filter(shown).map((li) => [li.querySelector(".knot").textContent, li.querySelector(".said").textContent]),
    });
  }
  document.getElementById("out").textContent = JSON.stringify(out);
});
"""


def choose(page: Path, choices: Sequence[Mapping[str, str]]) -> list[dict[str, object]]:
    """What a page says for every choice: values of fields by their id. One browser for all."""
    script = SET.replace("CHOICES", json.dumps(list(choices)).replace("<", "\\u003c"))
    return json.loads(_around(page, script))


NARROW = """
const frame = document.getElementById("page");
frame.style.cssText = "width: WIDEpx; border: 0";
frame.addEventListener("load", () => {
  const doc = frame.contentDocument;
  const over = Array.from(doc.querySelectorAll(".scroll")).map((el) => el.scrollWidth - el.clientWidth);
  document.getElementById("out").textContent = JSON.stringify([doc.documentElement.scrollWidth, ...over]);
});
"""


def width(page: Path, wide: int) -> list[int]:
    """How wide a page is where there is room for so many pixels, and by how much each of its tables is wider than its room."""
    return json.loads(_around(page, NARROW.replace("WIDE", str(wide))))


def faults(page: Path, prepare: str = "", *flags: str) -> list[str]:
    """What axe-core finds wrong with a page. prepare : a script that is run in it first."""
    axe = next(Path(sys.prefix).glob("axe/*/axe.min.js"), None)
    assert axe is not None, "no axe-core: ./run test fetches it"
    text = page.read_text("utf-8")
    # The page allows no script but its own: for the look at it, its rule is taken out and the looker put in.
    open_page = text.replace("Content-Security-Policy", "x-no-policy", 1)
    script = (
        f"window.addEventListener('load', async () => {{ {prepare}; const r = await axe.run(document);"
        "const pre = document.createElement('pre'); pre.id = 'axe-out';"
        "pre.textContent = JSON.stringify(r.violations.map((v) => v.id + ': ' + v.nodes.map((n) => n.target + ' ' + n.failureSummary).join(' | ')));"
        "document.body.appendChild(pre); });"
    )
    open_page = open_page.replace(
        "</body>", f"<script>{axe.read_text('utf-8')}</script><script>{script}</script></body>"
    )
    with tempfile.TemporaryDirectory() as folder:
        there = Path(folder) / "looked-at.html"
        there.write_text(open_page, "utf-8")
        html, _ = dom(there, "", "--virtual-time-budget=20000", *flags)
    found = search(r'<pre id="axe-out">(.*?)</pre>', html, S)
    assert found, "axe-core said nothing"
    return json.loads(unescape(found[1]))


def _around(page: Path, script: str) -> str:
    with tempfile.TemporaryDirectory() as folder:
        outer = Path(folder) / "outer.html"
        outer.write_text(
            f'<!doctype html><meta charset="utf-8"><iframe id="page" src="{page.as_uri()}"></iframe>'
            f'<pre id="out"></pre><script>{script}</script>', "utf-8",
        )  # fmt: skip
        html, complaints = dom(outer, "", *FLAGS, "--virtual-time-budget=20000")
    found = search(r'<pre id="out">(.*?)</pre>', html, S)
    assert found is not None, complaints
    assert found[1], complaints
    return unescape(found[1])
