import pytest
from pydantic import ValidationError

from verdad_core.devices import FAMILY_OF
from verdad_core.intake.generic import GENERIC_PARTS
from verdad_core.intake.symbols import Symbol, default_symbol
from verdad_core.netlist.flatten import blocks


def test_every_built_in_block_is_there_with_its_defaults_and_what_it_is() -> None:
    parts = GENERIC_PARTS
    assert {name.replace("_", "-") for name in blocks().subcircuits} <= set(parts)
    opamp = parts["opamp"]
    assert opamp.symbol.shape == "amplifier"
    assert {setting.name: setting.default for setting in opamp.settings}["slew"] == "1e+06"
    assert "tail" not in {setting.name for setting in opamp.settings}
    assert opamp.meaning.startswith("Operational amplifier from data-sheet figures")
    assert all(
        part.meaning for key, part in parts.items() if key in {n.replace("_", "-") for n in blocks().subcircuits}
    )


def test_devices_have_the_parameters_of_their_families() -> None:
    parts = GENERIC_PARTS
    resistor = {setting.name: setting for setting in parts["resistor"].settings}
    assert resistor["resistance"].unit == "Ω"
    assert set(resistor) == {parameter.name for parameter in FAMILY_OF["resistor"].parameters}
    assert [setting.name for setting in parts["line"].settings] == ["z0", "td"]


def test_a_kind_has_its_shape_and_the_unknown_a_box() -> None:
    amplifier = default_symbol("op-amp", ["in+", "in-", "v+", "v-", "out"], ["in+", "out"])
    assert (amplifier.shape, {pin.role: pin.side for pin in amplifier.pins}["v-"]) == ("amplifier", "bottom")
    assert default_symbol("op-amp", ["in+", "in-"], ["in+", "out"]).shape == "box"
    box = default_symbol("other", ["a1", "b1", "c1"])
    assert [pin.side for pin in box.pins] == ["left", "left", "right"]
    with pytest.raises(ValidationError, match="shows a pin twice"):
        Symbol(shape="box", pins=(box.pins[0], box.pins[0]))
