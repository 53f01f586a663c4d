"""The benches of diodes, transistors, references, comparators and others against published equations."""

from __future__ import annotations

import math

import pytest

from tests.core.qualification.subjects import from_catalogue, model, on_the_bench, value
from verdad.catalogue import discretes, others
from verdad.catalogue.recipes.numbers import THERMAL
from verdad.catalogue.recipes.semiconductors import GRADING, VJ, zero_bias
from verdad_core.qualification.bench import measure
from verdad_core.qualification.figures import Standing


class TestDiode:
    def test_forward_voltage_is_shockleys_with_its_resistance(self) -> None:
        """V = N VT ln(I / IS + 1) + I RS (Shockley 1949), which the recipe solves for IS."""
        assert value(on_the_bench("brs41"), "forward_voltage") == pytest.approx(discretes.BRS41.volts, rel=2e-3)

    def test_capacitance_follows_the_junctions_equation(self) -> None:
        """C(V) = C(0) (1 + V/VJ)^-M (SPICE 2G6 user's manual); GMIN and the leads' resistance are below 1e-4."""
        measured = on_the_bench("brs41")
        assert value(measured, "zero_bias_capacitance") == pytest.approx(2e-12, rel=1e-3)
        assert value(measured, "reverse_capacitance") == pytest.approx(2e-12 * (1 + 10 / VJ) ** -GRADING, rel=1e-3)

    def test_breakdown_is_where_the_model_says(self) -> None:
        """The breakdown current of the card flows at BV, and drops some more at RS."""
        diode = discretes.BRS51
        measured = measure(from_catalogue("brs51"), "clamp", {"breakdown": diode.breakdown_current})
        assert value(measured, "breakdown_voltage") == pytest.approx(
            diode.breakdown + diode.breakdown_current * diode.resistance, abs=1e-3
        )
        figure = measured.figure("reverse_current")
        assert figure is not None
        assert "below the breakdown" in figure.remark

    def test_recovery_takes_the_transit_time_and_the_capacitance(self) -> None:
        """TT ln 2 from equal currents (the recipe's), and then the junction's capacitance through 1 kΩ."""
        shortest = discretes.BRS41.recovery
        assert shortest < value(on_the_bench("brs41"), "recovery_time") < 2 * shortest

    def test_an_ideal_diode_has_no_capacitance_no_breakdown_no_recovery(self) -> None:
        measured = measure(model(".model d1 d(is=1e-14)\n", "d1", "anode", "cathode"), "diode")
        for key in ("zero_bias_capacitance", "breakdown_voltage", "recovery_time"):
            figure = measured.figure(key)
            assert figure is not None
            assert figure.standing is Standing.ABSENT


class TestTransistors:
    @pytest.mark.parametrize("slug", ["brs390n", "brs390p"])
    def test_bipolar_figures_are_those_of_the_recipe(self, slug: str) -> None:
        """Gain at 2 mA, 5 V with the Early voltage and the knee current (Gummel and Poon 1970): 1 - IC / IKF of it is
        left. Transition frequency by Gray and Meyer: 5 % for the extrapolation from a gain of 10.
        """
        transistor = getattr(discretes, slug.upper())
        measured = on_the_bench(slug)
        assert value(measured, "current_gain") == pytest.approx(transistor.gain * (1 - 2e-3 / 0.3), rel=0.02)
        assert value(measured, "base_voltage") == pytest.approx(transistor.base_volts, abs=5e-3)
        assert value(measured, "transition_frequency") == pytest.approx(transistor.transition, rel=0.05)
        assert value(measured, "collector_capacitance") == pytest.approx(transistor.collector_capacitance, rel=1e-3)

    def test_jfet_figures_are_those_of_shichman_and_hodges(self) -> None:
        """IDSS = BETA VTO² (1 + LAMBDA VDS), gm = -2 IDSS / VTO (1968)."""
        jfet = discretes.BRS60J
        measured = on_the_bench("brs60j")
        current = jfet.saturation * (1 + 5e-3 * 10)
        assert value(measured, "saturation_current") == pytest.approx(current, rel=1e-3)
        assert value(measured, "transconductance") == pytest.approx(-2 * current / jfet.cutoff, rel=1e-3)
        assert value(measured, "cutoff_voltage") == pytest.approx(jfet.cutoff, abs=0.02)

    @pytest.mark.parametrize("slug", ["tvp40", "tvp30"])
    def test_mosfet_figures_are_those_of_the_recipe(self, slug: str) -> None:
        """Threshold: VTO + sqrt(2 I / β). Gate charge: CGS V + CGD (V + VDS), since the gate-drain capacitor turns
        around by the drain's voltage too; while the drain falls from 90 % to 10 % it takes CGD 0.8 VDS, and what the
        gate itself moves meanwhile.
        """
        mosfet = getattr(discretes, slug.upper())
        measured = on_the_bench(slug)
        beta, _ = mosfet.channel()
        assert value(measured, "threshold_voltage") == pytest.approx(
            mosfet.threshold + math.sqrt(500e-6 / beta), rel=1e-2
        )
        assert value(measured, "on_resistance") == pytest.approx(mosfet.on_resistance, rel=0.02)
        assert value(measured, "input_capacitance") == pytest.approx(mosfet.gate_source + mosfet.gate_drain, rel=1e-3)
        assert value(measured, "reverse_capacitance") == pytest.approx(mosfet.gate_drain, rel=1e-3)
        assert value(measured, "output_capacitance") == pytest.approx(
            mosfet.gate_drain + zero_bias(mosfet.drain_source, 25) * (1 + 25 / VJ) ** -GRADING, rel=1e-3
        )
        charge = mosfet.gate_source * 10 + mosfet.gate_drain * (10 + 25)
        assert value(measured, "gate_charge") == pytest.approx(charge, rel=0.01)
        plateau = 0.8 * 25 * mosfet.gate_drain
        assert plateau < value(measured, "gate_drain_charge") < 1.25 * plateau

    def test_a_mosfet_by_itself_has_its_bulk_at_the_source(self) -> None:
        text = ".model m1 nmos(level=1 vto=1.5 kp=2 rd=10m)\n"
        measured = measure(model(text, "m1", "drain", "gate", "source"), "mosfet")
        # KP W/L with W = L: 1 / (β (VGS - VTO)) + RD at small drain voltages.
        assert value(measured, "on_resistance") == pytest.approx(1 / (2 * 8.5) + 10e-3, rel=0.01)


