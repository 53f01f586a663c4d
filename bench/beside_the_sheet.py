"""The real interface in a real browser: a value turned until the card is drawn, first paint, and many curves panned."""

from __future__ import annotations

import gzip
import re
import statistics
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import httpx
from playwright.sync_api import Browser, Page, sync_playwright

from bench.on_the_sheet import CHROMIUM, RECORD, service
from tests.e2e.netlists import SIXTY_PARTS

#: Times a value is turned.
TURNS = 60

#: Turns a value by one step and waits until the card was drawn with the answer; milliseconds.
TURN = """async () => {
  const card = document.querySelector('.curve-card canvas')
  const context = CanvasRenderingContext2D.prototype
  window.stroke_ ??= context.stroke
  const begun = performance.now()
  const drawn = new Promise((done) => {
    context.stroke = function (...given) {
      const found = window.stroke_.apply(this, given)
      // Behind the next frame: what was drawn is seen by then.
      if (this.canvas.isConnected) requestAnimationFrame(() => setTimeout(() => done(performance.now() - begun)))
      return found
    }
  })
  document.querySelector('.trim input[type=range]').dispatchEvent(
    new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true })
  )
  const took = await drawn
  context.stroke = window.stroke_
  return took
}"""


@contextmanager
def _sheet(browser: Browser, address: str, board: str) -> Iterator[Page]:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(f"{address}/boards/{board}/sheet")
    page.locator(".curve-card canvas").wait_for(timeout=60_000)
    page.wait_for_timeout(1000)
    yield page
    page.close()


def _turned(page: Page, part: str) -> list[float]:
    page.get_by_role("button", name="Trim", exact=True).click()
    page.get_by_label("What is turned").select_option(part)
    page.wait_for_timeout(300)
    page.evaluate(TURN)
    times = []
    for _ in range(TURNS):
        times.append(float(page.evaluate(TURN)))
        page.wait_for_timeout(30)
    return sorted(times)


def _served(address: str, board: str, check: str, part: str) -> list[float]:
    """The same asked of the service alone, in milliseconds."""
    times = []
    with httpx.Client(timeout=60) as client:
        for k in range(TURNS + 5):
            begun = time.perf_counter()
            url = f"{address}/api/boards/{board}/checks/{check}/trial"
            client.post(url, json={"values": {part: f"{1000 + k}"}}).raise_for_status()
            times.append(1e3 * (time.perf_counter() - begun))
    return sorted(times[5:])


def _line(name: str, times: list[float], unit: str = "ms") -> str:
    return (
        f"{name}: median {statistics.median(times):.0f} {unit}, 95 % within {times[int(0.95 * len(times))]:.0f} {unit}"
    )


def _first_paint(browser: Browser, address: str, board: str) -> str:
    """Of a page that was never seen, and of the scripts that it loads until then."""
    scripts: list[bytes] = []
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.on("response", lambda r: scripts.append(r.body()) if re.search(r"\.js(\?|$)", r.url) else None)
    page.goto(f"{address}/boards/{board}/sheet")
    page.locator("[data-symbol]").first.wait_for()
    drawn = float(page.evaluate("performance.now()"))
    paint = float(page.evaluate("performance.getEntriesByName('first-contentful-paint')[0].startTime"))
    page.close()
    weight = sum(len(gzip.compress(script)) for script in scripts) / 1e3
    return f"first paint after {paint:.0f} ms, the sheet drawn after {drawn:.0f} ms, {weight:.0f} kB of script (gzip)"


def _many_curves(api: str) -> str:
    """A check of which a card shows 200 curves of 2,000 points; its identifier."""
    answer = httpx.get(api).json()
    document: dict[str, Any] = answer["board"]
    circuit = document["circuits"][0]
    curves = [{"expression": f"db(v(out)*{1 + 0.01 * k:.2f})"} for k in range(200)]
    many = {
        **circuit["checks"][0], "id": "many", "title": "Many", "measurements": [],
        "analysis": {**circuit["checks"][0]["analysis"], "start": "1", "stop": "10k", "points_per_decade": 500},
        "cards": [{"id": "many", "title": "Two hundred curves", "curves": curves}],
    }  # fmt: skip
    circuit["checks"].append(many)
    httpx.put(api, json={"revision": answer["revision"], "board": document}).raise_for_status()
    return "many"


def _panned(page: Page) -> list[float]:
    """Milliseconds between frames while 200 curves are dragged about at full size."""
    page.get_by_role("button", name="Many", exact=True).click()
    page.get_by_role("button", name="Two hundred curves at full size").click()
    page.wait_for_timeout(6000)
    box = page.locator(".evidence .plot").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down(button="right")
    page.mouse.move(x + 20, y + 5)
    page.evaluate(RECORD)
    for k in range(120):
        page.mouse.move(x + 3 * (k % 60), y + (k % 30))
    frames: list[float] = page.evaluate("() => { window.recording_ = false; return window.frames_.slice(2) }")
    page.mouse.up(button="right")
    return sorted(frames)


def report() -> None:
    """Print what the designer waits for."""
    with service() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(**CHROMIUM)
        [entry] = httpx.get(f"{address}/api/boards").json()
        demo = str(entry["id"])
        board = httpx.post(f"{address}/api/boards", json={"title": "Sixty parts"}).json()
        api = f"{address}/api/boards/{board['id']}"
        pasted = httpx.post(f"{api}/pasted", json={"text": SIXTY_PARTS}, timeout=60).json()
        document = board["board"] | {"circuits": [pasted["circuit"]]}
        httpx.put(api, json={"revision": 1, "board": document}).raise_for_status()
        check = pasted["circuit"]["checks"][0]["id"]
        cases = (("the preamplifier", demo, "preamp-response", "C1"), ("sixty parts", board["id"], check, "R12"))
        for name, where, which, part in cases:
            print(_line(f"{name}, a value turned: the service", _served(address, where, which, part)), flush=True)
            with _sheet(browser, address, where) as page:
                print(_line(f"{name}, a value turned until the card is drawn", _turned(page, part)), flush=True)
        print(f"a page never seen: {_first_paint(browser, address, demo)}", flush=True)
        _many_curves(f"{address}/api/boards/{demo}")
        with _sheet(browser, address, demo) as page:
            frames = _panned(page)
        print(
            f"200 curves of 2,000 points panned: {1000 / statistics.median(frames):.0f} frames a second, "
            f"95 % of the frames within {frames[int(0.95 * len(frames))]:.0f} ms",
            flush=True,
        )
        browser.close()
