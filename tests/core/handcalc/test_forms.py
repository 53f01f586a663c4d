import pytest

from verdad_core.errors import BoardError
from verdad_core.handcalc.forms import CLOSED_FORMS


@pytest.mark.parametrize(
    # The first three: common practice, no source. The loaded forms: worked by hand from their Thévenin source.
    ("key", "inputs", "value"),
    [
        ("rc_cutoff", {"R": 1e3, "C": 1e-6}, 159.15494309),
        ("rc_cutoff", {"R": 1e3, "C": 10e-9}, 15915.494309),
        ("divider", {"Vin": 5.1, "R1": 10.2e3, "R2": 18.7e3}, 3.3),
        ("noninverting_gain", {"Rf": 39e3, "Rg": 1e3}, 40.0),
        ("source_rc_cutoff", {"R": 1e3, "Rs": 2e3, "Rp": 2e3, "C": 1e-6}, 79.577471546),
        ("loaded_noninverting_gain", {"Rf": 9e3, "Rg": 1e3, "Rs": 1e3, "Rp": 1e3}, 5.0),
    ],
)
def test_values(key: str, inputs: dict[str, float], value: float) -> None:
    assert CLOSED_FORMS[key].evaluate(**inputs) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize("key", CLOSED_FORMS)
def test_every_form_names_its_symbols_and_source(key: str) -> None:
    form = CLOSED_FORMS[key]
    assert form.key == key
    assert form.source
    assert all(symbol in form.formula for symbol in form.inputs)
    with pytest.raises(BoardError, match="needs"):
        form.evaluate(nonsense=1.0)
    with pytest.raises(BoardError, match="no value"):
        form.evaluate(**dict.fromkeys(form.inputs, 0.0))
