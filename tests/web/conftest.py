"""A browser on a server with the demo episode."""

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.serving import ForkedServer, Server, log_of

CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
    # A window's own controls are pages too, and cost more than half of what ours does; and browsers
    # on one machine are to find each other by its own addresses.
    "--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup,SpareRendererForSitePerProcess,"
    "WebRtcHideLocalIpsWithMdns",
]


# Nothing here is about how quick the machine is: bench/ is.
expect.set_options(timeout=180_000)

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


@pytest.fixture(scope="session")
def looked_at(tmp_path_factory: pytest.TempPathFactory, laid_out: Path) -> Iterator[Server]:
    """The server of all tests that change nothing."""
    data = tmp_path_factory.mktemp("looked-at") / "data"
    shutil.copytree(laid_out, data)
    server = ForkedServer(data)
    yield server
    server.stop()


@pytest.fixture
def server(request: pytest.FixtureRequest, tmp_path: Path, laid_out: Path) -> Iterator[Server]:
    """A server with the demo on its shelf as episode 1: a fresh one, unless the test is marked
    as one that only looks."""
    if request.node.get_closest_marker("only_looks"):
        yield request.getfixturevalue("looked_at")
        return
    shutil.copytree(laid_out, tmp_path / "data")
    server = ForkedServer(tmp_path / "data")
    yield server
    server.stop()


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
    """A page at 1280 × 800; any error in its console fails the test."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server.address, accept_downloads=True
    )
    context.set_default_timeout(120_000)
    page = context.new_page()
    problems: list[str] = []
    expected = ("the server responded with a status of 4",)  # refusals are told to the host
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
    context.close()
    if server.killed:  # then the browser complains, and so it should
        problems = [problem for problem in problems if "net::ERR_" not in problem]
    if any("status of 5" in problem for problem in problems):
        problems += log_of(server.data).read_text().splitlines()[-60:]
    assert problems == []
    assert foreign == [], "something was fetched from elsewhere"


def local(url: str, server: Server) -> bool:
    return url.startswith((server.address, "data:", "blob:"))
