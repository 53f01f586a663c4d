"""The cards of a check for which nobody has chosen any."""

from __future__ import annotations

import re

from verdad_core.document.analyses import DcSweep, FrequencySweep, OperatingPoint
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CardCurve, CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Source
from verdad_core.document.measurements import RESPONSE
from verdad_core.document.parts import nets_of

#: Nets that nobody has named.
_UNNAMED = re.compile(r"n\d+")


def cards_of(circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
    """The check's own cards, or the usual ones of its analysis."""
    return _usual(circuit, check) if check.cards is None else check.cards


def _usual(circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
    match check.analysis:
        case OperatingPoint():
            return ()
        case FrequencySweep():
            expressions = [f"db({RESPONSE})", f"phase({RESPONSE})"]
        case DcSweep():
            expressions = [f"v({net})" for net in _outputs(circuit, check)]
        case _:
            driven = [f.plus for f in check.fixtures if isinstance(f, Source) and f.waveform is not None]
            nets = dict.fromkeys([*driven[:2], *_outputs(circuit, check)])
            expressions = [f"v({net})" for net in nets]
    return (CheckCard(id="usual", title=check.title, curves=tuple(CardCurve(expression=e) for e in expressions)),)


def _outputs(circuit: Circuit, check: Check) -> list[str]:
    """The nets that are called outputs, those of a load, or the one that the last part is on."""
    nets = [net for net in dict.fromkeys(net for part in circuit.parts for net in nets_of(part)) if net != "gnd"]
    if check.output in nets:
        return [check.output]
    if called := [net for net in nets if "out" in net.lower()]:
        return called[:3]
    loaded = [fixture.plus for fixture in check.fixtures if fixture.kind == "load" and fixture.plus in nets]
    named = [net for net in nets if not _UNNAMED.fullmatch(net)]
    return loaded[:3] or (named or nets)[-1:]
