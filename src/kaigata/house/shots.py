"""``./kaigata shots``: one current picture of each main view, made from the demo order."""

from __future__ import annotations

import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from kaigata.house.database import Cluster, port_is_free
from kaigata.house.front import build_front
from kaigata.house.loops import loops_built
from kaigata.house.machine import ROOT, require_system, say
from kaigata.house.stage import Stage, manage

if TYPE_CHECKING:
    from selenium.webdriver import Chrome

__all__ = ["open_browser", "shots", "sign_in"]

FOLDER = ROOT / "docs" / "screenshots"
SIZE = (1280, 800)
DEMO_PARTS = 10
_QUIET = (
    "--headless=new", "--no-sandbox", "--disable-gpu", "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update", "--hide-scrollbars",
)  # fmt: skip


def open_browser(downloads: Path | None = None) -> Chrome:
    """Open a Chromium without a screen that talks to this machine only."""
    from selenium import webdriver

    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for word in (*_QUIET, f"--window-size={SIZE[0]},{SIZE[1]}"):
        options.add_argument(word)
    if downloads is not None:
        options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    browser = webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )
    size = {"width": SIZE[0], "height": SIZE[1], "deviceScaleFactor": 1, "mobile": False}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    return browser


DEMO_PLANNER = ("kestrel", "repair-stand")


def sign_in(browser: Chrome, address: str, who: tuple[str, str] = DEMO_PLANNER) -> None:
    """Sign in by name and password, as the demo's planner unless it is somebody else."""
    user, password = who
    browser.get(f"{address}/sign-in")
    _wait(lambda: browser.find_elements("name", "user"))
    browser.find_element("name", "user").send_keys(user)
    browser.find_element("name", "password").send_keys(password)
    browser.find_element("css selector", "button.main").click()
    _wait(lambda: browser.find_elements("css selector", "article.row"))


def _wait(seen: Callable[[], object], seconds: float = 90.0) -> None:
    from selenium.common.exceptions import StaleElementReferenceException

    end = time.monotonic() + seconds
    while time.monotonic() < end:
        # What was found may be drawn anew before it is looked at.
        with suppress(StaleElementReferenceException):
            if seen():
                return
        time.sleep(0.2)
    raise TimeoutError(f"not seen within {seconds:g} s")


def shots() -> int:
    """Make every picture anew on a database of its own."""
    require_system({"chromium": "/usr/bin/chromium", "chromium-driver": "/usr/bin/chromedriver"})
    with loops_built():
        build_front()
    cluster = Cluster("test-postgres")
    cluster.start()
    port = next(p for p in range(8500, 8600) if port_is_free(p))
    stage = Stage(cluster.address("shots"), port)
    try:
        cluster.make_database("shots", afresh=True)
        manage(stage.database, "migrate", "--verbosity", "0")
        manage(stage.database, "load_demo")
        stage.start()
        browser = open_browser()
        try:
            _take_all(browser, stage.address)
        finally:
            browser.quit()
    finally:
        stage.stop()
        cluster.stop()
    return 0


_HOLES = """
const done = arguments[0]
const page = document.querySelector('.files a').href.replace(/sheets.*/, 'sheets')
fetch(page).then((r) => r.json()).then(({ places, pages: [sheet] }) => {
  const holes = places.filter((p) => p.kind === 'hole' && p.radius)
  const [low, high] = [holes[0], holes.at(-1)]
  const wide = holes.find((p) => p.place[1] === low.place[1] && p !== low)
  done([low, wide, low, high].map((p) => [p.at[0] / sheet.width, 1 - p.at[1] / sheet.height]))
})
"""
"""Gives where on the first sheet holes lie: two in a row, and the first and the last."""
_CLICK = """
const surface = document.querySelector("[data-id='size-picks']")
const box = surface.getBoundingClientRect()
const [x, y] = [box.left + arguments[0] * box.width, box.top + arguments[1] * box.height]
surface.dispatchEvent(new MouseEvent('click', { clientX: x, clientY: y, bubbles: true }))
"""


