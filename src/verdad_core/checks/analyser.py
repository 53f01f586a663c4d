"""A virtual network analyser: the stand-in for the instrument, with its own noise and the length of its connectors."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from verdad_core.checks.signals import Signals
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Port
from verdad_core.errors import BoardError
from verdad_core.intake.touchstone import NetworkData
from verdad_core.units import parse_value

#: Metres a second.
_LIGHT = 299_792_458.0


def network_of(check: Check, signals: Signals) -> NetworkData:
    """The S-parameters between the ports of a check as they were computed.

    Raises BoardError for a check that brings none, and for ports with a reactance, which files cannot tell.
    """
    ports = ports_of(check)
    if not ports or f"s{ports[0].number}{ports[0].number}" not in signals.others:
        raise BoardError("this check has no S-parameters", remedy="Ask what goes through between ports.")
    if reactive := next((port for port in ports if parse_value(port.reactance)), None):
        raise BoardError(
            f"{reactive.name} has a reactance, and files of S-parameters know resistances only",
            remedy="Set its reactance to 0, and ask for s at 50 Ω.",
        )
    first = signals.others[f"s{ports[0].number}{ports[0].number}"]
    values = [[signals.others[f"s{j.number}{k.number}"].values for k in ports] for j in ports]
    resistances = np.array([parse_value(port.impedance) for port in ports])
    return NetworkData(first.along().values, np.moveaxis(np.array(values, complex), 2, 0), resistances)


def ports_of(check: Check) -> list[Port]:
    """The ports of a check by their numbers."""
    return sorted((f for f in check.fixtures if isinstance(f, Port)), key=lambda port: port.number)


def as_measured(network: NetworkData, floor: float, length: float, seed: int = 1) -> NetworkData:
    """What the instrument would show: a trace noise of `floor` (dB, of the full wave), and `length` metres of air line
    in front of each port that it does not know of.
    """
    turn = np.exp(-2j * np.pi * network.frequency * length / _LIGHT)
    noise = np.random.default_rng(seed).normal(size=(2, *network.s.shape)) * 10.0 ** (floor / 20.0) / np.sqrt(2.0)
    return replace(network, s=network.s * (turn**2)[:, None, None] + noise[0] + 1j * noise[1])
