"""Work on the bench: curves, variants, history, copies, the keyboard alone."""

import math
import re
from typing import Any

import httpx
import pytest
from playwright.sync_api import Page, expect

from tests.browser.bench_page import COLD_START_MS, BenchPage


def cut_of(api: httpx.Client, demo: dict[str, Any], place: int) -> dict[str, Any]:
    return api.get(f"/api/cuts/{demo['cuts'][place]['id']}").json()


def test_a_whip_from_nothing_with_the_keyboard_alone(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][6]["id"])
    keys = page.keyboard
    for _ in range(2):
        keys.press("1")
        keys.press("Delete")
    bench.add_filter("roll")
    bench.wait_for_newest()
    # Into the fields: horizontally by one whole frame, not vertically.
    lane = bench.lane("Roll")
    lane.get_by_label("Roll: Horizontal").focus()
    keys.press("ArrowUp")
    lane.get_by_label("Roll: Vertical").focus()
    keys.press("Control+a")
    keys.type("0")
    keys.press("Enter")
    bench.add_filter("directional")
    bench.wait_saved()
    expect(page.get_by_role("dialog")).to_be_hidden()
    keys.press("Enter")
    focused = "document.activeElement.closest('article').dataset.filter"
    assert page.evaluate(focused) == "directional_blur"
    page.get_by_label("Animation of Length").focus()
    keys.type("Follow")
    keys.press("Escape")
    bench.wait_saved()
    filters = cut_of(api, demo, 6)["recipe"]["filters"]
    assert [each["kind"] for each in filters] == ["roll", "directional_blur"]
    assert abs(filters[0]["x"]["amount"]) == 1
    assert filters[0]["y"]["amount"] == 0
    assert filters[1]["length"]["kind"] == "follow"
    expect(page.get_by_role("button", name="Landing: ok")).to_be_visible()


def test_keyframes_are_added_dragged_typed_and_deleted(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][0]["id"])
    page.keyboard.press("1")
    lane = bench.lane("Gaussian blur")
    page.get_by_label("Animation of Radius").select_option("keyframes")
    bench.drag(lane.locator("[data-handle=keyframe-2]"), 0, 40)
    bench.wait_for_newest()
    bench.wait_saved()
    dragged = cut_of(api, demo, 0)["recipe"]["filters"][0]["radius"]["keyframes"]
    assert len(dragged) == 3
    assert 0 < dragged[1]["value"] < 0.05
    # A double click adds a keyframe; its value is typed, and it is deleted again.
    curve = lane.get_by_label("Curve of Gaussian blur radius")
    box = curve.bounding_box()
    assert box is not None
    curve.dblclick(position={"x": box["width"] * 0.25, "y": box["height"] * 0.5})
    bench.wait_saved()
    keys = cut_of(api, demo, 0)["recipe"]["filters"][0]["radius"]["keyframes"]
    # On the frame that was pointed at.
    before = cut_of(api, demo, 0)["before"]
    pointed = (math.floor(-0.5 * before) + 0.5) / before
    assert [each["at"] for each in keys] == pytest.approx([-1, pointed, 0, 1])
    lane.locator("[data-handle=keyframe-2]").focus()
    page.get_by_label("Value of keyframe 2").fill("3.5")
    page.keyboard.press("Enter")
    bench.wait_saved()
    typed = cut_of(api, demo, 0)["recipe"]["filters"][0]["radius"]["keyframes"]
    assert typed[1]["value"] == pytest.approx(0.035)
    lane.locator("[data-handle=keyframe-2]").press("Delete")
    bench.wait_saved()
    assert len(cut_of(api, demo, 0)["recipe"]["filters"][0]["radius"]["keyframes"]) == 3


def test_an_easing_is_bent_by_its_handle_and_mirrored(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][1]["id"])
    page.keyboard.press("1")
    lane = bench.lane("Directional blur")
    bench.drag(lane.locator("[data-handle=rise-bend-1]"), 60, -30)
    bench.wait_saved()
    bent = cut_of(api, demo, 1)["recipe"]["filters"][0]["length"]
    x1, y1, x2, y2 = (float(part) for part in bent["rise"][13:-1].split(","))
    assert x1 > 0.42
    assert y1 > 0.1
    assert bent["fall"] == "ease-out"
    lane.get_by_role("button", name="Mirror").click()
    expect(lane.get_by_role("button", name="Ease out: fall")).to_have_count(0)
    bench.wait_saved()
    fall = cut_of(api, demo, 1)["recipe"]["filters"][0]["length"]["fall"]
    mirrored = [float(part) for part in fall[13:-1].split(",")]
    assert mirrored == pytest.approx([1 - x2, 1 - y2, 1 - x1, 1 - y1], abs=2e-3)


