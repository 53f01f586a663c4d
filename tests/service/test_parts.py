from fastapi.testclient import TestClient


def test_generic_parts_and_grades_are_listed(api: TestClient) -> None:
    parts = api.get("/api/parts").json()
    assert {"resistor", "opamp", "pwm"} <= {part["key"] for part in parts["generic"]}
    grade = next(grade for grade in parts["grades"] if grade["key"] == "thick-1")
    assert (grade["tolerance"], grade["letter"], grade["series"], grade["tempco"]) == (1.0, "F", "E96", 100.0)


def test_a_preferred_value_is_found_or_refused(api: TestClient) -> None:
    found = api.get("/api/parts/preferred", params={"wanted": "4k9", "series": "E96"}).json()
    assert found["value"] == 4870
    assert round(found["deviation"], 3) == -0.612
    for wanted, series in (("4k9k", "E96"), ("0", "E96"), ("1k", "E97")):
        answer = api.get("/api/parts/preferred", params={"wanted": wanted, "series": series})
        assert answer.status_code == 422
        assert answer.json()["message"]
