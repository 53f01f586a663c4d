import pytest

from verdad_core.errors import MeasurementError
from verdad_core.handcalc.forms import CLOSED_FORMS
from verdad_core.handcalc.formula import Number, evaluated
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.units import VOLTS, Unit, unit_called


def _worked(key: str, **values: float) -> float:
    form = CLOSED_FORMS[key]

    def named(name: str) -> Number:
        unit = form.symbols[name][0]
        return Number(values[name], VOLTS / Unit(seconds=1) if unit == "V/s" else unit_called(unit))

    return evaluated(read_expression(form.formula), named, form.unit)


@pytest.mark.parametrize(
    # Facts of the trade (159 Hz of 1 kΩ and 1 µF, 4.07 nV/√Hz of 1 kΩ at 300 K, 64 µV of 1 pF at 300 K, 0.35 over the
    # bandwidth, 16 % overshoot at ζ = 0.5): common practice, no source. The loaded forms: from their Thévenin source.
    ("key", "values", "expected", "close"),
    [
        ("rc_cutoff", {"R": 1e3, "C": 1e-6}, 159.15494309, 1e-9),
        ("rc_cutoff", {"R": 1e3, "C": 10e-9}, 15915.494309, 1e-9),
        ("divider", {"V": 5.1, "R1": 10.2e3, "R2": 18.7e3}, 3.3, 1e-9),
        ("noninverting_gain", {"Rf": 39e3, "Rg": 1e3}, 40.0, 1e-9),
        ("source_rc_cutoff", {"R": 1e3, "Rs": 2e3, "Rp": 2e3, "C": 1e-6}, 79.577471546, 1e-9),
        ("loaded_noninverting_gain", {"Rf": 9e3, "Rg": 1e3, "Rs": 1e3, "Rp": 1e3}, 5.0, 1e-9),
        ("thermal_noise", {"temperature": 26.85, "R": 1e3}, 4.07e-9, 1e-3),
        ("noise_of_capacitor", {"temperature": 26.85, "C": 1e-12}, 64.4e-6, 1e-3),
        ("rise_of_bandwidth", {"f": 1e6}, 0.35e-6, 2e-3),
        ("overshoot", {"z": 0.5}, 16.3, 2e-3),
        ("two_pole_margin", {"fc": 1e6, "fp": 1e6}, 45.0, 1e-9),
        ("ripple", {"I": 0.1, "f": 100.0, "C": 1e-3}, 1.0, 1e-9),
        ("settling", {"R": 1e3, "C": 1e-9, "band": 0.1}, 6.908e-6, 1e-3),
        ("full_power_bandwidth", {"SR": 1e6, "Vp": 1.0}, 159.15e3, 1e-3),
    ],
)
def test_values(key: str, values: dict[str, float], expected: float, close: float) -> None:
    assert _worked(key, **values) == pytest.approx(expected, rel=close)


@pytest.mark.parametrize("key", CLOSED_FORMS)
def test_every_form_says_what_it_needs_and_has_the_unit_that_it_says(key: str) -> None:
    form = CLOSED_FORMS[key]
    assert form.key == key
    assert form.source
    assert form.holds.endswith(".")
    assert {probe.name for probe in read_expression(form.formula).probes} == set(form.symbols)
    assert _worked(key, **dict.fromkeys(form.symbols, 0.5)) > 0
    named = form.written({symbol: f"a{k}.b" for k, symbol in enumerate(form.symbols)})
    assert {probe.name for probe in read_expression(named).probes} == {f"a{k}.b" for k in range(len(form.symbols))}


def test_a_zero_has_no_value() -> None:
    with pytest.raises(MeasurementError, match="no value for these parts"):
        _worked("rc_cutoff", R=0.0, C=0.0)
