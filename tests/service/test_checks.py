import threading
import time
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient

from tests.conftest import running
from tests.service.test_boards import set_value
from verdad.api.app import create_app


def test_the_demo_check(api: TestClient, board: dict[str, Any]) -> None:
    result = api.get(f"/api/boards/{board['id']}/checks/preamp-response").json()
    magnitude, phase = result["curves"]
    assert (magnitude["expression"], magnitude["unit"], len(magnitude["x"])) == ("db(response)", "dB", 251)
    assert phase["y"][0] == pytest.approx(0, abs=0.2)
    gain, bandwidth = result["measured"]
    # 1/(2π (4.7 kΩ + 380 Ω ‖ 12 kΩ) 33 nF) by hand; the op-amp's 8 MHz move it by less than 0.01 %.
    assert bandwidth["value"] == pytest.approx(951.57, rel=1e-4)
    assert abs(gain["hand"]["deviation"]) < 0.02
    assert result["at_rest"]["voltages"]["+5V"] == 5
    # Kirchhoff at the geophone's net.
    amperes = result["at_rest"]["currents"]
    assert amperes["R1.1"] + amperes["R2.1"] + amperes["geophone"] == pytest.approx(0, abs=1e-15)


def test_a_changed_value_changes_the_result_and_its_key(api: TestClient, board: dict[str, Any]) -> None:
    address = f"/api/boards/{board['id']}/checks/preamp-response"
    before = api.get(address).json()
    api.put(f"/api/boards/{board['id']}", json=set_value(board, "C1", "66n"))
    after = api.get(address).json()
    assert after["key"] != before["key"]
    assert after["measured"][1]["value"] == pytest.approx(before["measured"][1]["value"] / 2, rel=1e-3)


def test_a_net_that_only_a_capacitor_holds_is_named(api: TestClient, board: dict[str, Any]) -> None:
    document = board["board"]
    document["circuits"][0]["drawing"] = None
    document["circuits"][0]["parts"].append(
        {"kind": "capacitor", "designator": "C9", "value": "1n", "pins": ["filt", "loose"]}
    )
    saved = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document})
    assert saved.status_code == 200
    answer = api.get(f"/api/boards/{board['id']}/checks/preamp-response")
    assert answer.status_code == 200
    [finding] = [each for each in answer.json()["findings"] if each["place"]["nodes"]]
    assert finding["place"]["nodes"] == ["loose"]
    assert finding["remedy"]


def test_unknown_checks_are_not_found(api: TestClient, board: dict[str, Any]) -> None:
    assert api.get(f"/api/boards/{board['id']}/checks/nothing").status_code == 404


def test_a_trial_turns_values_and_saves_nothing(api: TestClient, board: dict[str, Any]) -> None:
    address = f"/api/boards/{board['id']}/checks/preamp-response"
    stored = api.get(address).json()
    turned = api.post(f"{address}/trial", json={"values": {"C1": "66n"}, "expressions": ["v(out)", "i(R2.1)"]}).json()
    assert turned["measured"][1]["value"] == pytest.approx(stored["measured"][1]["value"] / 2, rel=1e-3)
    # The hand value follows what was turned.
    assert abs(turned["measured"][1]["hand"]["deviation"]) < 0.1
    volts, amperes = turned["curves"][2:]
    assert (volts["unit"], amperes["unit"]) == ("V", "A")
    assert len(volts["imaginary"]) == len(volts["x"])
    assert api.get(address).json()["key"] == stored["key"]
    refused = api.post(f"{address}/trial", json={"values": {"C1": "-1"}})
    assert (refused.status_code, "above zero" in refused.json()["message"]) == (422, True)
    assert api.post(f"{address}/trial", json={"values": {"R99": "1"}}).status_code == 422
    assert "no value called" in api.post(f"{address}/trial", json={"values": {"R99": "1"}}).json()["message"]


def test_a_formula_is_worked_out_while_it_is_typed(api: TestClient, board: dict[str, Any]) -> None:
    """1/(2π (4.7 kΩ + 380 Ω ‖ 12 kΩ) 33 nF) by hand, as above; another part in it is said."""
    address = f"/api/boards/{board['id']}/checks/preamp-response/formula"
    measurement = {"id": "draft", "key": "upper_cutoff"}

    def ask(formula: str, **change: Any) -> dict[str, Any]:
        answer = api.post(address, json={"formula": formula, "measurement": measurement | change})
        assert answer.status_code == 200
        view: dict[str, Any] = answer.json()
        return view

    good = ask("1/(2*pi*(R2 + geophone.resistance||R1)*C1)")
    assert (good["unit"], good["problem"]) == ("Hz", "")
    assert abs(good["hand"]["deviation"]) < 0.02
    assert {"R2", "geophone.resistance", "temperature", '"Pass-band gain"', "k_B"} <= {
        n["written"] for n in good["names"]
    }
    assert ask("1/((R2 + geophone.resistance||R1)*C1)")["hand"]["slips"][0].startswith("divided by 2π")
    halves = ask('"Pass-band gain"/2', key="passband_gain")
    assert halves["hand"]["slips"] == ["times two"]
    wrong = ask("1/(2*pi*R2*C99)")
    assert (wrong["column"], wrong["hand"]) == (12, None)
    assert "Did you mean" in wrong["problem"]
    assert "measurement in Hz" in ask("R3/R4")["problem"]


