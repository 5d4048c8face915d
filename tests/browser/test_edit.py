"""Edits: cuts detected in a finished video, cuts dragged, edits duplicated, deleted and imported."""

import json
from pathlib import Path
from typing import Any

import httpx
import opentimelineio as otio
from playwright.sync_api import Locator, Page, expect

from tests.browser.bench_page import BenchPage
from tests.browser.conftest import edit_named
from tests.support.clips import numbered, png, write_clip
from tests.support.finished import write_finished

BLOOM = {"kind": "bloom", "gain": {"kind": "swell", "peak": 0.5}}


def new_edit(page: Page, address: str, name: str, files: list[Path]) -> None:
    page.goto(address)
    page.get_by_role("button", name="New edit").click()
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_label("Clips", exact=True).set_input_files(files)


def open_edit_of_numbered_clips(page: Page, address: str, name: str, folder: Path) -> None:
    """Open a new edit of two clips, Rope and Tide, of 100 numbered frames each."""
    pictures = [numbered(n, 320, 180) for n in range(100)]
    files = [write_clip(folder / f"{clip}.mp4", pictures) for clip in ("Rope", "Tide")]
    new_edit(page, address, name, files)
    page.get_by_role("button", name="Create edit").click()
    page.wait_for_url("**/edits/*")


def drag(page: Page, handle: Locator, right: float) -> None:
    box = handle.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + right, y, steps=8)
    page.mouse.up()
    expect(page.get_by_test_id("saved")).to_have_text("Saved")


def test_a_finished_video_is_taken_apart_and_leaves_as_a_timeline(
    page: Page, api: httpx.Client, address: str, tmp_path: Path
) -> None:
    video = tmp_path / "Evening.mp4"
    cuts = write_finished(video)
    new_edit(page, address, "Evening", [video])
    page.get_by_role("button", name="Detect cuts").click()
    page.get_by_role("button", name=f"Create edit with {len(cuts)} cuts").click()
    page.wait_for_url("**/edits/*")
    expect(page.get_by_role("heading", name=f"{len(cuts)} cuts")).to_be_visible()
    # The end of the first window, three frames further.
    after = edit_named(api, "Evening")["cuts"][0]["after"]
    end = page.get_by_role("slider", name="End of the window, cut 1")
    end.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(end).to_have_attribute("aria-valuenow", str(after + 3))
    expect(page.get_by_test_id("saved")).to_have_text("Saved")
    with page.expect_download() as download:
        page.get_by_role("button", name="Export…").click()
        page.get_by_role("button", name="Export OTIO").click()
    timeline = otio.adapters.read_from_file(str(download.value.path()), "otio_json")
    lengths = [clip.duration().value for clip in timeline.find_clips()]
    ends = [sum(lengths[: n + 1]) for n in range(len(lengths) - 1)]
    assert ends == cuts
    assert edit_named(api, "Evening")["cuts"][0]["after"] == after + 3


def test_windows_and_cuts_are_dragged_and_brought_back(
    page: Page, api: httpx.Client, address: str, tmp_path: Path
) -> None:
    open_edit_of_numbered_clips(page, address, "Quay", tmp_path)
    start = page.get_by_role("slider", name="Start of the window, cut 1")
    expect(start).to_be_visible()
    film = page.locator(".film").bounding_box()
    assert film is not None
    edit = edit_named(api, "Quay")
    scale = film["width"] / edit["frame_count"]
    before = edit["cuts"][0]["before"]
    drag(page, start, -5 * scale)
    expect(start).to_have_attribute("aria-valuenow", str(before + 5))
    seam = page.get_by_role("slider", name="Position of the cut, cut 1")
    drag(page, seam, 7 * scale)
    expect(seam).to_have_attribute("aria-valuenow", str(76 + 7))
    # As far as the spare frames go, and not further.
    drag(page, seam, 400 * scale)
    expect(seam).to_have_attribute("aria-valuenow", str(76 + 12))
    name = f"Cut 1: Hard cut, {before + 5} | {before} frames"
    expect(page.get_by_role("link", name=name)).to_be_attached()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    shown = edit_named(api, "Quay")
    assert shown["cuts"][0]["before"] == before + 5
    assert [each["out_frame"] for each in shown["placed"]] == [100, 88]
    page.get_by_role("button", name="Undo").click()
    expect(seam).to_have_attribute("aria-valuenow", str(76 + 7))


