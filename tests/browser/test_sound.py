"""The accent lane in the browser: drawn, moved, followed, imported."""

from pathlib import Path
from typing import Any

import httpx
import numpy as np
from playwright.sync_api import Page, expect

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND
from idle_shimmer.media.sound.wave_files import wave_bytes
from tests.browser.bench_page import BenchPage


def accent(api: httpx.Client, cut: str) -> dict[str, Any]:
    return api.get(f"/api/cuts/{cut}").json()["recipe"]["accent"]


def test_an_accent_is_added_moved_followed_and_replaced_by_a_sound_of_ones_own(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any], tmp_path: Path
) -> None:
    cut = own_demo["cuts"][2]["id"]
    document = {
        "format": 2,
        "filters": [{"id": "roll", "kind": "roll", "x": {"kind": "travel", "amount": 1}}],
    }
    before = api.get(f"/api/cuts/{cut}").json()
    api.put(
        f"/api/cuts/{cut}",
        json={
            "version": before["version"],
            "before": 8,
            "after": 8,
            "recipe": document,
            "label": "Roll",
        },
    ).raise_for_status()
    bench = BenchPage(page, address, cut)
    page.get_by_role("button", name="Add accent").click()
    lane = page.get_by_role("article", name="Accent")
    outline = lane.locator("polygon")
    expect(outline).not_to_have_attribute("points", "")
    bench.wait_saved()
    assert accent(api, cut)["sound"] == "whoosh"

    lane.get_by_label("Sound of the accent").select_option(label="Hit")
    lane.get_by_label("Movement that the accent follows").select_option(label="Roll")
    level = lane.get_by_label("Level of the accent")
    level.fill("-12")
    level.press("Enter")
    drawn = outline.get_attribute("points")
    start = lane.get_by_role("slider", name="Start of the accent")
    start.press("ArrowRight")
    start.press("ArrowRight")
    bench.drag(lane.get_by_role("slider", name="End of the accent"), -120, 0)
    bench.wait_saved()
    saved = accent(api, cut)
    assert (saved["sound"], saved["follow"], saved["gain_db"]) == ("hit", "roll", -12)
    assert saved["start"] == -0.75
    assert 0 < saved["end"] < 1
    expect(outline).not_to_have_attribute("points", drawn or "")
    # The check compares it with the rest, once the sound is measured.
    expect(lane).to_contain_text(" LU ")

    t = np.arange(SAMPLES_PER_SECOND // 2) / SAMPLES_PER_SECOND
    own = np.stack([np.sin(2 * np.pi * 300 * t) * np.exp(-8 * t)] * 2, axis=1)
    file = tmp_path / "Buoy bell.wav"
    file.write_bytes(wave_bytes(own.astype(np.float32)))
    lane.get_by_label("Import a sound").set_input_files(file)
    expect(lane.get_by_role("button", name="Accent Buoy bell")).to_be_visible()
    bench.wait_saved()
    clip = accent(api, cut)["sound"]["clip"]
    sounds = api.get("/api/clips", params={"sound": True}).json()
    assert [each["id"] for each in sounds if each["name"] == "Buoy bell"] == [clip]
    assert clip not in {each["id"] for each in api.get("/api/clips").json()}

    # What the accent follows is removed: it follows nothing, and is still there.
    page.get_by_role("article", name="Filter 1: Roll").get_by_role(
        "button", name="Roll", exact=False
    ).first.click()
    lane.get_by_role("button", name="Accent Buoy bell").click()
    lane.get_by_role("button", name="Remove").click()
    expect(page.get_by_role("article", name="Accent")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("article", name="Accent")).to_be_visible()
