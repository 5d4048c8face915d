"""The bench, used as an editor uses it, on the demo edit."""

import json
from pathlib import Path
from typing import Any

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.demo.build import build_clips
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.settings import settings
from idle_shimmer.transition.transition import Transition
from tests.browser.bench_page import BenchPage, number_of
from tests.conftest import code_psnr

RENDERED_DB = 33.0
# A render on a busy machine, its process started cold.
RENDER_MS = 240_000


def cut_of(api: httpx.Client, edit: dict[str, Any], place: int) -> dict[str, Any]:
    return api.get(f"/api/cuts/{edit['cuts'][place]['id']}").json()


def test_from_a_cut_to_a_rendered_file(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any], tmp_path: Path
) -> None:
    """Add a blur, drag its peak, see it, play, reload, render, download, decode."""
    page.goto(address)
    page.get_by_role("link", name=own_demo["name"], exact=True).click()
    page.get_by_role("link", name="Cut 7 Short dissolve").click()
    page.wait_for_url("**/cuts/*")
    bench = BenchPage(page, address, own_demo["cuts"][6]["id"])
    page.keyboard.press("0")
    bench.wait_for_newest()
    untouched = bench.pixels()

    bench.add_filter("directional")
    lane = bench.lane("Directional blur")
    length = lane.get_by_label("Directional blur: Length")
    expect(length).to_have_value("8")
    bench.wait_for_newest()
    blurred = bench.pixels()
    assert blurred != untouched

    bench.drag(lane.locator("[data-handle=peak]"), 0, 60)
    bench.wait_for_newest()
    assert number_of(length) < 8
    assert bench.pixels() not in (blurred, untouched)
    lane.get_by_role("spinbutton", name="Directional blur: Angle").fill("30")
    page.keyboard.press("Enter")
    bench.wait_saved()

    page.keyboard.press("Space")
    shown = bench.picture.get_attribute("data-shown")
    page.wait_for_function(
        "(first) => document.querySelector('[data-testid=picture]').dataset.shown !== first",
        arg=shown,
    )
    page.keyboard.press("Space")

    kept = number_of(length)
    page.reload()
    bench.wait_for_strip()
    assert (
        number_of(bench.lane("Directional blur").get_by_label("Directional blur: Length")) == kept
    )
    saved = cut_of(api, own_demo, 6)
    assert saved["recipe"]["filters"][0]["angle"] == 30

    bench.render()
    with page.expect_download(timeout=RENDER_MS) as downloading:
        page.get_by_role("link", name="Download").click(timeout=RENDER_MS)
    file = tmp_path / downloading.value.suggested_filename
    downloading.value.save_as(file)
    assert_rendered(file, saved)


def assert_rendered(file: Path, cut: dict[str, Any]) -> None:
    """The file holds the window and its margin, each frame as the core renders it."""
    margin = 12
    drawn = {path.stem: path for path in build_clips(settings().demo)}
    names = [
        cut[side]["clip"]["name"].lower().replace(" ", "-") for side in ("outgoing", "incoming")
    ]
    clips = [RateConvertedClip(VideoReader(drawn[name])) for name in names]
    transition = Transition(
        *clips,
        cut["outgoing"]["out_frame"],
        cut["incoming"]["in_frame"],
        Window(cut["before"], cut["after"]),
        recipe_from_json(cut["recipe"]),
    )
    with VideoReader(file) as reader:
        assert reader.facts.frame_count == cut["before"] + cut["after"] + 2 * margin
        assert (reader.facts.width, reader.facts.height, reader.facts.rate) == (1280, 720, 25)
        assert reader.facts.has_sound
        for place, (_, expected) in enumerate(transition.frames(margin)):
            assert code_psnr(reader.read(place), expected) > RENDERED_DB, place


def test_filters_are_reordered_switched_and_removed_by_keyboard(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][2]["id"])
    page.keyboard.press("2")
    expect(
        bench.lane("Directional blur").get_by_role("button", expanded=True).first
    ).to_be_visible()
    page.keyboard.press("e")
    expect(bench.lane("Directional blur").get_by_role("switch")).not_to_be_checked()
    grip = bench.lane("Directional blur").get_by_label("Reorder Directional blur:")
    for key in ("ArrowUp", "ArrowDown", "ArrowUp"):
        grip.press(key)
        expect(grip).to_be_focused()
    bench.wait_saved()
    filters = cut_of(api, own_demo, 2)["recipe"]["filters"]
    assert [(each["id"], each["enabled"]) for each in filters] == [
        ("blur", False),
        ("roll", True),
    ]
    remove = bench.lane("Directional blur").get_by_label("Remove Directional blur")
    remove.focus()
    page.keyboard.press("Enter")
    expect(bench.lane("Roll").locator("button.name")).to_be_focused()
    bench.wait_saved()
    assert [each["id"] for each in cut_of(api, own_demo, 2)["recipe"]["filters"]] == ["roll"]


def test_a_field_keeps_what_is_typed_reads_sums_and_marks_what_it_cannot_read(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][2]["id"])
    page.keyboard.press("2")
    angle = bench.lane("Directional blur").get_by_role("spinbutton", name="Directional blur: Angle")
    for typed, shown in (("12.25", "12.25"), ("+5", "17.25"), ("30/4", "7.5"), ("*2", "15")):
        angle.fill(typed)
        angle.press("Enter")
        expect(angle).to_have_value(shown)
    angle.fill("12 deg")
    angle.press("Enter")
    expect(angle).to_have_value("12 deg")
    expect(angle).to_have_attribute("aria-invalid", "true")
    expect(page.get_by_role("alert").filter(has_text="a sum such as 30/2")).to_be_visible()
    angle.press("Escape")
    expect(angle).to_have_value("15")
    duration = page.get_by_label("Duration", exact=True)
    duration.fill("0:10")
    duration.press("Enter")
    expect(duration).to_have_value("10")
    bench.wait_saved()
    cut = cut_of(api, own_demo, 2)
    assert cut["recipe"]["filters"][1]["angle"] == 15
    assert cut["before"] + cut["after"] == 10