def test_an_edit_is_duplicated_deleted_and_brought_back(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    page.goto(address)
    page.get_by_role("button", name="Duplicate Lantern night").click()
    copy = page.get_by_role("link", name="Lantern night, copy", exact=True)
    expect(copy).to_be_visible()
    page.get_by_role("button", name="Delete Lantern night, copy").click()
    expect(copy).to_be_hidden()
    page.get_by_role("button", name="Restore Lantern night, copy").first.click()
    expect(copy).to_be_visible()
    kept = edit_named(api, "Lantern night, copy")
    assert [each["recipe_name"] for each in kept["cuts"]] == [
        each["recipe_name"] for each in demo["cuts"]
    ]
    page.get_by_role("button", name="Delete Lantern night, copy").click()
    expect(copy).to_be_hidden()


def test_numbered_pictures_arrive_as_one_clip(
    page: Page, api: httpx.Client, address: str, tmp_path: Path
) -> None:
    pictures = [tmp_path / f"mast_{n:03}.png" for n in (8, 9, 10, 12)]
    for n, file in enumerate(pictures):
        file.write_bytes(png(numbered(n)))
    new_edit(page, address, "Mast", pictures)
    listed = page.get_by_role("list", name="Files").get_by_role("listitem")
    expect(listed).to_have_count(1)
    expect(listed).to_contain_text("PNG sequence of 4 pictures; missing: 11")
    expect(listed).to_contain_text("192×96, 4 frames")


def test_the_files_of_an_imported_edit_are_found_in_a_folder(
    page: Page, api: httpx.Client, address: str, tmp_path: Path
) -> None:
    folder = tmp_path / "media"
    folder.mkdir()
    for first, name in enumerate(("Anchor", "Buoy", "Unneeded")):
        pictures = [numbered(n + 700 * first + 50, 320, 180) for n in range(40)]
        write_clip(folder / f"{name}.mp4", pictures)
    timeline = otio.schema.Timeline("Harbour mouth")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    for name in ("Anchor.mp4", "Buoy.mp4"):
        shown = otio.opentime.TimeRange(
            otio.opentime.RationalTime(5, 25), otio.opentime.RationalTime(30, 25)
        )
        media = otio.schema.ExternalReference(f"/elsewhere/{name}")
        track.append(otio.schema.Clip(name, media_reference=media, source_range=shown))
    file = tmp_path / "mouth.otio"
    otio.adapters.write_to_file(timeline, str(file), "otio_json")
    page.goto(address)
    page.get_by_label("Import edit").set_input_files(file)
    expect(page.get_by_role("list", name="Missing files")).to_contain_text("Buoy.mp4")
    page.get_by_label("Folder of the missing files").set_input_files(folder)
    page.wait_for_url("**/edits/*")
    expect(page.get_by_role("heading", name="1 cut")).to_be_visible()
    assert "Unneeded" not in [clip["name"] for clip in api.get("/api/clips").json()]


def test_files_may_be_dropped_anywhere_that_takes_them_and_do_nothing_elsewhere(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any], tmp_path: Path
) -> None:
    content = write_clip(tmp_path / "gull.mp4", [numbered(n) for n in range(30)]).read_bytes()
    drop = """([bytes, place]) => {
        const files = new DataTransfer();
        files.items.add(new File([new Uint8Array(bytes)], 'gull.mp4', { type: 'video/mp4' }));
        const sent = { bubbles: true, cancelable: true, dataTransfer: files };
        const target = document.querySelector(place);
        target.dispatchEvent(new DragEvent('dragover', sent));
        return target.dispatchEvent(new DragEvent('drop', sent));
    }"""
    page.goto(f"{address}/edits/{own_demo['id']}")
    expect(page.get_by_role("list", name="Cuts")).to_be_visible()
    assert page.evaluate(drop, [list(content), "header"]) is False
    expect(page.get_by_role("button", name="gull: trim")).to_be_attached()
    assert api.get(f"/api/edits/{own_demo['id']}").json()["placed"][-1]["name"] == "gull"
    BenchPage(page, address, own_demo["cuts"][1]["id"])
    assert page.evaluate(drop, [list(content), "main"]) is False
    expect(page).to_have_url(f"{address}/cuts/{own_demo['cuts'][1]['id']}")


