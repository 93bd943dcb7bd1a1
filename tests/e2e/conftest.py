"""A server and a page for each walk."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Error, Page, Playwright, expect, sync_playwright

from e2e.driver import Server, chromium, lent_page, running_server

# Patient, for machines that are busy with other tests at the same time.
expect.set_options(timeout=30_000)


@pytest.fixture(scope="session")
def driving() -> Iterator[Playwright]:
    """What drives every browser: there can be one in a process only."""
    with sync_playwright() as playwright:
        yield playwright


@pytest.fixture(scope="session")
def running_chromium(driving: Playwright) -> Iterator[Browser]:
    with chromium(driving) as running:
        yield running


@pytest.fixture
def server() -> Iterator[Server]:
    with running_server() as running:
        yield running


@pytest.fixture
def page(running_chromium: Browser) -> Iterator[Page]:
    """A page on which any uncaught error fails the test."""
    faults: list[str] = []

    def met(error: Error) -> None:
        faults.append(str(error))

    with lent_page(running_chromium) as page:
        page.on("pageerror", met)
        yield page
        page.remove_listener("pageerror", met)
    assert faults == []
