"""The table of analysis statements: a command is one file here and one row below."""

from collections.abc import Mapping

from verdad_core.commands.ac import Ac
from verdad_core.commands.dc import DcSweep
from verdad_core.commands.fourier import Fourier
from verdad_core.commands.noise import Noise
from verdad_core.commands.operating_point import OperatingPoint
from verdad_core.commands.pole_zero import PoleZero
from verdad_core.commands.sensitivity import Sensitivity
from verdad_core.commands.transfer_function import TransferFunction
from verdad_core.commands.transient import Transient
from verdad_core.netlist.command import Command

COMMANDS: Mapping[str, type[Command]] = {
    command.keyword: command
    for command in (
        OperatingPoint, DcSweep, Ac, Transient, Fourier, Noise, TransferFunction, PoleZero, Sensitivity,
    )
}  # fmt: skip
