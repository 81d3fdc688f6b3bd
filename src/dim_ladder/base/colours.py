"""Colour arithmetic on "#rrggbb" strings, and plain words for colours."""

from __future__ import annotations

from collections.abc import Sequence

_WORDS = {
    "black": (0x1C, 0x1C, 0x1E), "grey": (0x88, 0x8A, 0x8C), "white": (0xF4, 0xF2, 0xEC), "red": (0xC2, 0x2F, 0x2B),
    "orange": (0xE0, 0x7A, 0x1F), "yellow": (0xF0, 0xC8, 0x30), "gold": (0xC4, 0x9A, 0x36), "green": (0x3F, 0x8F, 0x4A), "blue": (0x1F, 0x6F, 0xAB),
    "teal": (0x1F, 0x80, 0x80), "purple": (0x74, 0x4A, 0x9E), "pink": (0xE2, 0x8A, 0xB0), "brown": (0x7A, 0x4F, 0x2E),
    "sand": (0xD8, 0xC3, 0x9A), "navy": (0x1B, 0x2E, 0x5A), "olive": (0x7B, 0x7F, 0x3A), "wine": (0x7A, 0x1F, 0x3D),
}  # fmt: skip


def rgb(colour: str) -> tuple[int, int, int]:
    """Red, green, blue 0..255 of "#rrggbb"."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def mix(a: str, b: str, part: float) -> str:
    """`part` of b in a: 0 gives a, 1 gives b."""
    return "#" + "".join(f"{round(x + (y - x) * part):02x}" for x, y in zip(rgb(a), rgb(b), strict=True))


def lightness(colour: str) -> float:
    """Perceived lightness 0 (black) to 1 (white): CIE L*/100 from sRGB relative luminance."""
    linear = [
        c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in (v / 255 for v in rgb(colour))
    ]
    y = 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
    return (116 * y ** (1 / 3) - 16) / 100 if y > 0.008856 else 9.033 * y


def colour_word(colour: str) -> str:
    """The nearest plain word for a colour."""
    r, g, b = rgb(colour)

    def distance(word: str) -> float:
        x, y, z = _WORDS[word]
        mean = (r + x) / 2  # weighted by the redmean rule, closer to the eye than plain RGB distance
        return (2 + mean / 256) * (r - x) ** 2 + 4 * (g - y) ** 2 + (2 + (255 - mean) / 256) * (b - z) ** 2

    return min(_WORDS, key=distance)


_DEGREES = {2: ("light", "dark"), 3: ("light", "middle", "dark")}


def colour_words(colours: Sequence[str]) -> dict[str, str]:
    """A word for every colour of a piece; of those that one word would mean, the lighter is told from the darker."""
    out: dict[str, str] = {}
    by_word: dict[str, list[str]] = {}
    for c in dict.fromkeys(x.lower() for x in colours):
        by_word.setdefault(colour_word(c), []).append(c)
    for word, same in by_word.items():
        order = sorted(same, key=lightness, reverse=True)
        degrees = _DEGREES.get(len(same), tuple(f"{n}." for n in range(1, len(same) + 1)))
        for c, degree in zip(order, degrees, strict=True):
            out[c] = word if len(same) == 1 else f"{degree} {word}"
    return out
