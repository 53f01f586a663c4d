"""Why a quantity differs from its nominal value: the table of contributors."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Contributor:
    """One reason. What is `shared` is drawn once for all quantities of a group."""

    key: str
    title: str
    meaning: str
    shared: bool = True


CONTRIBUTORS: dict[str, Contributor] = {
    each.key: each
    for each in (
        Contributor("purchase", "as bought", "The tolerance that it is bought with."),
        Contributor("ageing", "by the end of life", "What it drifts until the end of its life."),
        Contributor(
            "surroundings",
            "by its surroundings",
            "What temperature, humidity or radiation change at most, where no coefficient tells.",
        ),
        Contributor("matching", "within its group", "How far it lies from the others of its group.", shared=False),
    )
}
