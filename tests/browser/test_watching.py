"""Playback: scrubbing, stepping, looping; the dials and the list of shortcuts."""

import itertools
from typing import Any

import httpx
import pytest
from playwright.sync_api import Page, Response, expect

from tests.browser.bench_page import BenchPage, number_of
from tests.browser.test_shaping import cut_of


def shown_frame(page: Page) -> int:
    return int(page.get_by_test_id("picture").get_attribute("data-shown") or "")


def test_frames_are_scrubbed_and_stepped_within_the_run_up(
    page: Page, address: str, demo: dict[str, Any], api: httpx.Client
) -> None:
    cut = cut_of(api, demo, 1)
    bench = BenchPage(page, address, cut["id"])
    strip = page.get_by_test_id("strip").bounding_box()
    assert strip is not None
    cell = strip["width"] / (cut["before"] + cut["after"])
    middle, y = strip["x"] + strip["width"] / 2, strip["y"] + strip["height"] / 2
    page.mouse.move(middle + 2.5 * cell, y)
    page.mouse.down()
    assert shown_frame(page) == 2
    page.mouse.move(middle - 1.5 * cell, y, steps=6)
    page.mouse.up()
    assert shown_frame(page) == -2
    bench.wait_for_newest()
    for key, frame in (("ArrowRight", -1), ("Shift+ArrowRight", 4), ("0", 0), ("ArrowLeft", -1)):
        page.keyboard.press(key)
        assert shown_frame(page) == frame
    output = page.get_by_role("status", name="Shown frame")
    expect(output).to_contain_text("−1")
    page.keyboard.press("End")
    assert shown_frame(page) == cut["after"] - 1
    for _ in range(12):
        page.keyboard.press("Shift+ArrowRight")
    last = shown_frame(page)
    assert cut["after"] - 1 < last <= cut["after"] + 11
    expect(page.get_by_text("Run-up: outside the window")).to_be_visible()


def test_the_loop_shows_the_window_and_its_run_up_in_order(
    page: Page, address: str, demo: dict[str, Any], api: httpx.Client
) -> None:
    """At half speed no frame is skipped, even on a slow machine."""
    cut = cut_of(api, demo, 1)
    bench = BenchPage(page, address, cut["id"])
    bench.wait_for_newest()
    page.evaluate(
        """() => {
            const picture = document.querySelector('[data-testid=picture]');
            window.seen = [Number(picture.dataset.shown)];
            new MutationObserver(() => seen.push(Number(picture.dataset.shown)))
                .observe(picture, { attributes: true, attributeFilter: ['data-shown'] });
        }"""
    )
    # A button that was pressed by the pointer does not keep the space bar to itself.
    page.get_by_role("button", name="Speed ½").click()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.wait_for_function("() => seen.length > 20 && seen.includes(Math.min(...seen) + 1)")
    page.keyboard.press("Space")
    seen = page.evaluate("() => seen")
    stopped = shown_frame(page)
    assert seen[-1] == stopped
    first, last = min(seen), max(seen)
    assert -cut["before"] - 12 <= first
    assert last <= cut["after"] + 11
    backwards = sum(one > other for one, other in itertools.pairwise(seen))
    assert backwards <= len(seen) / (cut["before"] + cut["after"]) + 1


def test_the_loop_is_played_backward_and_stopped_by_keys(
    page: Page, address: str, demo: dict[str, Any], api: httpx.Client
) -> None:
    bench = BenchPage(page, address, cut_of(api, demo, 1)["id"])
    bench.wait_for_newest()
    page.keyboard.press("j")
    page.wait_for_function(
        "() => Number(document.querySelector('[data-testid=picture]').dataset.shown) < -2"
    )
    page.keyboard.press("k")
    expect(page.get_by_role("button", name="Play loop")).to_be_visible()
    stopped = shown_frame(page)
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.wait_for_function(
        f"() => Number(document.querySelector('[data-testid=picture]').dataset.shown) > {stopped}"
    )
    page.keyboard.press("k")


def is_save(response: Response) -> bool:
    return response.request.method == "PUT" and "/api/cuts/" in response.url


def test_the_dials_adjust_the_whole_transition_and_flips_mirror_it(
    page: Page, address: str, demo: dict[str, Any], api: httpx.Client
) -> None:
    BenchPage(page, address, demo["cuts"][1]["id"])
    before = cut_of(api, demo, 1)["recipe"]
    strength = page.get_by_label("Strength", exact=True)

    def adjusted(percent: str) -> dict[str, Any]:
        strength.fill(percent)
        with page.expect_response(is_save):
            strength.press("Enter")
        return cut_of(api, demo, 1)["recipe"]

    def flipped() -> dict[str, Any]:
        with page.expect_response(is_save):
            page.get_by_role("button", name="Flip vertically").click()
        return cut_of(api, demo, 1)["recipe"]

    assert adjusted("200") != before
    # The dial adjusts the recipe as it was before: 100 % gives it back.
    assert adjusted("100")["filters"] == before["filters"]
    assert flipped()["filters"] != before["filters"]
    assert flipped()["filters"] == before["filters"]


def test_the_window_is_counted_in_seconds_on_every_cut_once_chosen(
    page: Page, address: str, demo: dict[str, Any], api: httpx.Client
) -> None:
    cut = cut_of(api, demo, 2)
    bench = BenchPage(page, address, cut["id"])
    page.get_by_label("Unit of the window").first.select_option("seconds")
    field = page.get_by_label("Seconds before the cut")
    assert number_of(field) == pytest.approx(cut["before"] / 25, abs=0.011)
    field.fill("0.24")
    field.press("Enter")
    bench.wait_saved()
    assert cut_of(api, demo, 2)["before"] == 6
    page.keyboard.press("Escape")
    page.goto(f"{address}/cuts/{demo['cuts'][3]['id']}")
    expect(page.get_by_label("Seconds before the cut")).to_be_visible()
    page.get_by_label("Unit of the window").first.select_option("frames")
    expect(page.get_by_label("Frames before the cut")).to_be_visible()


def test_a_question_mark_lists_the_shortcuts(
    page: Page, address: str, demo: dict[str, Any]
) -> None:
    BenchPage(page, address, demo["cuts"][0]["id"])
    page.keyboard.press("?")
    keys = page.get_by_role("dialog")
    for text in ("Play or stop the loop", "Previous cut", "Show the original while held"):
        expect(keys.get_by_text(text)).to_be_visible()
    page.keyboard.press("Escape")
    expect(keys).to_be_hidden()