def test_an_expression_that_cannot_be_read_says_at_which_letter(api: TestClient, board: dict[str, Any]) -> None:
    address = f"/api/boards/{board['id']}/checks/preamp-response/trial"
    *_, wrong, number = api.post(address, json={"expressions": ["db(v(nothing))", "max(v(out))"]}).json()["curves"]
    assert (wrong["column"], wrong["y"]) == (4, [])
    assert "no net nothing" in wrong["problem"]
    assert number["number"] == pytest.approx(38.77, rel=1e-3)


def test_cards_change_no_evidence(api: TestClient, board: dict[str, Any]) -> None:
    address = f"/api/boards/{board['id']}/checks/preamp-response"
    before = api.get(address).json()
    document = board["board"]
    card = {"id": "mine", "title": "Mine", "curves": [{"expression": "i(converter)"}], "place": {"x": 10, "y": 20}}
    document["circuits"][0]["checks"][0]["cards"] = [card]
    assert (
        api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document}).status_code
        == 200
    )
    after = api.get(address).json()
    assert after["key"] == before["key"]
    assert [curve["expression"] for curve in after["curves"]] == ["i(converter)"]
    assert after["curves"][0]["problem"] == ""


def test_a_rating_is_judged_at_once_and_changes_no_evidence(api: TestClient, board: dict[str, Any]) -> None:
    address = f"/api/boards/{board['id']}/checks/preamp-rest"
    before = api.get(address).json()
    document = board["board"]
    document["circuits"][0]["parts"][3]["rating"] = {"power": "10m"}
    saved = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document})
    assert saved.status_code == 200
    after = api.get(address).json()
    assert after["key"] == before["key"]
    assert [(s["part"], s["words"]) for s in after["at_rest"]["standings"]] == [("U1", "over its power rating")]


def test_what_can_be_turned_and_written_is_listed(api: TestClient, board: dict[str, Any]) -> None:
    quantities = api.get(f"/api/boards/{board['id']}/checks/preamp-response/quantities").json()
    assert {"name": "C1", "text": "33n", "value": 33e-9, "unit": "F", "swept": True} in quantities
    words = api.get("/api/vocabulary").json()
    assert {"db", "phase", "fft"} <= {function["name"] for function in words["functions"]}
    assert {"value", "upper_cutoff"} <= {measurement["key"] for measurement in words["measurements"]}
    assert words["series"]["E6"] == [1.0, 1.5, 2.2, 3.3, 4.7, 6.8]


def test_a_waveform_is_shown_and_a_recording_read(api: TestClient) -> None:
    source = {"name": "s", "plus": "a", "resistance": "50", "waveform": {"kind": "sine", "amplitude": "2"}}
    shown = api.post("/api/waveform", json=source).json()
    assert (shown["unit"], max(shown["y"])) == ("V", pytest.approx(2, rel=5e-3))
    recorded = api.post("/api/recordings", files={"file": ("shot.csv", b"0,0\n1,1\n2,0\n")}).json()
    assert recorded["waveform"]["samples"] == [0, 1, 0]
    refused = api.post("/api/recordings", files={"file": ("../../x.wav", b"no signal")})
    assert refused.status_code == 422
    assert refused.json()["remedy"]


def with_long_check(api: TestClient, board: dict[str, Any]) -> tuple[str, str]:
    """The board with a check that takes long: its address, and the identifier of another check."""
    document = board["board"]
    check = document["circuits"][0]["checks"][0]
    wave = {"kind": "sine", "frequency": "1k", "amplitude": "1m"}
    fixtures = [f | ({"waveform": wave} if f["name"] == "geophone" else {}) for f in check["fixtures"]]
    analysis = {"kind": "transient", "stop": "2000"}
    long = {**check, "id": "long", "title": "Long", "analysis": analysis, "measurements": [], "fixtures": fixtures}
    document["circuits"][0]["checks"].append(long)
    saved = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document})
    assert saved.status_code == 200
    return f"/api/boards/{board['id']}/checks/long", str(check["id"])


def test_a_run_ends_when_who_asked_goes_away(database_url: str, api: TestClient, board: dict[str, Any]) -> None:
    address, _ = with_long_check(api, board)
    app = create_app(database_url)
    with running(app) as service:
        with pytest.raises(httpx.ReadTimeout):
            httpx.get(f"{service}{address}", params={"by": "me"}, timeout=httpx.Timeout(10.0, read=1.0))
        runs = app.state.context.runs
        ends = time.monotonic() + 30
        while runs.of("me") is not None and time.monotonic() < ends:
            time.sleep(0.02)
        assert runs.of("me") is None