def test_changes_are_undone_across_a_reload(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][1]["id"])
    first = cut_of(api, own_demo, 1)
    for _ in range(3):
        page.keyboard.press("=")
        bench.wait_saved()
    page.keyboard.press("Shift+Equal")
    bench.wait_saved()
    assert (cut_of(api, own_demo, 1)["before"], cut_of(api, own_demo, 1)["after"]) == (11, 9)
    page.reload()
    bench.wait_for_strip()
    undo = page.get_by_role("button", name="Undo")
    expect(undo).to_have_attribute("aria-description", "Undo: Window 10 | 9 → 11 | 9")
    for frames in ("10 | 9", "9 | 8", "8 | 7", "7 | 6"):
        page.keyboard.press("Control+z")
        expect(page.get_by_role("toolbar", name="Transport")).to_contain_text(frames)
    assert cut_of(api, own_demo, 1)["recipe"] == first["recipe"]
    expect(undo).to_be_disabled()


def test_the_second_of_two_windows_loses_nothing(
    page: Page, browser: Browser, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    one = BenchPage(page, address, own_demo["cuts"][4]["id"])
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    other = BenchPage(context.new_page(), address, own_demo["cuts"][4]["id"])
    page.keyboard.press("Equal")
    one.wait_saved()
    other.add_filter("gaussian")
    alert = other.page.get_by_role("alert")
    expect(alert).to_contain_text("This cut was changed in another window")
    alert.get_by_role("button", name="Keep my version").click()
    other.wait_saved()
    cut = cut_of(api, own_demo, 4)
    assert [each["kind"] for each in cut["recipe"]["filters"]].count("gaussian_blur") == 2
    assert "Window" in json.dumps(cut["undo_label"]) or cut["undo_label"].startswith("Add gaussian")
    context.close()


def test_missing_spare_frames_are_shown_and_fixed_with_one_click(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    """The wake has three frames ahead of its in point."""
    bench = BenchPage(page, address, own_demo["cuts"][6]["id"])
    for _ in range(4):
        page.keyboard.press("=")
    check = page.get_by_role("button", name="Spare frames: failed")
    expect(check).to_contain_text("4 frames")
    page.get_by_role("button", name="Render…").click()
    dialog = page.get_by_role("dialog", name="Render")
    expect(dialog.get_by_text("Cut 7: The window needs 7 spare frames")).to_be_visible()
    expect(dialog.get_by_role("button", name="Render", exact=True)).to_be_disabled()
    page.keyboard.press("Escape")
    check.click()
    page.get_by_role("button", name="Fix: Shorten the span").click()
    expect(page.get_by_role("button", name="Spare frames: ok")).to_be_visible()
    bench.wait_saved()
    assert cut_of(api, own_demo, 6)["recipe"]["mix"]["span"][0] == pytest.approx(-3 / 7, abs=1e-3)


def test_the_frame_is_compared_with_the_original(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    """The original while H is held; half of it in the split; a difference that is not black."""
    bench = BenchPage(page, address, own_demo["cuts"][1]["id"])
    page.keyboard.press("0")
    bench.wait_for_newest()
    result = bench.pixels()
    page.keyboard.down("h")
    expect(page.locator("p.note", has_text="Original")).to_be_visible()
    original = bench.pixels()
    page.keyboard.up("h")
    expect(page.locator("p.note", has_text="Original")).to_be_hidden()
    assert bench.pixels() == result
    page.keyboard.press("g")
    expect(page.get_by_text("Original left of the line")).to_be_visible()
    split = bench.pixels()
    # 16 columns of four numbers a row: the first seven are the original, the last seven the result.
    assert split[:28] == original[:28]
    assert split[36:64] == result[36:64]
    page.get_by_label("View", exact=True).select_option("difference")
    expect(page.get_by_text("Difference between original and result")).to_be_visible()
    assert max(n for place, n in enumerate(bench.pixels()) if place % 4 < 3) > 10
    page.get_by_label("View", exact=True).select_option("result")
    assert bench.pixels() == result


@pytest.mark.parametrize("window", [(1, 1), (3, 12), (70, 20)])
def test_the_cut_is_in_the_middle_at_every_window(
    page: Page, address: str, own_demo: dict[str, Any], api: httpx.Client, window: tuple[int, int]
) -> None:
    cut = cut_of(api, own_demo, 3)
    body = {
        "version": cut["version"],
        "before": window[0],
        "after": window[1],
        "recipe": cut["recipe"],
    }
    assert api.put(f"/api/cuts/{cut['id']}", json=body).status_code == 200
    BenchPage(page, address, cut["id"])
    for selector in ("div.seam", "canvas[data-testid=picture]"):
        box = page.locator(selector).bounding_box()
        assert box is not None
        assert box["x"] + box["width"] / 2 == pytest.approx(640, abs=1)
    strip = page.get_by_test_id("strip").bounding_box()
    ends = [page.get_by_label(f"{name} of the window").bounding_box() for name in ("Start", "End")]
    assert strip is not None
    assert ends[0] is not None
    assert ends[1] is not None
    left, right = ends[0]["x"] + ends[0]["width"], ends[1]["x"]
    cell = strip["width"] / 2 / max(window)
    assert (640 - left) / cell == pytest.approx(window[0], abs=0.1 + 4 / cell)
    assert (right - 640) / cell == pytest.approx(window[1], abs=0.1 + 4 / cell)
