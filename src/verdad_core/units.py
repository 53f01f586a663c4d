"""Engineering notation, both ways, in one place.

Two dialects are read. `parse_value` reads what a designer types: prefixes are case-sensitive (`m` is milli,
`M` is mega), the prefix may stand for the decimal point (`4k7`, the letter code of IEC 60062), a unit may follow.
`parse_netlist_number` reads numbers as in the published SPICE 2G6/3F5 user's manuals: case does not matter
(`M` is milli, `MEG` is mega) and letters after the scale factor are ignored; a number has an exponent or a scale
factor, so what follows an exponent is a unit. Makers' files also write `10µ` and `4k7`.
"""

from __future__ import annotations

import math
import re

from verdad_core.errors import ValueTextError

#: SI prefixes by power of ten (BIPM, SI Brochure, 9th edition, 2019, table 7).
PREFIXES = {-15: "f", -12: "p", -9: "n", -6: "µ", -3: "m", 0: "", 3: "k", 6: "M", 9: "G", 12: "T"}

_POWER_OF = {prefix: power for power, prefix in PREFIXES.items() if prefix}
_POWER_OF |= {"u": -6, "μ": -6, "K": 3, "meg": 6, "Meg": 6, "MEG": 6, "R": 0}

_UNITS = ("Ohm", "ohm", "OHM", "Ω", "Ω", "Hz", "F", "H", "V", "A", "W", "s", "S", "%", "°C", "°")

_TYPED = re.compile(
    r"\A(?P<number>[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,3})?)\s*"
    r"(?:(?P<prefix>[mM]eg|MEG|[fpnuµμmkKMGTR])(?P<decimals>\d+)?)?\s*"
    rf"(?P<unit>{'|'.join(_UNITS)})?",
)
#: The letter code of IEC 60062 with a unit for the point, 3V3, and with nothing before it, R47.
_LETTER_CODE = re.compile(r"\A(?P<sign>[+-]?)(?P<whole>\d*)(?P<unit>[RVA])(?P<decimals>\d+)")

_DECIMAL_COMMA = re.compile(r"\d,\d")
_NETLIST = re.compile(
    r"\A(?P<digits>[+-]?(?:\d+\.?\d*|\.\d+))"
    r"(?:[ed](?P<exponent>[+-]?\d{1,3})(?P<unit>(?:f|h|hz|v|a|s|sec|w|ohms?|ω|deg|c|%|°|°c)?)"
    r"|(?P<scale>meg|mil|[tgkmuµμnpfr])(?P<decimals>\d+)(?P<after>ω|ohms?|[fhvasw]|hz)?"
    r"|(?P<power>meg|mil|[tgkmuµμnpf])?[a-z%°ω]*)"
)
_NETLIST_POWER = {"t": 12, "g": 9, "meg": 6, "k": 3, "m": -3, "u": -6, "µ": -6, "μ": -6, "n": -9, "p": -12, "f": -15}
_MIL = 25.4e-6


#: The unit of a temperature coefficient; "100ppm" in it is 1e-4.
PER_DEGREE = "1/°C"


def parse_value(text: str, unit: str = "") -> float:
    """The quantity in `text`, in SI base units.

    `unit` is the unit that is expected; another one written in the text is refused.
    Raises ValueTextError with the reason and what to write instead.
    """
    stripped = text.strip().replace("\u2212", "-")
    if not stripped:
        raise ValueTextError("the value is empty", remedy="Write a number such as 4k7, 100n or 1meg.")
    if code := _LETTER_CODE.fullmatch(stripped):
        letter = {"R": "Ω"}.get(code["unit"], code["unit"])
        if unit and letter != unit and code["unit"] != "R":
            raise ValueTextError(f"'{stripped}' is in {letter}, but {unit} is expected here")
        return float(f"{code['sign']}{code['whole'] or 0}.{code['decimals']}")
    if unit.startswith(PER_DEGREE):
        return _per_degree(stripped, unit)
    if stripped.endswith("ppm") and not unit:
        # Not ten picometres.
        return parse_value(stripped.removesuffix("ppm"))
    if unit == "H":
        # A small h is no prefix, and nothing else here.
        stripped = re.sub(r"h$", "H", stripped)
    match = _TYPED.match(stripped)
    if match is None:
        hint = "Write a point, not a comma." if re.match(r"\d+,\d", stripped) else "Write it like 4k7, 100n or 1meg."
        raise ValueTextError(f"'{stripped}' does not start with a number", remedy=hint)
    rest = stripped[match.end() :]
    number, prefix, decimals, written = match.group("number", "prefix", "decimals", "unit")
    if rest:
        raise ValueTextError(_why_not(stripped, rest, prefix), remedy=_remedy(number, prefix))
    if decimals and ("." in number or "e" in number.lower()):
        raise ValueTextError(f"'{stripped}' has two decimal points", remedy=_remedy(number, prefix))
    if written and unit and _canonical(written) != unit:
        raise ValueTextError(f"'{stripped}' is in {_canonical(written)}, but {unit} is expected here")
    digits = f"{number}.{decimals}" if decimals else number
    # One conversion of the whole decimal text keeps the nearest double: float("4.7") * 1e3 would round twice.
    value = float(digits if "e" in digits.lower() else f"{digits}e{_POWER_OF.get(prefix, 0)}")
    if "e" in digits.lower():
        value *= 10.0 ** _POWER_OF.get(prefix, 0)
    if not math.isfinite(value):
        raise ValueTextError(f"'{stripped}' is too large", remedy="Check the exponent.")
    return value


