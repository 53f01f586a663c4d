import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad.catalogue.listings import listings
from verdad_core.checks.kinds import KINDS
from verdad_core.checks.kinds.frequency_response import FrequencyResponse
from verdad_core.checks.kinds.noise import NoiseCheck
from verdad_core.errors import BoardError, Severity, ValueTextError
from verdad_core.qualification.bench import BENCHES, figure_types
from verdad_core.qualification.conditions import CONDITIONS, conditions_for
from verdad_core.qualification.datasheet import DataSheetLine, find_figure, in_unit, read_csv
from verdad_core.qualification.figures import Figure, Standing
from verdad_core.qualification.judgement import Agreement, Badge, judge, judge_all, summary
from verdad_core.qualification.reliance import warnings

OP_AMP = figure_types("op-amp")


@pytest.mark.parametrize(
    ("value", "unit", "figure", "expected"),
    [
        (4, "V/µs", "slew_rate_rising", 4e6),
        (4, "V/us", "slew_rate_rising", 4e6),
        (200, "V/mV", "open_loop_gain", 20 * math.log10(2e5)),
        (106, "dB", "open_loop_gain", 106),
        (8, "MHz", "gain_bandwidth", 8e6),
        (18, "nV/√Hz", "voltage_noise", 18e-9),
        (18, "nV/rtHz", "voltage_noise", 18e-9),
        (0.2, "pA/√Hz", "current_noise", 0.2e-12),
        (2, "µV/°C", "offset_drift", 2e-6),
        (80, "nA", "bias_current", 80e-9),
        (65, "deg", "phase_margin_follower", 65),
        (75, "Ohm", "output_resistance", 75),
        (1.5, "kΩ", "output_resistance", 1500),
        (5, "%", "overshoot", 5),
    ],
)
def test_units_of_data_sheets(value: float, unit: str, figure: str, expected: float) -> None:
    assert in_unit(value, unit, OP_AMP[figure]) == pytest.approx(expected)


@pytest.mark.parametrize(("unit", "figure"), [("V", "bias_current"), ("Hz", "offset_voltage"), ("", "gain_bandwidth")])
def test_a_unit_that_does_not_fit_is_refused(unit: str, figure: str) -> None:
    with pytest.raises(ValueTextError, match="does not fit"):
        in_unit(1.0, unit, OP_AMP[figure])


@given(st.sampled_from(sorted(OP_AMP)), st.text(alphabet="nµukMGVAHzsΩ/√°C%dB ", max_size=8))
def test_any_unit_is_converted_or_refused(figure: str, unit: str) -> None:
    try:
        assert math.isfinite(in_unit(2.0, unit, OP_AMP[figure]))
    except ValueTextError as error:
        assert error.remedy


def test_a_table_is_read_by_its_heading_in_any_order_and_separator() -> None:
    text = "Symbol;Unit;Typ.;Max\nSR;V/µs;4;\nVos;mV;±1;3\nGBW;MHz;8\n\nIq;;;\n"
    sheet = read_csv(text, OP_AMP)
    assert [(line.figure, line.typical, line.most) for line in sheet.lines] == [
        ("slew_rate_rising", 4e6, None),
        ("offset_voltage", 1e-3, 3e-3),
        ("gain_bandwidth", 8e6, None),
    ]
    assert [(finding.place.line, finding.severity) for finding in sheet.findings] == [(6, Severity.WARNING)]


def test_a_table_without_heading_is_refused() -> None:
    sheet = read_csv("slew rate,4,V/us", OP_AMP)
    assert not sheet.lines
    assert sheet.findings[0].severity is Severity.ERROR


@given(st.text(max_size=300))
def test_any_table_is_read_or_refused(text: str) -> None:
    sheet = read_csv("Figure,Typ,Unit\n" + text, OP_AMP)
    assert all(line.figure in OP_AMP for line in sheet.lines)


