"""How the trade speaks of each device family: in netlists, on the sheet and on the shelf. One row a family."""

from __future__ import annotations

from verdad_core.devices.trade.bipolar import BIPOLAR
from verdad_core.devices.trade.diode import DIODE
from verdad_core.devices.trade.entry import Placed, Region, Setting, Trade, Word
from verdad_core.devices.trade.field_effect import JFET, MOSFET, POWER_MOSFET
from verdad_core.devices.trade.line import LINE
from verdad_core.devices.trade.passive import CAPACITOR, COUPLING, INDUCTOR, RESISTOR
from verdad_core.devices.trade.switch import SMOOTH_SWITCH, SWITCH

#: By family, in the order in which they are offered. Families that only netlists know, such as sources, have none.
TRADE: dict[str, Trade] = {
    row.family: row
    for row in (
        RESISTOR, CAPACITOR, INDUCTOR, COUPLING, DIODE, BIPOLAR, JFET, MOSFET, POWER_MOSFET, SWITCH, SMOOTH_SWITCH,
        LINE,
    )
}  # fmt: skip

__all__ = ["TRADE", "Placed", "Region", "Setting", "Trade", "Word"]