def test_variants_are_pinned_compared_and_used(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][2]["id"])
    page.get_by_role("button", name="Pin variant").click()
    page.keyboard.press("2")
    page.keyboard.press("e")
    bench.wait_for_newest()
    page.get_by_role("button", name="A: compare with this variant").click()
    beside = page.get_by_test_id("beside")
    page.keyboard.press("0")
    page.wait_for_function(
        """() => {
            const seen = (id) => {
                const small = new OffscreenCanvas(16, 9).getContext('2d');
                small.drawImage(document.querySelector(`[data-testid=${id}]`), 0, 0, 16, 9);
                return [...small.getImageData(0, 0, 16, 9).data];
            };
            const [one, other] = [seen('picture'), seen('beside')];
            return other.some((v, n) => n % 4 < 3 && v > 0)
                && one.some((v, n) => Math.abs(v - other[n]) > 8);
        }"""
    )
    page.keyboard.press("ArrowRight")
    expect(beside).to_have_attribute("aria-label", "Frame 1 of variant A")
    page.get_by_role("button", name="Use A").click()
    bench.wait_saved()
    saved = cut_of(api, demo, 2)
    assert saved["undo_label"] == "Use variant A"
    assert all(each["enabled"] for each in saved["recipe"]["filters"])
    page.reload()
    expect(page.get_by_role("button", name="A: compare with this variant")).to_be_visible()


def test_twenty_steps_are_undone_across_a_reload_by_the_history(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][4]["id"])
    first = cut_of(api, demo, 4)
    field = page.get_by_label("Frames before the cut")
    for count in range(20):
        field.press("ArrowUp" if count % 2 == 0 else "ArrowDown")
        bench.wait_saved()
    page.reload()
    bench.wait_for_strip()
    page.get_by_role("button", name="History").click()
    steps = page.get_by_role("dialog", name="History of this cut").get_by_role("button")
    before, after = first["before"], first["after"]
    expect(steps.first).to_contain_text(f"Window {before + 1} | {after} → {before} | {after}")
    page.get_by_role("button", name="History").click()
    # As fast as keys repeat: each waits for the one before.
    for _ in range(20):
        page.keyboard.press("Control+z")
    undo = page.get_by_role("button", name="Undo")
    expect(undo).to_have_attribute(
        "aria-description",
        f"Undo: {first['undo_label']}" if first["undo_label"] else "Nothing to undo",
        timeout=COLD_START_MS,
    )
    back = cut_of(api, demo, 4)
    assert (back["before"], back["recipe"]) == (before, first["recipe"])


def test_a_filter_is_copied_to_another_cut(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    BenchPage(page, address, demo["cuts"][3]["id"])
    page.keyboard.press("2")
    page.keyboard.press("Control+c")
    bench = BenchPage(page, address, demo["cuts"][4]["id"])
    had = len(cut_of(api, demo, 4)["recipe"]["filters"])
    page.keyboard.press("Control+v")
    bench.wait_saved()
    filters = cut_of(api, demo, 4)["recipe"]["filters"]
    copied = next(each for each in filters if each["kind"] == "directional_blur")
    assert len(filters) == had + 1
    original = cut_of(api, demo, 3)["recipe"]["filters"][1]
    assert copied["length"] == original["length"]


def test_two_windows_on_one_cut_lose_nothing(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    cut = demo["cuts"][5]["id"]
    bench = BenchPage(page, address, cut)
    other = page.context.new_page()
    theirs = BenchPage(other, address, cut)
    other.get_by_label("Frames after the cut").press("ArrowUp")
    theirs.wait_saved()
    page.get_by_label("Frames before the cut").press("ArrowDown")
    mine = page.get_by_label("Frames before the cut").input_value()
    page.get_by_role("button", name="Load their version").click()
    bench.wait_saved()
    after = other.get_by_label("Frames after the cut").input_value()
    expect(page.get_by_label("Frames after the cut")).to_have_value(after)
    # The changes made here are a variant now.
    kept = api.get(f"/api/cuts/{cut}/variants").json()
    assert str(kept[-1]["before"]) == mine
    other.close()


def test_a_speed_ramp_shows_the_spare_frames_that_it_uses(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][1]["id"])
    page.get_by_label("Normal: speed of the outgoing clip").click()
    page.get_by_label("Speed of the outgoing clip at the cut").fill("300")
    page.keyboard.press("Enter")
    page.get_by_label("Frame interpolation of the outgoing clip").select_option("blend")
    bench.wait_saved()
    saved = cut_of(api, demo, 1)["recipe"]["retime"]["outgoing"]
    assert (saved["speed"]["peak"], saved["sampling"]) == (3, "blend")
    expect(
        page.get_by_label(re.compile(r"^300 % · \+.*: speed of the outgoing clip"))
    ).to_be_visible()
    # What it costs is said with the far end that pays for it, or with the length of the edit.
    card = page.get_by_role("dialog", name="Speed of the outgoing clip")
    expect(
        card.get_by_text(re.compile(r"Uses \d+ of \d+ frames before the in point"))
    ).to_be_visible()
    page.get_by_label("Cut times of the outgoing clip").first.select_option("ripple")
    expect(card.get_by_text(re.compile(r"Makes the edit \d+ frames shorter"))).to_be_visible()
    bench.wait_saved()
    assert cut_of(api, demo, 1)["recipe"]["retime"]["outgoing"]["in_edit"] == "ripple"


def test_a_clip_is_framed_over_the_other_cut_frame(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][5]["id"])
    page.get_by_label("Original: framing of the incoming clip").click()
    expect(page.get_by_text("Framing of ")).to_be_visible()
    before = bench.pixels()
    page.get_by_label("Framing of the incoming clip: Scale").fill("150")
    page.keyboard.press("Enter")
    expect(page.get_by_label("150 %: framing of the incoming clip")).to_be_visible()
    page.wait_for_function(
        """(before) => {
            const small = new OffscreenCanvas(16, 9).getContext('2d');
            small.drawImage(document.querySelector('[data-testid=picture]'), 0, 0, 16, 9);
            return small.getImageData(0, 0, 16, 9).data.some((v, n) => v !== before[n]);
        }""",
        arg=before,
    )
    page.get_by_role("button", name="Match colours").click()
    expect(page.get_by_label("150 %, colours: framing of the incoming clip")).to_be_visible()
    bench.wait_saved()
    page.reload()
    expect(page.get_by_label("150 %, colours: framing of the incoming clip")).to_be_visible()


