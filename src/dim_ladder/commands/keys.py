"""Which key does what: the table's own keys, with what a person has changed. Clashes are refused, with who has the key."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from dim_ladder.base import InputError
from dim_ladder.commands.table import ACTIONS, Action, action

# Keys of these work only while the board or the ladder has the keys, so they may be single ones.
SINGLE_KEYS = (
    "play.run", "play.back", "play.next", "play.previous", "play.faster", "play.slower", "play.behind", "record.insert",
    "record.remove",
)  # fmt: skip

# These came with a key after people had chosen keys of their own: they give way to those.
LATER = ("board.stacked", "board.pass", "board.twist", "record.how")


@dataclass(frozen=True)
class Keys:
    """changed : action id -> its key now; "" for none. Keys are written as in the table: Ctrl+Shift+M."""

    changed: Mapping[str, str] = field(default_factory=dict)

    def of(self, action_id: str) -> str:
        own = self.changed.get(action_id)
        return action(action_id).shortcut if own is None else own

    def on_board(self) -> dict[str, str]:
        """Key -> what it does with an end in hand, without "board."."""
        return {
            self.of(a.id): a.id.removeprefix("board.")
            for a in ACTIONS
            if a.id.startswith("board.") and self.of(a.id)
        }

    def who(self, key: str, like: str) -> Action | None:
        """The action that has a key where `like` is used: with an end in hand, or elsewhere."""
        board = like.startswith("board.")
        return next(
            (
                a
                for a in ACTIONS
                if key and self.of(a.id).lower() == key.lower() and a.id.startswith("board.") == board
            ),
            None,
        )

    def put(self, action_id: str, key: str) -> Keys:
        """Another key for an action; "" takes it away. Raises InputError where that cannot be."""
        a = action(action_id)
        has = self.who(key, action_id)
        if has is not None and has.id != action_id:
            raise InputError(f"{key} is taken: {has.text}", "Choose another key, or take it from there first")
        plain = key and not key.startswith(("Ctrl+", "Alt+", "Meta+")) and not _is_function(key)
        if plain and not action_id.startswith("board.") and action_id not in SINGLE_KEYS:
            raise InputError(f"{key} alone would be lost to typing", f"Add Ctrl or Alt to it, for: {a.text}")
        if action_id.startswith("board.") and key.startswith(("Ctrl+", "Alt+", "Meta+")):
            raise InputError("With an end in hand a single key is enough", "Press it without Ctrl or Alt")
        if action_id.startswith("board.") and key.isdecimal():
            raise InputError("Digits name places", "Choose a letter or a sign")
        changed = {**self.changed, action_id: key}
        if key == a.shortcut:
            del changed[action_id]
        return Keys(changed)


def _is_function(key: str) -> bool:
    last = key.rsplit("+", 1)[-1]
    return last[:1] == "F" and last[1:].isdecimal()


def read_keys(changed: Mapping[str, str]) -> Keys:
    """What a settings file holds, as far as it fits this program: unknown actions and clashes are left out."""
    keys = Keys()
    known = {a.id for a in ACTIONS}
    # First what gives keys up, so that they are free for others.
    for action_id, key in sorted(changed.items(), key=lambda c: bool(c[1])):
        if action_id in known:
            has = keys.who(key, action_id)
            if has is not None and has.id in LATER and has.id not in changed:
                keys = keys.put(has.id, "")
            try:
                keys = keys.put(action_id, key)
            except InputError:
                continue
    return keys
