"""A browser on a server with the demo episode."""

import itertools
import os
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from tests.serving import ForkedServer, Server, log_of
from tests.waiting import MOST_SECONDS

CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--process-per-site",
    "--autoplay-policy=no-user-gesture-required",
    # A window's own controls are pages too, and cost more than half of what ours does; and browsers
    # on one machine are to find each other by its own addresses.
    "--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup,SpareRendererForSitePerProcess,"
    "WebRtcHideLocalIpsWithMdns",
]


# Nothing here is about how quick the machine is: bench/ is.
expect.set_options(timeout=1000 * MOST_SECONDS)

Launch = Callable[..., Browser]


@pytest.fixture(scope="session")
def launch() -> Iterator[Launch]:
    """Starts Chromium, with more flags if given."""
    found = shutil.which("chromium")
    assert found, "Debian's chromium is not installed; `make test` does that"
    with sync_playwright() as playwright:
        yield lambda *more: playwright.chromium.launch(
            executable_path=found, args=[*CHROMIUM, *more]
        )


@pytest.fixture(scope="session")
def browser(launch: Launch) -> Iterator[Browser]:
    browser = launch()
    yield browser
    browser.close()


def new_context(browser: Browser, address: str, **told: Any) -> BrowserContext:
    """A browser of its own on a server, as patient as everything here, at 1280 × 800 unless another
    size is ``told``."""
    context = browser.new_context(
        **{"viewport": {"width": 1280, "height": 800}, "base_url": address, **told}
    )
    context.set_default_timeout(1000 * MOST_SECONDS)
    return context


Shared = Callable[..., BrowserContext]


@pytest.fixture(scope="session")
def shared(browser: Browser) -> Iterator[Shared]:
    """The one context for each address (and what else a context is told), and in it one process for
    all pages, so that what a browser fetched and compiled for one test is there for the next."""
    made: dict[str, BrowserContext] = {}

    def context(address: str, **told: Any) -> BrowserContext:
        key = f"{address} {told}"
        if key not in made:
            made[key] = new_context(browser, address, **told)
            made[key].new_page().goto("/healthz")  # keeps the process between two tests
        return made[key]

    yield context
    for one in made.values():
        one.close()


def fresh_page(context: BrowserContext, address: str) -> Page:
    """A page that finds nothing of what tests before it kept in the browser."""
    page = context.new_page()
    context.clear_cookies()
    devtools = context.new_cdp_session(page)
    kept = "file_systems,indexeddb,local_storage,service_workers"
    devtools.send("Storage.clearDataForOrigin", {"origin": address, "storageTypes": kept})
    devtools.detach()
    return page


_copies = itertools.count(1)


def copied(laid_out: Path, data: Path) -> None:
    """The demo for one more server at the same address. Its edits get numbers that no other such
    server gave: browsers keep what they fetched by the number of a state for good."""
    shutil.copytree(laid_out, data)
    with closing(sqlite3.connect(data / "airtrim.db")) as database, database:
        names = [row[1] for row in database.execute("PRAGMA table_info(edit)") if row[1] != "id"]
        others = ", ".join(names)
        database.execute(
            f"INSERT INTO edit (id, {others}) SELECT ?, {others} FROM edit ORDER BY id LIMIT 1",
            (10_000 * next(_copies),),
        )


@pytest.fixture(scope="session")
def address_port() -> int:
    """Where servers of tests come one after another: not among the ports that machines give away
    by themselves, nor where other workers have theirs."""
    worker = os.environ.get("PYTEST_XDIST_WORKER", "gw0")
    return 21_000 + int(worker.removeprefix("gw"))


@pytest.fixture(scope="session")
def looked_at(tmp_path_factory: pytest.TempPathFactory, laid_out: Path) -> Iterator[Server]:
    """The server of all tests that change nothing."""
    data = tmp_path_factory.mktemp("looked-at") / "data"
    shutil.copytree(laid_out, data)
    server = ForkedServer(data)
    yield server
    server.stop()


@pytest.fixture
def environment(request: pytest.FixtureRequest) -> dict[str, str]:
    """What a fresh server is told besides."""
    return getattr(request, "param", {})


@pytest.fixture
def server(
    request: pytest.FixtureRequest,
    tmp_path: Path,
    laid_out: Path,
    address_port: int,
    environment: dict[str, str],
) -> Iterator[Server]:
    """A server with the demo on its shelf as episode 1: a fresh one, unless the test is marked
    as one that only looks."""
    if request.node.get_closest_marker("only_looks"):
        yield request.getfixturevalue("looked_at")
        return
    copied(laid_out, tmp_path / "data")
    server = ForkedServer(tmp_path / "data", port=address_port, **environment)
    yield server
    server.stop()


@pytest.fixture
def page(shared: Shared, server: Server) -> Iterator[Page]:
    """A page at 1280 × 800; any error in its console fails the test."""
    context = shared(server.address)
    page = fresh_page(context, server.address)
    problems: list[str] = []
    # Refusals, and that the disk is full, are told to the host.
    expected = ("responded with a status of 4", "responded with a status of 507")
    page.on(
        "console",
        lambda m: (
            problems.append(m.text)
            if m.type == "error" and not any(e in m.text for e in expected)
            else None
        ),
    )
    page.on("pageerror", lambda error: problems.append(str(error)))
    foreign: list[str] = []
    page.on("request", lambda r: None if local(r.url, server) else foreign.append(r.url))
    yield page
    for one in context.pages[1:]:
        one.close()
    if server.killed:  # then the browser complains, and so it should
        problems = [problem for problem in problems if "net::ERR_" not in problem]
    if any("status of 5" in problem for problem in problems):
        problems += log_of(server.data).read_text().splitlines()[-60:]
    assert problems == []
    assert foreign == [], "something was fetched from elsewhere"


def local(url: str, server: Server) -> bool:
    return url.startswith((server.address, "data:", "blob:", "file:"))
