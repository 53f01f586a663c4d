"""The real interface in a real browser: dragging a part on a sheet of three hundred."""

from __future__ import annotations

import statistics
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import httpx
from playwright.sync_api import Page, sync_playwright
from sqlalchemy import delete
from sqlalchemy.orm import Session

from tests.conftest import serving
from verdad.db.session import connect, migrate
from verdad.db.tables import BoardRow
from verdad.demo.load import load_demo
from verdad.settings import Settings
from verdad.setup import postgres

CHROMIUM: dict[str, Any] = {
    "executable_path": "/usr/bin/chromium", "args": ["--no-sandbox", "--disable-gpu", "--no-first-run"],
}  # fmt: skip

#: Records the time between frames, in milliseconds, until it is told to stop.
RECORD = """() => {
  window.frames_ = []; window.recording_ = true
  let last = performance.now()
  const step = (now) => {
    window.frames_.push(now - last)
    last = now
    if (window.recording_) requestAnimationFrame(step)
  }
  requestAnimationFrame(step)
}"""

#: The middle of the amplifier that is nearest to the middle of the window.
MIDDLE = """() => {
  const paper = document.querySelector('[role=application]').getBoundingClientRect()
  const middles = [...document.querySelectorAll('[data-symbol] .filled')].map((shape) => shape.getBoundingClientRect())
    .map((box) => [box.left + box.width / 3, box.top + box.height / 2])
  const far = ([x, y]) => Math.hypot(x - paper.left - paper.width / 2, y - paper.top - paper.height / 2)
  return middles.sort((a, b) => far(a) - far(b))[0]
}"""


def three_hundred_parts() -> str:
    """A chain of sections, each an inverting stage between RCs: ten parts, thirty times."""
    lines = ["vin in 0 dc 0 ac 1", "vp vcc 0 5", "vn vee 0 -5"]
    source = "in"
    for k in range(30):
        lines += [
            f"r{k}a {source} a{k} 1k", f"c{k}a a{k} 0 1n", f"r{k}b a{k} m{k} 10k", f"r{k}c m{k} o{k} 10k",
            f"c{k}b m{k} o{k} 10p", f"x{k} 0 m{k} vcc vee o{k} opamp", f"r{k}d o{k} b{k} 100", f"c{k}c b{k} 0 1n",
            f"c{k}d vcc 0 100n", f"r{k}e b{k} 0 100k",
        ]  # fmt: skip
        source = f"b{k}"
    return "\n".join(lines) + "\n"


def frame_times(page: Page, during: bool) -> list[float]:
    """Milliseconds between frames while a part is dragged for some seconds, or while nothing is done."""
    x, y = page.evaluate(MIDDLE)
    page.mouse.move(x, y)
    if during:
        page.mouse.down()
        page.mouse.move(x + 10, y + 10)
        page.wait_for_timeout(200)
    page.evaluate(RECORD)
    for k in range(150):
        if during:
            page.mouse.move(x + 10 + 3 * (k % 40), y + 10 + 2 * (k % 40))
        else:
            page.wait_for_timeout(16)
    # Without its wires stretching, nothing would have been dragged.
    assert (page.locator(".wire.selected").count() > 0) == during
    frames: list[float] = page.evaluate("() => { window.recording_ = false; return window.frames_.slice(2) }")
    if during:
        page.keyboard.press("Escape")
        page.mouse.up()
    return frames


@contextmanager
def service() -> Iterator[str]:
    """The address of a service whose database holds the demo and nothing else."""
    url = postgres.start(Settings.from_environment()).ensure("verdad_bench")
    engine = connect(url)
    migrate(engine)
    with Session(engine) as session, session.begin():
        session.execute(delete(BoardRow))
        load_demo(session)
    engine.dispose()
    with serving(url) as address:
        yield address


def report() -> None:
    """Print the frames of a drag beside those of the page at rest."""
    with service() as address, sync_playwright() as playwright:
        board = httpx.post(f"{address}/api/boards", json={"title": "Three hundred parts"}).json()
        api = f"{address}/api/boards/{board['id']}"
        pasted = httpx.post(f"{api}/pasted", json={"text": three_hundred_parts()}, timeout=60).json()
        document = board["board"] | {"circuits": [pasted["circuit"]]}
        httpx.put(api, json={"revision": 1, "board": document}).raise_for_status()
        browser = playwright.chromium.launch(**CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}/boards/{board['id']}/sheet")
        page.locator("[data-symbol=U15]").wait_for(timeout=60_000)
        page.wait_for_timeout(1500)
        rest, drag = (sorted(frame_times(page, during)) for during in (False, True))
        browser.close()
        httpx.delete(api)
    for name, frames in (("at rest", rest), ("dragging one of 300 parts", drag)):
        print(
            f"the sheet {name}: {1000 / statistics.median(frames):.0f} frames a second, "
            f"95 % of the frames within {frames[int(0.95 * len(frames))]:.1f} ms",
            flush=True,
        )
