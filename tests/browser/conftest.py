"""The application with the demo edit, and a Chromium to use it with."""

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from idle_shimmer.demo.build import build_clips
from idle_shimmer.demo.load_demo import load_demo
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.settings import settings
from tests.support.clips import write_clip
from tests.support.server import empty_database, running_application

# The shell has no window to keep, and opens a page in a third of the time.
_BROWSERS = ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium")
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
BYTES = {"Content-Type": "application/octet-stream"}
# How long a busy machine may take for what usually takes a moment.
PATIENCE_MS = 60_000
expect.set_options(timeout=PATIENCE_MS)


def installed_browser() -> str:
    """The path of the browser that ``scripts/setup.sh`` has installed."""
    return next(each for each in _BROWSERS if Path(each).exists())


@pytest.fixture(scope="package")
def address() -> Iterator[str]:
    """The address of the application, with the demo edit and nothing else."""
    empty_database()
    load_demo()
    with running_application() as made:
        yield made


@pytest.fixture(scope="package")
def api(address: str) -> Iterator[httpx.Client]:
    # A kept connection may be closed by the server just as a test takes it up again.
    fresh = httpx.Limits(max_keepalive_connections=0)
    with httpx.Client(base_url=address, trust_env=False, timeout=60, limits=fresh) as client:
        yield client


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path=installed_browser(), args=ARGUMENTS)
        yield made
        made.close()
    # Playwright leaves its event loop marked as running, which stops others in this thread.
    assert threading.current_thread() is threading.main_thread()


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    """A page at 1280 by 800 that fails the test on any error of a script."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    context.set_default_timeout(PATIENCE_MS)
    made = context.new_page()
    faults: list[str] = []
    made.on("pageerror", lambda error: faults.append(str(error)))
    yield made
    context.close()
    assert not faults


@pytest.fixture
def own_demo(api: httpx.Client, demo: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """A copy of the demo edit, for tests that change what others rely on."""
    made = api.post(f"/api/edits/{demo['id']}/duplicate").json()
    yield made
    api.delete(f"/api/edits/{made['id']}")


@pytest.fixture
def small_edit(
    api: httpx.Client, tmp_path: Path, request: pytest.FixtureRequest
) -> Iterator[dict[str, Any]]:
    """Lantern rows to hoisted sail, a sixth as large and thirty pictures each: what takes long on large pictures."""
    ids = []
    for path in (build_clips(settings().demo)[2], build_clips(settings().demo)[1]):
        with VideoReader(path, (320, 180)) as reader:
            small = write_clip(
                tmp_path / path.name, [np.asarray(reader.read(n), np.uint8) for n in range(22, 52)]
            )
        answer = api.post(
            "/api/clips", params={"name": path.name}, content=small.read_bytes(), headers=BYTES
        )
        ids.append(answer.json()["id"])
    made = api.post("/api/edits", json={"name": request.node.name, "clips": ids}).json()
    yield made
    api.delete(f"/api/edits/{made['id']}")


@pytest.fixture
def demo(api: httpx.Client) -> dict[str, Any]:
    """The demo edit."""
    return edit_named(api, "Lantern night")


def edit_named(api: httpx.Client, name: str) -> dict[str, Any]:
    """The edit of that name, whole."""
    listed = next(edit for edit in api.get("/api/edits").json() if edit["name"] == name)
    found: dict[str, Any] = api.get(f"/api/edits/{listed['id']}").json()
    return found