def test_every_figure_is_found_by_its_own_names_and_no_name_is_used_twice() -> None:
    for kind in BENCHES:
        figures = figure_types(kind)
        for figure in figures.values():
            for name in (figure.key, figure.title, *figure.names):
                found = find_figure(name, figures)
                assert found is figure, (kind, name)


@pytest.mark.parametrize(
    ("line", "value", "agreement"),
    [
        ({"typical": 1e6}, 1.2e6, Agreement.AGREES),
        ({"typical": 1e6}, 1.3e6, Agreement.OFF),
        ({"least": 1e6}, 0.99e6, Agreement.OFF),
        ({"least": 1e6, "most": 2e6, "typical": 1e6}, 1.9e6, Agreement.AGREES),
        ({"most": 2e6}, 2e6, Agreement.AGREES),
        ({"most": 2e6}, 2.1e6, Agreement.OFF),
    ],
)
def test_a_line_is_judged(line: dict[str, float], value: float, agreement: Agreement) -> None:
    sheet = DataSheetLine(figure="gain_bandwidth", **line)
    assert judge(sheet, Figure("gain_bandwidth", value), OP_AMP["gain_bandwidth"]).agreement is agreement


def test_decibels_are_compared_by_difference_and_signs_not_at_all_where_they_mean_nothing() -> None:
    gain = judge(
        DataSheetLine(figure="open_loop_gain", typical=120), Figure("open_loop_gain", 118), OP_AMP["open_loop_gain"]
    )
    assert (gain.agreement, gain.deviation) == (Agreement.AGREES, -2)
    bias = judge(DataSheetLine(figure="bias_current", most=1e-7), Figure("bias_current", -5e-8), OP_AMP["bias_current"])
    assert bias.agreement is Agreement.AGREES


def test_what_is_absent_does_not_pass_for_good() -> None:
    absent = Figure("voltage_noise", None, Standing.ABSENT, "noise is not modelled")
    lines = [DataSheetLine(figure="voltage_noise", typical=9e-9), DataSheetLine(figure="gain_bandwidth", typical=1e6)]
    judged = judge_all(lines, [absent, Figure("gain_bandwidth", 1e6)], OP_AMP)
    assert [item.agreement for item in judged] == [Agreement.ABSENT, Agreement.AGREES]
    assert summary(judged).text == "qualified (1 of 2)"
    assert [finding.message for finding in warnings(NoiseCheck.relies_on, "U1", [absent], judged, OP_AMP)] == [
        "U1: voltage noise density is not modelled: noise is not modelled"
    ]
    assert not warnings(FrequencyResponse.relies_on, "U1", [absent], judged, OP_AMP)


def test_badges() -> None:
    assert summary(None).badge is Badge.NOT_QUALIFIED
    off = judge_all([DataSheetLine(figure="gain_bandwidth", typical=1e6)], [Figure("gain_bandwidth", 9e6)], OP_AMP)
    assert summary(off).text == "contradicts its data sheet (0 of 1)"
    assert [finding.place.part for finding in warnings(FrequencyResponse.relies_on, "U7", [], off, OP_AMP)] == ["U7"]


def test_conditions_have_defaults_and_bounds() -> None:
    assert conditions_for("op-amp", {"high": 15.0})["high"] == 15.0
    wrong = {"between": {"high": 1e4}, "no condition": {"wind": 1.0}, "above the negative": {"high": -6.0},
             "above the lowest": {"cold": 100.0}}  # fmt: skip
    for why, given_ in wrong.items():
        with pytest.raises(BoardError, match=why):
            conditions_for("op-amp", given_)
    assert set(CONDITIONS) >= set(BENCHES)


def test_what_checks_rely_on_is_measured_by_some_bench() -> None:
    known = {key for kind in BENCHES for key in figure_types(kind)}
    assert set().union(*(kind.relies_on for kind in KINDS)) <= known


def test_the_catalogues_data_sheets_are_understood() -> None:
    for listing in listings().values():
        sheet = read_csv(listing.data_sheet, figure_types(listing.kind))
        assert not sheet.findings, listing.part
        assert len(sheet.lines) == len(listing.lines), listing.part