class _Camera:
    """A signed-in browser that walks the demo order and takes pictures."""

    def __init__(self, browser: Chrome, address: str) -> None:
        self._browser, self._address = browser, address

    def take(self, name: str) -> None:
        time.sleep(1.2)
        FOLDER.mkdir(parents=True, exist_ok=True)
        self._browser.save_screenshot(str(FOLDER / f"{name}.png"))
        say(f"docs/screenshots/{name}.png")

    def go(self, path: str, css: str) -> None:
        self._browser.get(self._address + path)
        self.see(css)

    def see(self, css: str, text: str = "") -> None:
        def shown() -> bool:
            return any(text in e.text for e in self._browser.find_elements("css selector", css))

        _wait(shown)

    def see_no(self, css: str, text: str) -> None:
        def gone() -> bool:
            return not any(text in e.text for e in self._browser.find_elements("css selector", css))

        _wait(gone)

    def click(self, css: str) -> None:
        def clicked() -> bool:
            self._browser.find_element("css selector", css).click()
            return True

        self.see(css)
        _wait(clicked)

    def write(self, css: str, text: str) -> None:
        self.see(css)
        self._browser.find_element("css selector", css).send_keys(text)

    def begin_order(self, number: str, title: str) -> None:
        self.go("/", "form.new input")
        self.write("form.new input[name='number']", number)
        self.write("form.new input[name='title']", title)
        self.click("form.new button.main")
        self.see(".rack")

    def put_on_rack(self, file: Path) -> None:
        field = self._browser.find_element("css selector", ".rack input[type='file']")
        field.send_keys(str(file))

    def scroll_down(self, css: str) -> None:
        script = "const e = document.querySelector(arguments[0]); e.scrollTop = e.scrollHeight"
        self._browser.execute_script(script, css)

    def choose_sizes(self) -> None:
        """Choose sizes on the drawing that is shown: between its holes."""
        ends = self._browser.execute_async_script(_HOLES)
        self.click("button[name='choose-size']")
        self.see("[data-id='size-picks']")
        for n, (x, y) in enumerate(ends):
            self._browser.execute_script(_CLICK, x, y)
            if n % 2:
                self.see(f".slip ol li:nth-child({n // 2 + 1}) .said")
        self.click("button[name='choose-size']")

    def stamp(self) -> None:
        self.click(".slip .stamp")
        time.sleep(0.6)


def _take_all(browser: Chrome, address: str) -> None:
    camera = _Camera(browser, address)
    camera.go("/sign-in", "form.card")
    camera.take("sign-in")
    sign_in(browser, address)
    camera.go("/orders/1/part", ".folded canvas")
    _wait(lambda: len(browser.find_elements("css selector", ".rack .item svg")) == DEMO_PARTS)
    camera.see_no(".card", "reading")
    camera.take("1-part")
    camera.stamp()
    camera.go("/orders/1/blank", ".folded canvas")
    camera.click(".bends tr[data-bend='3']")
    camera.take("2-blank")
    camera.click("button[name='drawing']")
    camera.see(".paper svg")
    camera.choose_sizes()
    camera.take("2-drawing")
    camera.click("button[name='drawing']")
    camera.click(".shift button:last-child")
    camera.see(".folded canvas")
    camera.take("night-shift")
    camera.click(".shift button:first-child")
    camera.stamp()
    _take_results(camera)
    _take_built(camera)
    _take_assembly(camera)
    camera.go("/stores", "table.rows")
    camera.take("stores")
    camera.go("/people", "table.rows td.num")
    camera.take("people")
    camera.go("/", "article.row")
    camera.take("orders")


def _take_assembly(camera: _Camera) -> None:
    """Take the drawing of an assembly, where its parts are exploded."""
    camera.begin_order("24-033", "Parts bins")
    camera.put_on_rack(ROOT / "demo" / "parts" / "parts-bin.step")
    camera.see(".rack .item", "Handle")
    camera.click(".rack .item")
    camera.click("button[name='assembly']")
    camera.see(".paper svg", "Exploded")
    camera.scroll_down(".sheets")
    camera.take("1-part-assembly")


def _take_built(camera: _Camera) -> None:
    """Take parts that are built here: while a step is being said, and the nets of a shell."""
    camera.begin_order("24-032", "Bolt trays")
    camera.click("button[name='build-lipped-tray']")
    camera.see(".recipe ol li", "Begin")
    camera.click(".recipe li:nth-child(3) .said")
    camera.see(".stage [data-name='base']")
    camera.take("1-part-built")
    camera.click("button[name='build-hopper']")
    camera.see(".recipe ol li", "Begin with the shell")
    camera.click(".recipe ol li .said")
    camera.see(".nets .picked", "as now")
    camera.take("1-part-shell")


def _take_results(camera: _Camera) -> None:
    """Take the stations that show what came of the blanks."""
    camera.go("/orders/1/bends/4", "svg.flat .bend")
    camera.take("3-bends")
    camera.stamp()
    camera.go("/orders/1/nest", ".slip button.main")
    camera.click(".slip button.main")
    camera.see(".history", "done")
    camera.click("svg.sheet .part")
    camera.take("4-nest")
    camera.stamp()
    camera.go("/orders/1/cut", ".slip button.main")
    camera.click(".slip button.main")
    camera.see("svg.sheet .kerf")
    camera.see_no(".slip .quiet", "planning")
    camera.take("5-cut")
    camera.stamp()
    camera.go("/orders/1/packet", ".slip button.main")
    camera.click(".slip button.main")
    camera.see(".files table")
    camera.stamp()
    camera.take("6-packet")