def test_a_later_run_of_a_window_overtakes_an_earlier_one(api: TestClient, board: dict[str, Any]) -> None:
    """What somebody ends answers with what it has and says why; what is overtaken is no answer at all."""
    address, other = with_long_check(api, board)
    answers: list[Any] = []

    def begin() -> tuple[threading.Thread, float]:
        """Ask for the check, and wait until some of it is done; how much."""
        thread = threading.Thread(target=lambda: answers.append(api.get(address, params={"by": "me"})))
        thread.start()
        while not (done := api.get(f"{address}/progress", params={"by": "me"}).json()["done"]) and thread.is_alive():
            time.sleep(0.02)
        return thread, done

    first, done = begin()
    assert done is not None
    assert 0 < done < 1
    assert api.delete(f"{address}/progress", params={"by": "me"}).status_code == 204
    first.join(20)
    [answer] = answers
    assert answer.status_code == 200
    answer = answer.json()
    assert any("somebody ended it" in finding["message"] for finding in answer["findings"])
    assert answer["curves"][0]["x"]
    assert api.get(f"{address}/progress", params={"by": "me"}).json()["done"] is None

    # A try by the same window leaves the check alone; a second run of the check takes its place.
    overtaken, _ = begin()
    tried = api.post(f"/api/boards/{board['id']}/checks/{other}/trial", json={"by": "me"})
    assert tried.status_code == 200
    assert len(answers) == 1
    later = threading.Thread(target=lambda: answers.append(api.get(address, params={"by": "me"})))
    later.start()
    overtaken.join(20)
    assert answers[1].status_code == 409
    assert "took the place" in answers[1].json()["message"]
    # What computes holds no connection, and health is asked for apart from all else.
    assert api.get("/healthz").json()["ok"]
    api.delete(f"{address}/progress", params={"by": "me"})
    later.join(20)
    assert answers[2].status_code == 200


def test_ways_to_more_margin_are_offered_found_and_taken(api: TestClient, board: dict[str, Any]) -> None:
    address, document = f"/api/boards/{board['id']}", board["board"]
    check = {"id": "loop", "title": "Loop", "analysis": {"kind": "loop", "around": "U1.out", "margin": "85"},
             "fixtures": document["circuits"][0]["checks"][0]["fixtures"]}  # fmt: skip
    document["circuits"][0]["checks"].append(check)
    assert api.put(address, json={"revision": board["revision"], "board": document}).status_code == 200
    loop = f"{address}/checks/loop"
    ways = [entry["variant"] for entry in api.get(f"{loop}/variants").json() if entry["group"] == "More margin"]
    assert ("lead", "loop") in [(way["way"], way["check"]) for way in ways]
    assert all(e["group"] != "More margin" for e in api.get(f"{address}/checks/preamp-response/variants").json())
    lead = {"how": "compensation", "way": "lead"}
    [found] = api.post(f"{loop}/compared", json={"variants": [lead]}).json()
    assert found["result"]["sentence"]
    taken = api.post(f"{loop}/taken", json={"board": document, "variant": lead}).json()
    newcomer = taken["circuits"][0]["parts"][-1]
    assert found["said"].startswith(f"{newcomer['designator']} = ")
    [unknown] = api.post(f"{loop}/compared", json={"variants": [lead | {"way": "nothing"}]}).json()
    assert "no such way" in unknown["problem"]


def test_a_check_is_compared_with_other_parts_and_with_a_kept_state(api: TestClient, board: dict[str, Any]) -> None:
    """The ideal amplifier has its resistors' gain, a baseline the bandwidth that was; a limit says what holds."""
    address = f"/api/boards/{board['id']}"
    check = f"{address}/checks/preamp-response"
    document = board["board"]
    document["baselines"] = [{"title": "as ordered", "revision": board["revision"]}]
    capacitor = next(part for part in document["circuits"][0]["parts"] if part["designator"] == "C1")
    capacitor["value"] = "66n"
    assert api.put(address, json={"revision": board["revision"], "board": document}).status_code == 200
    offered = api.get(f"{check}/variants").json()
    titles = [(entry["group"], entry["title"]) for entry in offered]
    assert titles[0] == ("Baselines", "as ordered")
    assert {("U1", "ideal amplifier"), ("U1", "its data sheet's figures only")} <= set(titles)
    asked = [offered[0]["variant"], {"how": "ideal", "part": "U1"}, {"how": "figures", "part": "U1"},
             {"how": "model", "part": "U1", "model": "gone"}, {"how": "revision", "revision": 999}]  # fmt: skip
    answer = api.post(f"{check}/compared", json={"variants": asked})
    assert answer.status_code == 200
    kept, ideal, figures, *others = answer.json()
    numbers = [{m["id"]: m["value"] for m in view["result"]["measured"]} for view in (kept, ideal, figures)]
    assert numbers[0]["bandwidth"] == pytest.approx(951.5, rel=1e-3)
    assert numbers[1]["gain"] == pytest.approx(40 * 12000 / 12380, rel=1e-5)
    assert numbers[2]["gain"] == pytest.approx(40 * 12000 / 12380, rel=1e-3)
    assert (kept["states"]["bandwidth"], ideal["states"]["bandwidth"]) == ("holds", "breaks")
    assert [view["result"] for view in others] == [None, None]
    assert "shelf" in others[0]["problem"]
    assert "revision" in others[1]["problem"]
