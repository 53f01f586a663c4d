from __future__ import annotations

import pytest

from verdad_core.intake import effect, experiment, reading


@pytest.fixture(autouse=True)
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """A busy machine must not decide what a test finds: intake gives up late."""
    for module in (effect, experiment, reading):
        monkeypatch.setattr(module, "PATIENCE", 120.0)