def test_dials_change_the_selected_cuts_and_the_history_goes_back(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    page.goto(f"{address}/edits/{own_demo['id']}")
    page.get_by_label("Select cut 2").click()
    page.get_by_label("Select cut 3").click()
    dials = page.get_by_role("group", name="The selected cuts")
    for typed, shown in (("30", "30"), ("+4", "34")):
        duration = dials.get_by_label("Duration")
        duration.fill(typed)
        duration.press("Enter")
        expect(dials.get_by_label("Duration")).to_have_value(shown)
    dials.get_by_role("button", name="Flip vertically").click()
    page.get_by_role("button", name="History").click()
    steps = page.get_by_role("list", name="Steps, newest first").get_by_role("button")
    expect(steps.nth(0)).to_contain_text("Flip vertically: 2 cuts")
    expect(steps.nth(1)).to_contain_text("Duration 34 frames: 2 cuts")
    expect(steps).to_have_count(3)
    steps.nth(2).click()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    cuts = api.get(f"/api/edits/{own_demo['id']}").json()["cuts"]
    assert [(each["before"], each["after"]) for each in cuts] == [
        (each["before"], each["after"]) for each in own_demo["cuts"]
    ]


def test_a_recipe_file_dropped_on_a_cut_is_applied_there(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    recipe = {"name": "Pier glow", "window": {"before": 3, "after": 4}, "filters": [BLOOM]}
    drop = """([text, place]) => {
        const files = new DataTransfer();
        files.items.add(new File([text], 'pier.json', { type: 'application/json' }));
        const sent = { bubbles: true, cancelable: true, dataTransfer: files };
        document.querySelector(place).dispatchEvent(new DragEvent('dragover', sent));
        document.querySelector(place).dispatchEvent(new DragEvent('drop', sent));
    }"""
    page.goto(f"{address}/edits/{own_demo['id']}")
    expect(page.get_by_role("list", name="Cuts")).to_be_visible()
    cut = own_demo["cuts"][2]["id"]
    page.evaluate(drop, [json.dumps(recipe), f'.row[data-cut="{cut}"]'])
    expect(page.get_by_text("Applied “Pier glow” to 1 cut")).to_be_visible()
    page.evaluate(drop, ["no recipe", f'.row[data-cut="{cut}"]'])
    expect(page.get_by_text("pier.json is not a recipe")).to_be_visible()
    made = api.get(f"/api/cuts/{cut}").json()
    assert (made["before"], made["after"], made["recipe"]["name"]) == (3, 4, "Pier glow")
    BenchPage(page, address, own_demo["cuts"][0]["id"])
    page.evaluate(drop, [json.dumps(recipe), "main"])
    expect(page.get_by_label("Recipe name")).to_have_value("Pier glow")


def test_an_accent_is_put_where_the_player_stands(
    page: Page, api: httpx.Client, address: str, tmp_path: Path
) -> None:
    open_edit_of_numbered_clips(page, address, "Blows", tmp_path)
    expect(page.get_by_role("heading", name="1 cut")).to_be_visible()
    page.get_by_role("button", name="Play edit").click()
    place = page.get_by_role("slider", name="Position", exact=True)
    place.fill("20")
    page.get_by_role("button", name="Add accent here…").click()
    expect(page.get_by_role("dialog", name="Accent in Rope")).to_be_visible()
    page.get_by_role("button", name="Apply Hit in one shot").click()
    expect(page.get_by_role("heading", name="2 cuts")).to_be_visible()
    expect(page.get_by_test_id("saved")).to_have_text("Saved")
    # The player goes on with the edit as it is now.
    expect(page.get_by_test_id("film")).to_be_visible()
    made = edit_named(api, "Blows")
    assert [each["recipe_name"] for each in made["cuts"]] == ["Hit in one shot", "Untitled"]
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("heading", name="1 cut")).to_be_visible()
