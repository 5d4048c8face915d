"""A subject in the browser: marked by pointer and by keys, shown, limited to regions, rendered."""

import re
from typing import Any

import httpx
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.bench_page import BenchPage

MAKING_MS = 240_000
EARLIER = {"frame": 0, "box": [0.2, 0.1, 0.9, 0.9]}


def strokes(api: httpx.Client, cut: str, side: str) -> list[dict[str, Any]]:
    return api.get(f"/api/cuts/{cut}/subject/{side}").json()["strokes"]


def opened(page: Page, side: str) -> Locator:
    page.get_by_role("button", name=re.compile(f"subject of the {side} clip")).click()
    return page.get_by_role("dialog", name=re.compile("^Subject of"))


def drawn(page: Page, canvas: Locator, *points: tuple[float, float]) -> None:
    box = canvas.bounding_box()
    assert box is not None
    at = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in points]
    page.mouse.move(*at[0])
    page.mouse.down()
    for place in at[1:]:
        page.mouse.move(*place, steps=4)
    page.mouse.up()


def test_a_subject_is_marked_by_pointer_undone_and_flies_in_first(
    page: Page, api: httpx.Client, address: str, small_edit: dict[str, Any]
) -> None:
    cut = small_edit["cuts"][0]["id"]
    api.put(f"/api/cuts/{cut}/subject/incoming", json={"strokes": [EARLIER]}).raise_for_status()
    bench = BenchPage(page, address, cut)
    panel = opened(page, "incoming")
    expect(panel.get_by_role("button", name="Frame 0")).to_have_count(0)
    panel.get_by_role("button", name="Clear frame").click()
    expect(panel.get_by_text("Drag a box around the subject")).to_be_visible()
    canvas = panel.get_by_role("application")
    panel.get_by_role("button", name="Box", exact=True).click()
    drawn(page, canvas, (0.3, 0.02), (0.85, 0.99))
    # After the box comes the line through it.
    expect(panel.get_by_role("button", name="Keep", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    drawn(page, canvas, (0.5, 0.3), (0.55, 0.6), (0.5, 0.9))
    panel.get_by_role("button", name="Remove", exact=True).click()
    drawn(page, canvas, (0.1, 0.2), (0.15, 0.7))
    panel.get_by_role("button", name="Undo").click()
    bench.wait_saved()
    (saved,) = strokes(api, cut, "incoming")
    assert (len(saved["keep"]), len(saved["remove"])) == (1, 0)
    assert saved["box"][0] == 0.3
    looked: list[str] = []
    page.on("request", lambda sent: looked.append(sent.url) if sent.url.endswith("/look") else None)
    expect(panel.get_by_text("Ready for")).to_be_visible(timeout=MAKING_MS)
    # The picture is asked for again as the matte changes its state, not with every report of how far it is.
    assert len(looked) <= 4
    page.keyboard.press("Escape")
    page.keyboard.press("r")
    page.get_by_role("dialog").get_by_role("button", name="Apply Subject first").click()
    expect(page.get_by_role("article", name="Subject", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Subject: ok")).to_be_visible()
    bench.wait_for_strip()
    page.keyboard.press("0")
    bench.wait_for_newest()
    with_subject = bench.pixels()
    page.get_by_role("article", name="Subject", exact=True).locator("button.name").click()
    page.get_by_role("button", name="Remove", exact=True).click()
    bench.wait_for_newest()
    assert bench.pixels() != with_subject
    # What acted on the subject acts on both clips again.
    bench.wait_saved()
    sides = [each["side"] for each in api.get(f"/api/cuts/{cut}").json()["recipe"]["filters"]]
    assert set(sides) == {"across"}


def test_a_subject_is_marked_by_keys_alone(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    cut = own_demo["cuts"][4]["id"]
    bench = BenchPage(page, address, cut)
    page.get_by_role("button", name="Mark…: subject of the outgoing clip").focus()
    page.keyboard.press("Enter")
    panel = page.get_by_role("dialog", name=re.compile("^Subject of"))
    canvas = panel.get_by_role("application")
    expect(canvas).to_be_focused()
    # A line from the middle to the left, with a thicker brush, one frame earlier.
    for key in ("PageUp", "2", "=", "=", "Space", "Shift+ArrowLeft", "Shift+ArrowLeft", "Space"):
        page.keyboard.press(key)
    bench.wait_saved()
    (saved,) = strokes(api, cut, "outgoing")
    (line,) = saved["keep"]
    assert line[0] == [0.5, 0.5]
    assert line[-1][0] < 0.46
    assert saved["keep_sizes"] == [0.04]
    page.keyboard.press("Control+z")
    expect(panel.get_by_role("button", name="Redo")).to_be_enabled()
    bench.wait_saved()
    assert strokes(api, cut, "outgoing") == []
    page.keyboard.press("Escape")
    expect(panel).to_be_hidden()


def test_a_filter_acts_in_a_region_that_is_moved_on_the_picture(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    cut = own_demo["cuts"][1]["id"]
    bench = BenchPage(page, address, cut)
    bench.add_filter("Gaussian blur")
    lane = bench.lane("Gaussian blur")
    bench.wait_for_newest()
    everywhere = bench.pixels()
    lane.get_by_label("Region of gaussian blur").select_option(label="Ellipse")
    bench.wait_for_newest()
    assert bench.pixels() != everywhere
    bench.drag(page.locator('[data-handle="region-centre"]'), 60, -30)
    page.locator('[data-handle="region-size"]').press("ArrowRight")
    bench.wait_saved()
    region = api.get(f"/api/cuts/{cut}").json()["recipe"]["filters"][-1]["region"]
    assert region["kind"] == "ellipse"
    assert region["centre"][0] > 0.55
    assert region["centre"][1] < 0.48
    assert region["size"][0] == 0.51
    # With keyframes each frame has its own place, and none takes away another.
    animation = lane.get_by_label("Gaussian blur region: animation of the centre")
    animation.select_option("keyframes")
    animation.blur()
    page.keyboard.press("Home")
    bench.drag(page.locator('[data-handle="region-centre"]'), -40, 0)
    bench.wait_saved()
    centre = api.get(f"/api/cuts/{cut}").json()["recipe"]["filters"][-1]["region"]["centre"]
    first, last = (each["value"] for each in centre["keyframes"])
    assert first[0] < last[0] == pytest.approx(region["centre"][0])
    lane.get_by_label("Gaussian blur region: act outside of it").check()
    bench.wait_saved()
    region = api.get(f"/api/cuts/{cut}").json()["recipe"]["filters"][-1]["region"]
    assert region["invert"] is True


def test_a_recipe_on_an_unmarked_clip_says_what_to_do(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    BenchPage(page, address, own_demo["cuts"][5]["id"])
    page.get_by_role("button", name="Add subject").click()
    lane = page.get_by_role("article", name="Subject", exact=True)
    expect(lane).to_contain_text("not marked yet")
    page.get_by_role("button", name="Subject: failed").click()
    expect(page.get_by_role("dialog", name="Check: Subject")).to_contain_text(
        "mark it with strokes"
    )
