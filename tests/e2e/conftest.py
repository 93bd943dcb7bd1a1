"""One server and one browser for each walk."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import BrowserContext, Page, Playwright, expect, sync_playwright

from e2e.driver import Server, browser, running_server

# Patient, for machines that are busy with other tests at the same time.
expect.set_options(timeout=15_000)


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as running:
        yield running


@pytest.fixture
def server() -> Iterator[Server]:
    with running_server() as running:
        yield running


@pytest.fixture
def chromium(playwright: Playwright) -> Iterator[BrowserContext]:
    with browser(playwright) as context:
        yield context


@pytest.fixture
def page(chromium: BrowserContext) -> Iterator[Page]:
    """A page on which any uncaught error fails the test."""
    faults: list[str] = []
    page = chromium.pages[0]
    page.on("pageerror", lambda error: faults.append(str(error)))
    yield page
    assert faults == []
