"""New edits from clips, and files that are not clips."""

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.support.clips import numbered, write_clip


def test_two_files_become_an_edit_with_a_cut(page: Page, address: str, tmp_path: Path) -> None:
    files = [
        write_clip(tmp_path / f"{name}.mp4", [numbered(n + first, 320, 180) for n in range(60)])
        for first, name in (
            (0, "Quay"),
            (500, "A gull with a very long name that no column could ever hold in one line"),
        )
    ]
    junk = tmp_path / "notes.mp4"
    junk.write_text("not a video at all\n" * 200)
    page.goto(address)
    page.get_by_role("button", name="New edit").click()
    page.get_by_label("Name", exact=True).fill("Gulls")
    page.get_by_label("Clips", exact=True).set_input_files([files[0], junk, files[1]])
    listed = page.get_by_role("list", name="Files").get_by_role("listitem")
    expect(listed.nth(0)).to_contain_text("320×180, 60 frames")
    expect(listed.nth(1)).to_contain_text("notes.mp4 is not a video or picture that can be read")
    expect(listed.nth(2)).to_contain_text("60 frames")
    page.get_by_role("button", name="Create edit").click()
    page.wait_for_url("**/edits/*")
    expect(page.get_by_role("heading", name="1 cut")).to_be_visible()
    page.get_by_role("link", name="Cut 1 Hard cut").click()
    expect(page.get_by_test_id("picture")).to_be_visible()
    expect(page.get_by_text("Quay", exact=True)).to_be_visible()


def test_a_cut_that_does_not_exist_leads_back_to_the_edits(page: Page, address: str) -> None:
    page.goto(f"{address}/cuts/00000000-0000-4000-8000-000000000000")
    expect(page.get_by_text("there is no such cut")).to_be_visible()
    page.get_by_role("link", name="All edits").click()
    expect(page.get_by_role("link", name="Lantern night", exact=True)).to_be_visible()


def test_an_edl_asks_for_its_rate_and_says_what_was_left_out(
    page: Page, address: str, tmp_path: Path
) -> None:
    """Of two clips of the demo edit: one event at half speed, a gap before it."""
    edl = tmp_path / "evening.edl"
    edl.write_text(
        "TITLE: Evening cut\nFCM: NON-DROP FRAME\n\n"
        "001  DUSK     V     C        00:00:00:20 00:00:02:24 00:00:00:00 00:00:02:04\n"
        "* FROM CLIP NAME:  dusk water\n"
        "002  SAIL     V     C        00:00:01:00 00:00:02:00 00:00:03:00 00:00:05:00\n"
        "M2   SAIL       012.5                00:00:01:00\n"
        "* FROM CLIP NAME:  hoisted sail\n"
    )
    page.goto(address)
    page.get_by_label("Import edit").set_input_files(edl)
    asking = page.get_by_role("dialog", name="Frame rate of evening.edl")
    expect(asking.get_by_label("Frame rate")).to_have_value("25")
    expect(asking).to_contain_text("2 of 2 events add up at this rate.")
    asking.get_by_role("button", name="Import").click()
    told = page.get_by_role("dialog", name="Imported evening.edl")
    expect(told).to_contain_text("1 gap is left out: what follows comes earlier.")
    expect(told).to_contain_text("Played at normal speed, as long as in the file: hoisted sail")
    told.get_by_role("button", name="Open edit").click()
    page.wait_for_url("**/edits/*")
    expect(page.get_by_role("heading", name="1 cut")).to_be_visible()
