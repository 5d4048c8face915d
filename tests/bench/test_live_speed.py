"""From the input event to the new picture, measured in the browser on the demo edit."""

import statistics
from typing import Any

from playwright.sync_api import Page

from tests.browser.bench_page import BenchPage
from tests.browser.conftest import address, api, browser, demo, page  # noqa: F401

MOVES = 60
_WATCH = """() => {
    window.delays = [];
    const canvas = document.querySelector('[data-testid=picture]');
    let waiting = null;
    addEventListener('pointermove', () => {
        queueMicrotask(() => (waiting ??= { at: performance.now(), id: Number(canvas.dataset.shownId) }));
    }, true);
    new MutationObserver(() => {
        if (waiting && Number(canvas.dataset.shownId) > waiting.id) {
            window.delays.push(performance.now() - waiting.at);
            waiting = null;
        }
    }).observe(canvas, { attributes: true });
}"""


def test_dragging(page: Page, address: str, demo: dict[str, Any], tell: Any) -> None:  # noqa: F811
    bench = BenchPage(page, address, demo["cuts"][3]["id"])
    page.keyboard.press("0")
    page.keyboard.press("2")
    handle = bench.lane("Directional blur").locator("[data-handle=peak]")
    box = handle.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(_WATCH)
    for step in range(MOVES):
        page.mouse.move(x, y + 10 + step % 40)
        page.wait_for_timeout(40)
    page.mouse.up()
    delays = sorted(page.evaluate("() => window.delays"))
    late = delays[int(0.95 * (len(delays) - 1))]
    tell(
        "drag, event to picture, three effects at 640x360",
        f"median {statistics.median(delays):.0f} ms (goal 80), 95th {late:.0f} ms, {len(delays)} pictures",
    )


def test_opening(page: Page, address: str, demo: dict[str, Any], tell: Any) -> None:  # noqa: F811
    """Cuts whose clips were not looked at before, by address and by key."""
    page.goto(address)
    page.goto(f"{address}/cuts/{demo['cuts'][0]['id']}")
    shown = "() => Number(document.querySelector('[data-testid=picture]')?.dataset.shownId) > 0"
    page.wait_for_function(shown)
    loaded = page.evaluate("() => performance.now()") / 1000
    tell("page load to the first picture", f"{loaded:.2f} s (goal 1.5)")
    for place in range(1, len(demo["cuts"])):
        cut = demo["cuts"][place]
        page.evaluate("() => (window.asked = performance.now())")
        page.keyboard.press("PageDown")
        page.wait_for_function(
            """([id, frames]) => location.pathname.endsWith(id)
                && document.querySelectorAll('svg.change rect').length === frames""",
            arg=[cut["id"], cut["before"] + cut["after"]],
        )
        took = page.evaluate("() => performance.now() - window.asked") / 1000
        tell(f"cut {place + 1}, opened by key to the full strip", f"{took:.2f} s (goal 1)")


def test_the_book(page: Page, address: str, demo: dict[str, Any], tell: Any) -> None:  # noqa: F811
    """From the key to the first frames of every card in sight, on a cut that was not opened before."""
    BenchPage(page, address, demo["cuts"][2]["id"])
    page.evaluate("() => (window.asked = performance.now())")
    page.keyboard.press("r")
    page.wait_for_function(
        """() => {
            const cards = [...document.querySelectorAll('article.card')]
                .filter((each) => each.getBoundingClientRect().top < innerHeight * 0.86);
            return cards.length > 4 && cards.every((each) => {
                const picture = each.querySelector('img');
                return picture && picture.complete && picture.naturalWidth;
            });
        }"""
    )
    took = page.evaluate("() => performance.now() - window.asked")
    tell("recipe book, first frames of every card in sight", f"{took / 1000:.2f} s (goal 1)")
