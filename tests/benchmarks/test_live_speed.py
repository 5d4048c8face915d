"""The bench in the browser, on the demo edit: dragging, strip, loop, opening, recipe book."""

# Fixtures are arguments of the name under which they are imported.
# ruff: noqa: F811

import statistics
from typing import Any

from playwright.sync_api import Page, expect

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


def test_dragging(page: Page, address: str, demo: dict[str, Any], report: Any) -> None:
    bench = BenchPage(page, address, demo["cuts"][3]["id"])
    for name in ("vignette", "grade"):
        bench.add_filter(name)
        bench.wait_saved()
        expect(page.get_by_role("dialog")).to_be_hidden()
    page.keyboard.press("0")
    page.keyboard.press("2")
    bench.wait_saved()
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
    report(
        "drag, event to picture, four filters and a dissolve at 640x360",
        f"median {statistics.median(delays):.0f} ms (goal 60), 95th {late:.0f} ms (goal 120),"
        f" {len(delays)} pictures",
    )


def test_the_strip_after_a_change(
    page: Page, address: str, demo: dict[str, Any], report: Any
) -> None:
    """From one changed value to the last of 20 frames in the strip."""
    bench = BenchPage(page, address, demo["cuts"][0]["id"])
    page.keyboard.press("1")
    bench.wait_for_newest()
    page.wait_for_timeout(1500)
    took = page.evaluate(
        """async () => {
            const strip = document.querySelector('[data-testid=strip]');
            const field = document.querySelector('article.open .right input[aria-label$="Radius"]');
            const [first, asked] = [Number(strip.dataset.thumbs), performance.now()];
            field.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true }));
            while (Number(strip.dataset.thumbs) < first + 20)
                await new Promise(requestAnimationFrame);
            return performance.now() - asked;
        }"""
    )
    report("a changed value, to the whole strip of 20 frames", f"{took / 1000:.2f} s (goal 0.5)")


def test_the_loop_holds_its_rate(
    page: Page, address: str, demo: dict[str, Any], report: Any
) -> None:
    """How many frames of the loop were shown, fresh, of those that came by in four seconds."""
    for frames in (20, 120):
        bench = BenchPage(page, address, demo["cuts"][3]["id"])
        if frames == 120:
            page.get_by_label("Duration", exact=True).fill("120")
            page.keyboard.press("Enter")
            bench.wait_saved()
        page.locator("body").click(position={"x": 640, "y": 60})
        page.keyboard.press(" ")
        page.wait_for_timeout(12_000 if frames == 120 else 4000)
        shown, passed = page.evaluate(
            """async () => {
                const canvas = document.querySelector('[data-testid=picture]');
                const seen = [];
                const watch = new MutationObserver(() => seen.push(canvas.dataset.shown));
                watch.observe(canvas, { attributes: true, attributeFilter: ['data-shown'] });
                const started = performance.now();
                await new Promise((done) => setTimeout(done, 4000));
                watch.disconnect();
                return [seen.length, ((performance.now() - started) / 1000) * 25];
            }"""
        )
        page.keyboard.press(" ")
        report(
            f"loop of {frames} frames and its run-up, at 25 a second",
            f"{shown} of {passed:.0f} frames shown (goal: all)",
        )


def test_opening(page: Page, address: str, demo: dict[str, Any], report: Any) -> None:
    """Cuts whose clips were not looked at before, by address and by key."""
    page.goto(address)
    page.goto(f"{address}/cuts/{demo['cuts'][0]['id']}")
    shown = "() => Number(document.querySelector('[data-testid=picture]')?.dataset.shownId) > 0"
    page.wait_for_function(shown)
    loaded = page.evaluate("() => performance.now()") / 1000
    report("page load to the first picture", f"{loaded:.2f} s (goal 1.5)")
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
        report(f"cut {place + 1}, opened by key to the full strip", f"{took:.2f} s (goal 1)")


def test_the_book(page: Page, address: str, demo: dict[str, Any], report: Any) -> None:
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
    report("recipe book, first frames of every card in sight", f"{took / 1000:.2f} s (goal 1)")


