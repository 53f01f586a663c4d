"""What is said of a model that lacks a figure which a check rests on, or contradicts its data sheet in one: it must not
pass for good at it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from verdad_core.errors import Finding, Place, Severity
from verdad_core.qualification.figures import Figure, FigureType, Standing
from verdad_core.qualification.judgement import Agreement, Judgement


def warnings(
    relied: frozenset[str], part: str, figures: Iterable[Figure], judgements: Iterable[Judgement],
    types: Mapping[str, FigureType],
) -> list[Finding]:  # fmt: skip
    """What a check that rests on the figures `relied` must say of the model of `part`."""
    found = [
        _warning(part, f"{types[figure.key].title.lower()} is not modelled: {figure.remark}")
        for figure in figures
        if figure.standing is Standing.ABSENT and figure.key in relied & _MATTERS_WHEN_ABSENT
    ]
    for judgement in judgements:
        if judgement.figure in relied and judgement.agreement is Agreement.OFF:
            title = types[judgement.figure].title.lower()
            found.append(_warning(part, f"its model contradicts the data sheet in {title}: {judgement.reason}"))
    return found


#: That nothing oscillates with any load is no lack; these are.
_MATTERS_WHEN_ABSENT = frozenset({
    "gain_bandwidth", "voltage_noise", "current_noise", "noise_density", "slew_rate_rising", "slew_rate_falling",
    "output_high", "output_low", "recovery_time", "gate_charge", "transition_frequency", "zero_bias_capacitance",
})  # fmt: skip


def _warning(part: str, what: str) -> Finding:
    return Finding(
        Severity.WARNING, f"{part}: {what}", Place(part=part), "See the model's qualification; this check rests on it."
    )