class TestOthers:
    def test_a_reference_and_a_regulator(self) -> None:
        reference, regulator = on_the_bench("qmd2500"), on_the_bench("tvp3300")
        assert value(reference, "output_voltage") == pytest.approx(2.5 - 1e-3 * others.QMD2500.resistance, abs=1e-4)
        assert value(reference, "temperature_coefficient") == pytest.approx(12, rel=0.01)
        assert value(reference, "line_regulation") == pytest.approx(others.QMD2500.line, rel=0.01)
        assert value(reference, "load_regulation") == pytest.approx(others.QMD2500.resistance, rel=0.01)
        assert value(reference, "ground_current") == pytest.approx(others.QMD2500.supply, rel=0.05)
        # Of a slow input change 1 / line is left; the target's 10 kΩ has sqrt(4kTR) (Johnson and Nyquist 1928).
        assert value(reference, "ripple_rejection") == pytest.approx(-20 * math.log10(others.QMD2500.line), abs=0.1)
        assert value(reference, "noise_density") == pytest.approx(math.sqrt(4 * 1.380649e-23 * 300.15 * 10e3), rel=0.01)
        # A sweep in steps of 0.125 V, at a load of 100 mA.
        assert value(regulator, "dropout_voltage") == pytest.approx(others.TVP3300.dropout, abs=0.13)

    @pytest.mark.parametrize("slug", ["qmd0233", "qmd0480"])
    def test_comparators(self, slug: str) -> None:
        comparator = getattr(others, slug.upper())
        measured = on_the_bench(slug)
        assert value(measured, "threshold") == pytest.approx(comparator.offset, abs=1e-4)
        assert value(measured, "hysteresis") == pytest.approx(comparator.hysteresis, abs=1e-4)
        assert value(measured, "supply_current") == pytest.approx(comparator.supply, rel=0.05)
        assert value(measured, "delay_rising") == pytest.approx(comparator.delay, rel=0.15)

    def test_a_switch_and_a_transformer(self) -> None:
        switch, transformer = on_the_bench("tvpsw4"), on_the_bench("tvpt13")
        assert value(switch, "on_resistance") == pytest.approx(4.0, rel=1e-3)
        assert value(switch, "off_current") == pytest.approx(0.5e-9, rel=1e-2)
        assert value(transformer, "primary_inductance") == pytest.approx(600e-6, rel=1e-3)
        assert value(transformer, "turns_ratio") == pytest.approx(1.5, rel=1e-3)
        assert value(transformer, "coupling") == pytest.approx(0.995, rel=1e-3)
        # With the secondary shorted (1 - k²) of the primary's inductance is left; its resistance adds 0.2 %.
        assert value(transformer, "leakage_inductance") == pytest.approx(600e-6 * (1 - 0.995**2), rel=0.02)
        assert value(transformer, "primary_resistance") == pytest.approx(0.35, rel=1e-2)

    def test_a_model_with_which_nothing_can_be_computed_says_so(self) -> None:
        text = ".subckt t a b c d\nr1 a b 1k\nr2 c d 1k\n.ends\n"
        roles = ("primary+", "primary-", "secondary+", "secondary-")
        measured = measure(model(text, "t", *roles), "transformer")
        assert measured.figure("turns_ratio").value is None  # type: ignore[union-attr]
        assert "nothing can be computed" in measured.findings[0].message

    def test_a_model_that_does_not_converge_ends_with_what_was_learnt(self) -> None:
        text = ".subckt ref in out gnd\nrin in gnd 1k\ne1 out gnd value={if(v(out,gnd)>1,0,2)}\n.ends\n"
        measured = measure(model(text, "ref", "in", "out", "ground"), "reference")
        assert all(figure.value is None for figure in measured.figures)
        assert measured.findings
        assert all(finding.remedy for finding in measured.findings)


def test_thermal_voltage_of_the_recipes() -> None:
    assert pytest.approx(25.865e-3, rel=1e-4) == THERMAL