def test_sharpening(page: Page, address: str, demo: dict[str, Any], report: Any) -> None:
    """From the last of some changed values to the sharp picture, in a large picture area."""
    page.set_viewport_size({"width": 1920, "height": 1080})
    bench = BenchPage(page, address, demo["cuts"][4]["id"])
    page.keyboard.press("f")
    sharp = "() => Number(document.querySelector('[data-testid=picture]').dataset.width) >= 1280"
    page.wait_for_function(sharp)
    bench.wait_for_newest()
    page.wait_for_timeout(1500)
    took = []
    for n in range(10):
        page.keyboard.press("ArrowRight" if n % 2 else "ArrowLeft")
        took.append(
            page.evaluate(
                """async () => {
                    const canvas = document.querySelector('[data-testid=picture]');
                    const [asked, was] = [performance.now(), canvas.dataset.shown];
                    while (canvas.dataset.shown === was || Number(canvas.dataset.width) < 1280)
                        await new Promise(requestAnimationFrame);
                    return performance.now() - asked;
                }"""
            )
        )
        page.wait_for_timeout(300)
    report(
        "another frame, to its sharp picture of 1280x720",
        f"median {statistics.median(took):.0f} ms, longest {max(took):.0f} ms (goal 300)",
    )


def test_a_changed_value_sharpens(
    page: Page, address: str, demo: dict[str, Any], report: Any
) -> None:
    """From a changed value, after which the hand rests, to the sharp picture."""
    page.set_viewport_size({"width": 1920, "height": 1080})
    bench = BenchPage(page, address, demo["cuts"][4]["id"])
    page.wait_for_function(
        "() => Number(document.querySelector('[data-testid=picture]').dataset.width) >= 960"
    )
    bench.wait_for_newest()
    took = []
    for n in range(10):
        page.wait_for_timeout(1200)
        took.append(
            page.evaluate(
                """async (key) => {
                    const canvas = document.querySelector('[data-testid=picture]');
                    const field = document.querySelector('input[aria-label=Strength]');
                    const [asked, was] = [performance.now(), Number(canvas.dataset.askedId)];
                    field.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
                    while (Number(canvas.dataset.shownId) <= was || Number(canvas.dataset.width) < 960)
                        await new Promise(requestAnimationFrame);
                    return performance.now() - asked;
                }""",
                "ArrowDown" if n % 2 else "ArrowUp",
            )
        )
    report(
        "a changed value, to the sharp picture",
        f"median {statistics.median(took):.0f} ms, longest {max(took):.0f} ms (goal 300)",
    )


def test_the_large_view(page: Page, address: str, demo: dict[str, Any], report: Any) -> None:
    """The loop of a transition with four filters that fills the screen, once every frame is ready."""
    page.set_viewport_size({"width": 1920, "height": 1080})
    bench = BenchPage(page, address, demo["cuts"][3]["id"])
    for name in ("vignette", "grade"):
        bench.add_filter(name)
        bench.wait_saved()
        expect(page.get_by_role("dialog")).to_be_hidden()
    page.locator("body").click(position={"x": 640, "y": 60})
    page.evaluate("() => (window.asked = performance.now())")
    page.keyboard.press("f")
    page.keyboard.press(" ")
    page.wait_for_function(
        "() => Number(document.querySelector('[data-testid=picture]').dataset.width) >= 1280",
        timeout=60_000,
    )
    ready = page.evaluate("() => performance.now() - window.asked") / 1000
    shown, passed = page.evaluate(
        """async () => {
            const canvas = document.querySelector('[data-testid=picture]');
            const seen = [];
            const watch = new MutationObserver(() =>
                Number(canvas.dataset.width) >= 1280 && seen.push(canvas.dataset.shown));
            watch.observe(canvas, { attributes: true, attributeFilter: ['data-shown'] });
            const started = performance.now();
            await new Promise((done) => setTimeout(done, 4000));
            watch.disconnect();
            return [seen.length, ((performance.now() - started) / 1000) * 25];
        }"""
    )
    report(
        "large view at 1280x720, four filters and a dissolve, at 25 a second",
        f"{shown} of {passed:.0f} frames shown (goal: all), every frame ready after {ready:.1f} s",
    )
