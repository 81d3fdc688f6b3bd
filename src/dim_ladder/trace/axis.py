"""Insertable exact order, for the lanes and rows of the drawing."""

from __future__ import annotations

_GAP = 1 << 40


class Axis:
    """Insertable exact order: a linked list of ids with integer keys, relabelled when a gap is used up."""

    __slots__ = ("_next", "_prev", "first", "key", "last")

    def __init__(self) -> None:
        self.key: list[int] = []
        self._prev: list[int] = []
        self._next: list[int] = []
        self.first = self.last = -1

    def __len__(self) -> int:
        return len(self.key)

    def append(self) -> int:
        return self.insert(self.last, -1)

    def after(self, i: int) -> int:
        return self.insert(i, self._next[i])

    def before(self, i: int) -> int:
        return self.insert(self._prev[i], i)

    def prev(self, i: int) -> int:
        return self._prev[i]

    def next(self, i: int) -> int:
        return self._next[i]

    def insert(self, a: int, b: int) -> int:
        """A new id between neighbours a and b (-1: the end of the order)."""
        new = len(self.key)
        if a < 0 and b < 0:
            k = 0
        elif b < 0:
            k = self.key[a] + _GAP
        elif a < 0:
            k = self.key[b] - _GAP
        else:
            k = (self.key[a] + self.key[b]) // 2
            if k == self.key[a]:
                self._relabel()
                k = (self.key[a] + self.key[b]) // 2
        self.key.append(k)
        self._prev.append(a)
        self._next.append(b)
        if a < 0:
            self.first = new
        else:
            self._next[a] = new
        if b < 0:
            self.last = new
        else:
            self._prev[b] = new
        return new

    def pop(self) -> None:
        """Take back the newest id."""
        a, b = self._prev.pop(), self._next.pop()
        self.key.pop()
        if a < 0:
            self.first = b
        else:
            self._next[a] = b
        if b < 0:
            self.last = a
        else:
            self._prev[b] = a

    def _relabel(self) -> None:
        i, k = self.first, 0
        while i >= 0:
            self.key[i] = k
            k += _GAP
            i = self._next[i]

    def ranks(self) -> list[int]:
        """Rank of every id, 0 first."""
        out = [0] * len(self.key)
        i, n = self.first, 0
        while i >= 0:
            out[i] = n
            n += 1
            i = self._next[i]
        return out