def _per_degree(text: str, unit: str) -> float:
    """A temperature coefficient: "100ppm", "50 ppm/°C", "0.01", "0.01/°C"."""
    bare = text
    for degree in ("°C²", "°C2", "°C", "K²", "K2", "K"):
        if text.endswith(degree) and text.removesuffix(degree).rstrip().endswith("/"):
            bare = text.removesuffix(degree).rstrip().removesuffix("/").rstrip()
            break
    number = bare.removesuffix("ppm").rstrip()
    if (match := _TYPED.match(number)) and match["unit"]:
        raise ValueTextError(f"'{text}' is in {_canonical(match['unit'])}, but {unit} is expected here")
    # Divided, not multiplied by what is no power of two: the nearest double.
    return parse_value(number) / 1e6 if number != bare else parse_value(number)


def _why_not(text: str, rest: str, prefix: str | None) -> str:
    if prefix and rest[:1] in _POWER_OF:
        return f"'{text}' has two prefixes, '{prefix}' and '{rest[0]}'"
    if rest.startswith(","):
        return f"'{text}' has a comma"
    return f"'{text}': '{rest}' is neither a prefix nor a unit"


def _remedy(number: str, prefix: str | None) -> str:
    return f"Write one number, one prefix and at most one unit, such as {number}{prefix or 'k'}."


def _canonical(unit: str) -> str:
    return "Ω" if unit.lower() == "ohm" or unit == "Ω" else unit


def parse_netlist_number(text: str) -> float:
    """The number in a netlist token such as `10kOhm`, `5uF`, `1MEG` or `1mil`. Raises ValueTextError."""
    match = _NETLIST.fullmatch(text.strip().lower())
    if match is None:
        raise ValueTextError(f"'{text}' is not a number", remedy="Write a number such as 10k, 5u or 1meg.")
    digits, exponent, decimals = match["digits"], match["exponent"], match["decimals"]
    scale = match["scale"] or match["power"]
    if decimals:
        if "." in digits:
            raise ValueTextError(f"'{text}' has two decimal points", remedy="Write a number such as 4k7.")
        digits = f"{digits}.{decimals}"
    # One conversion of the whole decimal text keeps the nearest double.
    power = int(exponent) if exponent else _NETLIST_POWER.get(scale, 0)
    value = float(f"{digits}e{power}") * (_MIL if scale == "mil" else 1.0)
    if not math.isfinite(value):
        raise ValueTextError(f"'{text}' is too large", remedy="Check the exponent.")
    return value


def has_decimal_comma(text: str) -> bool:
    """Whether a comma stands between two digits: files of other countries have numbers so."""
    return _DECIMAL_COMMA.search(text) is not None


def format_value(value: float, unit: str = "", digits: int = 4) -> str:
    """`value` in engineering notation with `digits` significant digits: 4700 -> '4.7 k', 0.00015915 V -> '159.2 µV'.

    The result (without a unit that `parse_value` does not know) parses back to the value rounded to `digits`.
    """
    if not math.isfinite(value):
        return "no value"
    if value == 0:
        return f"0 {unit}".rstrip()
    rounded = float(f"{value:.{digits - 1}e}")
    power = min(max(3 * math.floor(math.floor(math.log10(abs(rounded)) + 1e-12) / 3), min(PREFIXES)), max(PREFIXES))
    mantissa = f"{rounded / 10.0**power:.{digits}g}"
    return f"{mantissa} {PREFIXES[power]}{unit}".rstrip()


def format_span(start: float, stop: float, unit: str = "", digits: int = 3) -> str:
    """A range: "1 Hz to 100 kHz"."""
    return f"{format_value(start, unit, digits)} to {format_value(stop, unit, digits)}"


def plain_value(value: float) -> str:
    """`value` as one would type it, such as "4.7k"; `parse_value` gives exactly the same number back."""
    short = format_value(value, digits=12).replace(" ", "")
    return short if math.isfinite(value) and parse_value(short) == value else f"{value!r}"
