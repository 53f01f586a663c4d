"""Hand formulas: their names, units, how they are written on paper, and their usual slips."""

from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import MeasurementError
from verdad_core.handcalc.formula import Number, evaluated
from verdad_core.handcalc.rendered import rendered
from verdad_core.handcalc.slips import slips
from verdad_core.measure.expressions import read_expression, with_names
from verdad_core.measure.units import unit_called

VALUES = {
    "R1": (10e3, "Ω"), "R2": (39e3, "Ω"), "C1": (100e-9, "F"), "+5V": (5.0, "V"), "temperature": (26.85, "°C"),
    "U1.gbw": (1e6, "?"),
}  # fmt: skip


def named(name: str) -> Number:
    if name not in VALUES:
        raise MeasurementError(f"there is no value called {name}")
    value, unit = VALUES[name]
    return Number(value, unit_called(unit))


@pytest.mark.parametrize(
    ("text", "unit", "expected"),
    [
        ("1/(2*pi*R1*C1)", "Hz", 159.15494309),
        ("1/(2·π·R1·C1)", "Hz", 159.15494309),
        ("1 + R2/R1", "V/V", 4.9),
        ("db(1 + R2/R1)", "dB", 13.803921601),
        ("R1||R2", "Ω", 7959.1836735),
        ("10k||R2", "Ω", 7959.1836735),
        ('"+5V"*R1/(R1 + R2)', "V", 1.0204081633),
        ("sqrt(4*k_B*kelvin(temperature)*R1)", "V/√Hz", 1.2871588e-8),
        ("90 - deg(atan(R1/R1))", "°", 45.0),
        ("R1/R2", "%", 25.641025641),
        # A plain number is in the measurement's unit; of what has no known unit, nothing is refused.
        ("159", "Hz", 159.0), ("2.5 %", "%", 2.5), ("2.5", "%", 2.5), ("U1.gbw/4.9", "Hz", 204081.63265),
    ],
)  # fmt: skip
def test_numbers(text: str, unit: str, expected: float) -> None:
    assert evaluated(read_expression(text), named, unit) == pytest.approx(expected, rel=1e-7)


@pytest.mark.parametrize(
    ("text", "unit", "column", "words"),
    [
        ("R2/R1", "Hz", 1, "plain number, the measurement in Hz"),
        ('"+5V"/2', "Hz", 1, "in V, the measurement in Hz"),
        ("1 + R2/R1", "dB", 1, "measurement in dB"),
        ("1/(2*pi*(R1 + C1))", "Hz", 10, "Ω and F cannot be added"),
        ("1/(2*pi*R9*C1)", "Hz", 9, "no value called R9"),
        ("2*v(out)", "V", 3, "simulated"),
        ("1/(R1 - R1)", "S", 1, "no value"),
        ("2 +* R1", "Ω", 4, "not expected"),
    ],
)
def test_what_is_refused_stands_at_its_letter(text: str, unit: str, column: int, words: str) -> None:
    with pytest.raises(MeasurementError, match=words) as refused:
        evaluated(read_expression(text), named, unit)
    assert refused.value.place.column == column


@pytest.mark.parametrize(
    ("text", "unit", "value", "simulated", "slip"),
    [
        ("1/(2*pi*R1*C1)", "Hz", 159.155, 1591.6, "if C1 were 10 nF"),
        ("1/(R1*C1)", "Hz", 1000.0, 159.2, "divided by 2π: an angular frequency taken for a frequency"),
        ("R1 + R2", "Ω", 49e3, 7959.0, "with R1 parallel to R2 instead of in series"),
        ("R1||R2", "Ω", 7959.0, 49.1e3, "with R1 in series with R2 instead of parallel"),
        ("1 + R2/R1", "V/V", 4.9, 3.9, "with one less: an inverting gain"),
        ("1 + R2/R1", "V/V", 4.9, 1.2564, "with R2 and R1 exchanged"),
        ('"+5V"', "V", 5.0, 3.5355, "divided by √2: peak taken for rms"),
        ('"+5V"', "V", 5.0, 2.5, "divided by two"),
        ("1/(2*pi*R1*C1)", "Hz", 159.155, 40.0, "with R2 in the place of R1"),
        ("db(R1/R2)", "dB", -11.82, -5.91, "with 10 log in the place of 20 log"),
    ],
)
def test_a_slip_is_found(text: str, unit: str, value: float, simulated: float, slip: str) -> None:
    assert slip in slips(read_expression(text), named, tuple(VALUES), unit, value, simulated)


@pytest.mark.parametrize("simulated", [159.2, 162.0, 233.0, float("nan"), 0.0])
def test_what_fits_or_is_no_slip_is_none(simulated: float) -> None:
    assert slips(read_expression("1/(2*pi*R1*C1)"), named, (), "Hz", 159.155, simulated) == ()


def test_a_formula_as_it_stands_on_paper() -> None:
    math = ElementTree.fromstring(rendered(read_expression('1/(2*pi*(R1 + sqrt(R2))*C1^2) - "a<b" - (U1.gbw - R1)')))
    assert "".join(math.itertext()) == "12·π·(R1+R2)·C12−a<b−(U1.gbw−R1)"
    assert [each.tag for each in math.iter() if each.tag in ("mfrac", "msqrt", "msup", "msub")].count("msub") == 4


@given(st.recursive(st.sampled_from(["R1", "2", '"+5V"', "pi"]), lambda inner: st.one_of(
    st.tuples(inner, st.sampled_from(["+", "-", "*", "/", "||", "^"]), inner).map(lambda t: f"({t[0]}{t[1]}{t[2]})"),
    inner.map(lambda t: f"sqrt({t})"), inner.map(lambda t: f"(-{t})")), max_leaves=8))  # fmt: skip
def test_every_formula_is_well_formed_on_paper(text: str) -> None:
    ElementTree.fromstring(rendered(read_expression(text[:300])) if len(text) <= 300 else "<math/>")


def test_names_are_replaced_where_they_stand() -> None:
    new = {"R1": "R10", "+5V": "+6V", "C1": "in put"}
    assert with_names('R1/(R11*R1) + "+5V" + v(R1) + C1', lambda name: new.get(name, name)) == (
        'R10/(R11*R10) + "+6V" + v(R1) + "in put"'
    )