def test_a_clip_is_framed_by_its_box_on_the_picture(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][5]["id"])
    page.get_by_label("Original: framing of the outgoing clip").click()
    # A press on the picture closes the panel, and the box stays to be dragged.
    place = page.locator('[data-drag="box-position"]')
    width = page.locator(".over").evaluate("over => over.clientWidth")
    bench.drag(place, width / 10, 0)
    expect(page.get_by_role("dialog", name="Framing of the outgoing clip")).to_be_hidden()
    page.locator('[data-handle="box-turn"]').press("ArrowLeft")
    expect(page.get_by_label("1°, moved: framing of the outgoing clip")).to_be_visible()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("button", name="Done")).to_have_count(0)
    bench.wait_saved()
    framing = cut_of(api, own_demo, 5)["outgoing"]["framing"]
    assert framing["x"] == pytest.approx(0.1, abs=0.01)
    assert (framing["turn"], framing["scale"]) == (1, 1)


def test_a_filter_is_saved_as_a_preset_and_added_to_another_cut(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    BenchPage(page, address, own_demo["cuts"][3]["id"])
    page.keyboard.press("2")
    page.keyboard.press("n")
    page.get_by_role("button", name="Save directional blur as a preset…").click()
    page.get_by_label("Name of the preset").fill("Quay streak")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Saved the preset “Quay streak”")).to_be_visible()
    bench = BenchPage(page, address, own_demo["cuts"][4]["id"])
    had = len(cut_of(api, own_demo, 4)["recipe"]["filters"])
    page.keyboard.press("n")
    page.get_by_label("Search filters").fill("quay str")
    expect(page.get_by_role("button", name="Quay streak Directional blur")).to_be_visible()
    page.keyboard.press("Enter")
    expect(bench.lane("Quay streak")).to_be_visible()
    bench.wait_saved()
    filters = cut_of(api, own_demo, 4)["recipe"]["filters"]
    added = next(each for each in filters if each.get("name") == "Quay streak")
    assert (len(filters), added["kind"]) == (had + 1, "directional_blur")
    page.keyboard.press("n")
    delete = page.get_by_role("button", name="Delete the preset Quay streak")
    delete.click()
    expect(delete).to_have_count(0)


def test_the_cut_frames_are_stepped_on_the_card_and_matched(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    BenchPage(page, address, own_demo["cuts"][2]["id"])

    def shown() -> tuple[int, int]:
        cut = cut_of(api, own_demo, 2)
        return cut["outgoing"]["out_frame"], cut["incoming"]["in_frame"]

    out_frame, in_frame = shown()
    view = page.get_by_label("View", exact=True)
    page.get_by_role("button", name="One frame earlier: last frame of the outgoing clip").click()
    expect(view).to_have_value("cut frames")
    picture = page.get_by_role("button", name="Cut frame of the incoming clip: arrow keys")
    frame = page.get_by_role("button", name=": cut frame of the incoming clip")
    before = frame.get_attribute("aria-label") or ""
    picture.focus()
    page.keyboard.press("ArrowRight")
    expect(frame).not_to_have_attribute("aria-label", before)
    assert shown() == (out_frame - 1, in_frame + 1)
    frame.click()
    page.get_by_role("button", name="Match frames").click()
    page.get_by_role("button", name=re.compile("^Use outgoing")).first.click()
    expect(page.get_by_text("The cut frames are")).to_be_visible()
