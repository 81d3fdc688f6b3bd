"""Lengths as makers write them. Everything inside is in millimetres.

Reads "17 cm", "82,5 cm", "9 1/8 in", "5 ft 3", "5' 3 1/2\"", "1.2 m", sums such as "30 + 12.5 cm",
and a bare number in the unit the caller names.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction

from dim_ladder.base.errors import InputError

UNITS: dict[str, float] = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": 25.4,
    "ft": 304.8,
    "yd": 914.4,
}
_ALIASES = {
    "millimetre": "mm", "millimetres": "mm", "millimeter": "mm", "millimeters": "mm",
    "centimetre": "cm", "centimetres": "cm", "centimeter": "cm", "centimeters": "cm",
    "metre": "m", "metres": "m", "meter": "m", "meters": "m",
    "inch": "in", "inches": "in", '"': "in", "″": "in", "”": "in",
    "foot": "ft", "feet": "ft", "'": "ft", "′": "ft", "’": "ft",
    "yard": "yd", "yards": "yd",
}  # fmt: skip
_VULGAR = {
    "½": "1/2",
    "¼": "1/4",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
    "⅓": "1/3",
    "⅔": "2/3",
}
_THOUSANDS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:,\d{3})+\.\d+(?![\d.,])")  # 1,234.5
_POINTS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:\.\d{3})+,\d+(?![\d.,])")  # 1.234,5
_MILLIONS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:,\d{3}){2,}(?![\d.,])")  # 1,234,567
_EITHER = re.compile(
    r"(?<![\d.,])[1-9]\d{0,2},\d{3}(?![\d.,])"
)  # 1,234: a thousand and more, or one and a little
_NUMBER = re.compile(r"[+-]?([0-9]+(\.[0-9]*)?|\.[0-9]+)")
_TOKEN = re.compile(r"\s*(?:(\d+/\d+)|(\d+(?:[.,]\d+)?|[.,]\d+)|([^\W\d_]+|[\"'″”′’])|(\+))")
LONGEST_MM = 1_000_000.0  # a kilometre of cord: anything longer is a slip of the unit
HINT = 'Write it as "17 cm", "82,5 cm", "9 1/8 in", "5 ft 3" or a sum such as "30 + 12.5 cm"'


def plain_number(text: str, what: str) -> str:
    """Numbers in a text with a point, and nothing between thousands. Raises InputError where a comma could be either."""
    text = _THOUSANDS.sub(lambda m: m.group().replace(",", ""), text)
    text = _POINTS.sub(lambda m: m.group().replace(".", "").replace(",", "."), text)
    text = _MILLIONS.sub(lambda m: m.group().replace(",", ""), text)
    either = _EITHER.search(text)
    if either:
        n = either.group()
        raise InputError(
            f"“{n}” of “{text.strip()}” can be read in two ways, and {what} must not be guessed",
            f"Write {n.replace(',', '')} or {n.replace(',', '.')}",
        )
    return text


def read_number(text: str, what: str, example: str, *, minimum: float = 0.0, maximum: float = 1e9) -> float:
    """A number as a maker types it, with point or comma. Raises InputError."""
    raw = text.strip()
    plain = plain_number(raw, what).replace(",", ".") if len(raw) <= 40 else ""
    value = float(plain) if _NUMBER.fullmatch(plain) else math.nan
    if math.isnan(value):
        raise InputError(f"“{raw[:40]}” is not {what}", f"Write it as {example}")
    if not minimum <= value <= maximum:
        raise InputError(f"{what}: {raw[:40]} is out of bounds", f"Write it as {example}")
    return value


def read_whole(text: str, what: str, example: str, *, maximum: int = 100_000) -> int:
    """A whole number from 0, in plain digits. Raises InputError."""
    raw = text.strip()
    if not (raw.isascii() and raw.isdigit() and len(raw) <= 9 and int(raw) <= maximum):
        raise InputError(f"“{raw[:40]}” is not {what}", f"Write it as {example}")
    return int(raw)


def read_length(
    text: str, default: str | None = "mm", *, minimum: float = 0.0, maximum: float = LONGEST_MM
) -> float:
    """Length in mm from what a maker typed.

    default : unit of a number without one; None: there is none, and the person is asked. minimum, maximum : mm, both allowed.
    Raises InputError with a remedy when it cannot be read or is out of bounds.
    """
    raw = text.strip()
    for sign, plain in _VULGAR.items():
        raw = raw.replace(sign, " " + plain)
    if not raw:
        raise InputError("No length was given", HINT)
    if len(raw) > 200:
        raise InputError("This is too long to be a length", HINT)
    raw = plain_number(raw, "a length")
    terms: list[list[tuple[Fraction, str | None]]] = [[]]
    pos = 0
    pending: Fraction | None = None
    while pos < len(raw):
        m = _TOKEN.match(raw, pos)
        if not m:
            if not raw[pos:].strip():
                break
            raise InputError(f"“{raw}” is not a length: “{raw[pos:].strip()[:12]}” cannot be read", HINT)
        fraction, number, word, plus = m.groups()
        pos = m.end()
        if fraction:
            top, bottom = fraction.split("/")
            if int(bottom) == 0:
                raise InputError(f"“{raw}” divides by nothing", HINT)
            if pending is None and int(top) > int(bottom):
                raise _improper(raw, top, bottom)
            pending = (pending or Fraction(0)) + Fraction(int(top), int(bottom))
        elif number:
            if pending is not None:
                terms[-1].append((pending, None))
            pending = Fraction(number.replace(",", "."))
        elif word:
            unit = _ALIASES.get(word.lower(), word.lower())
            if unit not in UNITS:
                raise InputError(f"“{word}” is not a unit of length", f"Known are {', '.join(UNITS)}")
            if pending is None:
                raise InputError(f"“{raw}” has a unit without a number before it", HINT)
            terms[-1].append((pending, unit))
            pending = None
        elif plus:
            if pending is not None:
                terms[-1].append((pending, None))
                pending = None
            terms.append([])
    if pending is not None:
        terms[-1].append((pending, None))
    if any(not t for t in terms):
        raise InputError(f"“{raw}” ends or begins with a plus", HINT)
    total = _sum_terms(terms, raw, default)
    if not math.isfinite(total) or total < minimum or total > maximum:
        raise InputError(
            f"{raw} is {format_length(total)}, outside {format_length(minimum)} to {format_length(maximum)}",
            "Check the unit",
        )
    return total


def _improper(raw: str, top: str, bottom: str) -> InputError:
    """31/2: three and a half, or thirty-one halves? Both are lengths that are measured."""
    value = Fraction(int(top), int(bottom))
    whole = f"{top[:-1]} {top[-1]}/{bottom}" if len(top) > 1 and int(top[-1]) < int(bottom) else ""
    plain = f"{value.numerator // value.denominator} {value % 1}" if value % 1 else str(value)
    return InputError(
        f"“{raw}” can be read in two ways", f"Write {whole} or {plain}" if whole else f"Write {plain}"
    )


def _sum_terms(terms: list[list[tuple[Fraction, str | None]]], raw: str, default: str | None) -> float:
    # In a sum the unit of the last term holds for those that name none: "30 + 12.5 cm".
    named = [unit for term in terms for _, unit in term if unit]
    fallback = named[-1] if named and len(terms) > 1 else default
    total = Fraction(0)
    for term in terms:
        units = [unit for _, unit in term]
        for i, (value, unit) in enumerate(term):
            if unit is None:
                if i and units[i - 1] == "ft":  # "5 ft 3" means inches
                    unit = "in"
                elif len(term) > 1:
                    raise InputError(f"“{raw}” has two numbers side by side", HINT)
                elif fallback is None:
                    raise InputError(
                        f"{raw} of what?", f'Write the unit: "{raw} cm", "{raw} mm" or "{raw} in"'
                    )
                else:
                    unit = fallback
            total += value * Fraction(str(UNITS[unit]))
    return float(total)


def format_length(mm: float, system: str = "metric") -> str:
    """Length for people. metric: mm under 10 cm, cm under 1 m, then m; imperial: inches in eighths, feet from 3 ft."""
    if system == "imperial":
        return _imperial(mm)
    sign = "-" if mm < 0 else ""
    value = abs(mm)
    if value < 99.5:
        return f"{sign}{value:.0f} mm" if value >= 9.95 or value == round(value) else f"{sign}{value:.1f} mm"
    if value < 995:
        return f"{sign}{value / 10:.1f}".removesuffix(".0") + " cm"
    return f"{sign}{value / 1000:.2f} m"


def mm_words(mm: float) -> str:
    """A length that somebody wrote, said again as exactly as it was written."""
    return f"{mm:.10g} mm"


def typed_length(mm: float, system: str = "metric") -> str:
    """A length to be edited or read again: for people where that loses nothing, else as exactly as it was written."""
    words = format_length(mm, system)
    return words if abs(read_length(words, None) - mm) < 1e-6 else mm_words(mm)


def _imperial(mm: float) -> str:
    sign = "-" if mm < 0 else ""
    eighths = round(abs(mm) / 25.4 * 8)
    feet, rest = divmod(eighths, 96) if eighths >= 288 else (0, eighths)
    inches, eighth = divmod(rest, 8)
    parts = []
    if feet:
        parts.append(f"{feet} ft")
    if inches or (eighth == 0 and not feet):
        parts.append(f"{inches}")
    if eighth:
        f = Fraction(eighth, 8)
        parts.append(f"{f.numerator}/{f.denominator}")
    text = " ".join(parts)
    return sign + (text if feet and not (inches or eighth) else text + " in")
