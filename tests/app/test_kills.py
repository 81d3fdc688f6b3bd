"""A program that is killed while somebody works loses the key in flight at most."""

import json
import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from dim_ladder.app.window import MainWindow
from dim_ladder.shelf.workshop import make_demo
from helpers.hands import STEPS, shown
from helpers.sizes import sized

ROOT = Path(__file__).parents[2]


def run(seed, path, upto):
    """What it showed, until it was killed somewhere in the step after `upto`."""
    env = os.environ | {"PYTHONPATH": f"{ROOT / 'src'}:{ROOT / 'tests'}", "QT_QPA_PLATFORM": "offscreen"}
    p = subprocess.Popen(
        [sys.executable, "-m", "helpers.hands", str(seed), str(path)],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE, env=env, text=True,
    )  # fmt: skip
    said = []
    while len(said) <= upto and (line := p.stdout.readline()):
        said.append(json.loads(line))
    if upto < STEPS:
        time.sleep(random.random() * 0.01)  # anywhere in the next key: how long it takes nobody knows
    p.send_signal(signal.SIGKILL)
    rest, errors = p.stdout.read(), p.stderr.read()  # what was read ahead is part of it
    p.wait()
    for pipe in (p.stdin, p.stdout, p.stderr):
        pipe.close()
    assert p.returncode == -signal.SIGKILL, errors
    assert "Traceback" not in errors, errors
    return said + [json.loads(line) for line in rest.splitlines() if line.endswith("}")]


def opened(path):
    window = MainWindow()
    window.session.set_up(tight=False)
    if path == "-":
        window.session.recover()
    else:
        window.open_path(path)
    window.screen_of("view.tie")
    window.stage("view.record")
    return window


@pytest.mark.parametrize("seed", range(sized(3, 20)))
def test_what_was_shown_is_there_again(seed, qapp, tmp_path, monkeypatch):
    def fresh(name):
        monkeypatch.setenv("DIM_LADDER_STATE", str(tmp_path / f"state-{name}"))
        return "-" if seed % 3 == 2 else make_demo(tmp_path / f"w-{name}")

    # What it shows when nothing happens to it: the key in flight is the one after the last that was said.
    whole = run(seed, fresh("whole"), STEPS)
    assert len(whole) == STEPS + 1
    rng = random.Random(seed)
    for k in range(sized(4, 10)):
        path = fresh(k)
        said = run(seed, path, rng.randrange(3, STEPS))
        at = len(said) - 1
        assert said == whole[: at + 1]
        window = opened(path)
        try:
            found = shown(window)
            assert found in whole[at : at + 2], "\n".join([f"{at}", *map(repr, [found, *whole[at : at + 2]])])
        finally:
            window.session.unsaved = False
            window.close()
            window.session.jobs.finish()
            window.deleteLater()
