"""Models as parts have them: placed on a board's nets."""

from __future__ import annotations

import pytest

from verdad_core.analyses.operating_point import operating_point
from verdad_core.devices import Element
from verdad_core.engine.structure import compile_structure
from verdad_core.intake.bundle import bundle
from verdad_core.intake.kinds import KINDS, OF_FAMILY
from verdad_core.intake.model import Model
from verdad_core.netlist.models import TYPES

#: The roles of a device's pins, by the type of its `.model`; a switch's are not known.
ROLES = {name: KINDS[OF_FAMILY[each.family][0]].roles for name, each in TYPES.items() if each.family in OF_FAMILY}


@pytest.mark.parametrize("kind", sorted(kind for kind, roles in ROLES.items() if roles))
def test_a_model_of_every_type_stands_on_its_nets(kind: str) -> None:
    """With every pin on a resistor to a volt, there is an operating point."""
    files, _ = bundle([("m.lib", f".model m {kind}\n".encode())])
    roles = ROLES[kind]
    model = Model(files, "m.lib", "m", roles)
    placed = model.elements("Q1", {role: f"net{k}" for k, role in enumerate(roles)})
    assert [element.name for element in placed] == ["Q1"]
    around = [Element(f"r{k}", "resistor", (f"net{k}", "up"), {"resistance": 1e3}) for k in range(len(roles))]
    up = Element("v1", "voltage source", ("up", "0"), {"dc": 1.0})
    ground = Element("r", "resistor", ("net1", "0"), {"resistance": 1e3})
    operating_point(compile_structure([*placed, *around, up, ground])).require()
