"""The real program, server and worker, and a real browser without a screen."""

import os
import socket
import time

import psycopg
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from kaigata.house.shots import open_browser, sign_in
from kaigata.house.stage import Stage, manage

DATABASE = "browser"


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@pytest.fixture(scope="session")
def stage(tmp_path_factory):
    """A server and a worker on a database of their own, with the demo order."""
    home = os.environ["KAIGATA_DATABASE"]
    with psycopg.connect(home, autocommit=True) as link:
        link.execute(f'DROP DATABASE IF EXISTS "{DATABASE}" WITH (FORCE)')
        link.execute(f'CREATE DATABASE "{DATABASE}"')
    address = home.rsplit("/", 1)[0] + f"/{DATABASE}"
    manage(address, "migrate", "--verbosity", "0")
    manage(address, "load_demo")
    stage = Stage(address, free_port(), log=tmp_path_factory.mktemp("log"))
    stage.start()
    yield stage
    stage.stop()


@pytest.fixture(scope="session")
def downloads(tmp_path_factory):
    return tmp_path_factory.mktemp("downloads")


@pytest.fixture(scope="session")
def browser(stage, downloads):
    browser = open_browser(downloads=downloads)
    sign_in(browser, stage.address)
    yield browser
    browser.quit()


class Bench:
    """What a user does, and what a user sees."""

    def __init__(self, browser, address, downloads):
        self.browser, self.address, self.downloads = browser, address, downloads

    def go(self, path):
        self.browser.get(self.address + path)

    def begin_order(self, number, title):
        self.go("/")
        self.wait("input[name='number']").send_keys(number)
        self.wait("input[name='title']").send_keys(title)
        self.click("form.new button.main")
        self.wait(".empty", text="Drop STEP, DXF or recipe files")

    def all(self, css):
        return self.browser.find_elements(By.CSS_SELECTOR, css)

    def wait(self, css, *, text="", seconds=30.0):
        """Wait until an element shows, with a text in it where one is given."""

        def is_seen(element):
            # Pieces of a drawing have no box of their own, so the driver calls them hidden.
            is_drawn = element.tag_name in ("g", "path", "line")
            return (is_drawn or element.is_displayed()) and text in element.text

        return self.until(
            lambda: next((e for e in self.all(css) if is_seen(e)), None),
            f"{css} with {text!r}",
            seconds,
        )

    def until(self, found, what, seconds=30.0):
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            try:
                value = found()
            except Exception as error:
                # The page may be drawing itself anew just now.
                if "stale" not in type(error).__name__.lower():
                    raise
                value = None
            if value:
                return value
            time.sleep(0.1)
        raise AssertionError(f"did not see {what} within {seconds:g} s: {self.text()[-400:]}")

    def click(self, css, *, text=""):
        """Click an element once it shows; one drawn anew meanwhile is looked for again."""

        def clicked():
            self.wait(css, text=text).click()
            return True

        self.until(clicked, f"{css} with {text!r} to click")

    def fill(self, css, text):
        """Write a text over what a field holds, as a user does, and settle it with Enter."""
        # In one go: what the page hears between typing and Enter could draw the field anew.
        self.write(css, text, Keys.ENTER)

    def write(self, css, *keys):
        """Write over what a field holds; one drawn anew before it is looked for again."""

        def all_chosen():
            field = self.wait(css)
            field.send_keys(Keys.CONTROL, "a")
            return field

        self.until(all_chosen, f"{css} to write in").send_keys(*keys)

    def text(self):
        return self.browser.find_element(By.TAG_NAME, "body").text

    def download(self, css, *, text="", name):
        """Click a link and return the file it gives."""
        path = self.downloads / name
        path.unlink(missing_ok=True)
        self.click(css, text=text)
        self.until(path.exists, f"the file {name}", 20)
        return path


@pytest.fixture
def bench(browser, stage, downloads):
    return Bench(browser, stage.address, downloads)
