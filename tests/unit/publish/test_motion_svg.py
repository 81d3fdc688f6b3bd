"""Motion as SVG: well formed, without a script, and a real browser shows it as it is said to be."""

import re
import xml.etree.ElementTree as ET

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.picture.motion import Motion
from dim_ladder.publish.motion import animated_svg, step_seconds, stills
from dim_ladder.trace import trace
from helpers.browser import dom
from helpers.weaves import TERN, weave_of

BAND = trace(parse_strict(TERN))


def test_it_is_well_formed_and_holds_no_script():
    text = animated_svg(BAND, 0, 3)
    root = ET.fromstring(text)
    assert not [e for e in root.iter() if e.tag.endswith("script")]
    assert len(root.findall("{http://www.w3.org/2000/svg}g")) == 4
    for animate in root.iter("{http://www.w3.org/2000/svg}animate"):
        keys = [float(k) for k in animate.get("keyTimes").split(";")]
        assert keys == sorted(keys)
        assert keys[0] == 0
        assert len(keys) == len(animate.get("values").split(";"))


def test_a_browser_shows_one_step_at_a_time_and_the_cord_as_far_as_it_is_led(tmp_path):
    text = animated_svg(BAND, 0, 3)
    motion = Motion(BAND, 0, 3)
    begin, moments = 0.0, []
    for step in range(4):
        move = step_seconds(motion.parts(step))
        moments += [(begin + move * 0.5, step, False), (begin + move + 0.3, step, True)]
        begin += move + 0.7
    asked = ",".join(f"{t:.3f}" for t, _, _ in moments)
    page = tmp_path / "page.html"
    page.write_text(
        f"<!doctype html><meta charset=utf-8><body>{text}<pre id=out></pre><script>"
        "function run(left){const svg=document.querySelector('svg');svg.pauseAnimations();const out=[];"
        f"for(const t of [{asked}]){{svg.setCurrentTime(t);"
        "const shown=[...svg.children].filter(e=>e.tagName==='g').map(e=>getComputedStyle(e).visibility);"
        "const cords=[...svg.querySelectorAll('path[pathLength]')].map(e=>parseFloat(getComputedStyle(e).strokeDashoffset));"
        "out.push(shown.join(' ')+'|'+cords.join(' '))}"
        # A busy machine starts the animation's clock late: asked again until it runs.
        "if(left&&!out[0].includes('visible'))setTimeout(()=>run(left-1),20);"
        "else document.getElementById('out').textContent=out.join('\\n')}run(400)</script>",
        encoding="utf-8",
    )
    html, complaints = dom(page, "", "--virtual-time-budget=10000")
    assert not complaints
    lines = re.search(r'<pre id="out">(.*?)</pre>', html, re.S).group(1).split("\n")
    assert len(lines) == 8
    of_step = [motion.parts(s).movers for s in range(4)]
    for line, (_, step, rests) in zip(lines, moments, strict=True):
        shown, cords = line.split("|")
        assert [s == "visible" for s in shown.split()] == [i == step for i in range(4)]
        per = len(cords.split()) // sum(len(m) for m in of_step)
        own = [float(c) for c in cords.split()][per * step : per * (step + 1)]
        assert own == pytest.approx([0.0 if rests else 0.5] * per, abs=0.01)


def test_stills_end_each_step_at_rest():
    found = list(stills(BAND, 0, 1, 4))
    assert len(found) == 8
    assert found[3].count("<polygon") == 2
    assert found[2].count("<polygon") == 0
    for text in found:
        ET.fromstring(text)


def test_a_deed_stands_still_and_speed_scales_time():
    t = trace(weave_of(2, "1: over 2", "turn over", "1: over 2"))
    text = animated_svg(t, 0, 2)
    assert step_seconds(Motion(t, 0, 2).parts(1)) == 0.0
    slow, fast = (
        float(re.search(r'dur="([\d.]+)s"', animated_svg(t, 0, 2, speed=s)).group(1)) for s in (1, 2)
    )
    assert slow == pytest.approx(2 * fast, rel=0.02)
    assert text.count("<animateMotion") == 2
