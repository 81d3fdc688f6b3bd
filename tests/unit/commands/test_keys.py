"""Keys: one for one action where it is used, changed by a person, kept as far as they fit."""

import itertools

import pytest

from dim_ladder.base import InputError
from dim_ladder.commands import ACTIONS
from dim_ladder.commands.keys import Keys, read_keys


def test_the_tables_own_keys_do_not_clash_and_may_all_be_there():
    keys = Keys()
    for a, b in itertools.combinations([a for a in ACTIONS if a.shortcut], 2):
        if a.id.startswith("board.") == b.id.startswith("board."):
            assert a.shortcut.lower() != b.shortcut.lower(), (a.id, b.id)
    for a in ACTIONS:
        assert keys.put(a.id, a.shortcut).changed == {}


def test_every_action_has_an_id_a_text_and_words():
    assert len({a.id for a in ACTIONS}) == len(ACTIONS)
    assert all(a.text and a.does and a.id.count(".") == 1 for a in ACTIONS)


def test_a_key_is_changed_taken_away_and_given_back():
    keys = Keys().put("record.mirror", "Ctrl+Alt+M")
    assert keys.of("record.mirror") == "Ctrl+Alt+M"
    assert keys.put("file.open", "Ctrl+M").of("file.open") == "Ctrl+M"  # it is free now
    assert keys.put("record.mirror", "").of("record.mirror") == ""
    assert keys.put("record.mirror", "Ctrl+M").changed == {}
    board = Keys().put("board.over", "Z").on_board()
    assert board["Z"] == "over"
    assert "O" not in board


@pytest.mark.parametrize(
    ("action_id", "key", "message"),
    [
        ("file.open", "Ctrl+M", "taken: Mirror the unit"),
        ("file.open", "ctrl+m", "taken"),
        ("board.over", "U", "taken: Under the next tail"),
        ("file.open", "X", "lost to typing"),
        ("file.open", "Shift+X", "lost to typing"),
        ("board.over", "Ctrl+J", "single key is enough"),
        ("board.over", "3", "Digits name places"),
    ],
)
def test_clashes_are_refused_and_say_who_has_the_key(action_id, key, message):
    with pytest.raises(InputError, match=message):
        Keys().put(action_id, key)


def test_function_keys_and_single_keys_of_the_ladder_are_allowed():
    assert Keys().put("file.open", "F7").of("file.open") == "F7"
    assert Keys().put("file.open", "Shift+F7").of("file.open") == "Shift+F7"
    assert Keys().put("play.run", "P").of("play.run") == "P"


def test_a_file_is_read_as_far_as_it_fits():
    keys = read_keys(
        {"no.such": "F9", "file.open": "Ctrl+S", "board.over": "X", "record.mirror": "", "view.tie": "Ctrl+M"}
    )
    # A key of one's own goes before one that an action was given later; that one has none then.
    assert dict(keys.changed) == {
        "board.over": "X",
        "board.pass": "",
        "record.mirror": "",
        "view.tie": "Ctrl+M",
    }
