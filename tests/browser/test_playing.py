"""The whole edit played on its screen, its levels, and its cuts laid on beats."""

import io
import struct
from typing import Any

import httpx
import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

_PIXELS = """(canvas) => {
    const { width, height } = canvas;
    return [width, height, [...canvas.getContext('2d').getImageData(0, 0, width, height).data]];
}"""
# One code and what browsers decode differently from libjpeg.
DIFFERENCE = 3.0


def shown_frame(page: Page) -> int:
    return int(page.get_by_test_id("film").get_attribute("data-frame") or 0)


def test_the_edit_plays_with_its_transitions_and_is_sought(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    page.goto(f"{address}/edits/{demo['id']}")
    expect(page.get_by_role("heading", name="7 cuts")).to_be_visible()
    page.keyboard.press("Space")
    film = page.get_by_test_id("film")
    page.wait_for_function(
        "() => Number(document.querySelector('[data-testid=film]')?.dataset.frame) > 25"
    )
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()

    # The middle of the second transition, compared with the frame that the server shows there.
    wanted = demo["placed"][0]["edit_frames"] + demo["placed"][1]["edit_frames"] - 1
    page.get_by_role("slider", name="Position", exact=True).fill(str(wanted))
    expect(film).to_have_attribute("data-frame", str(wanted))
    path = f"/api/edits/{demo['id']}/film/frames"
    data = api.get(path, params={"first": wanted, "count": 1}).content
    (length,) = struct.unpack_from(">I", data)
    picture = np.asarray(Image.open(io.BytesIO(data[4 : 4 + length])).convert("RGB"), float)

    def difference() -> float:
        width, height, codes = film.evaluate(_PIXELS)
        found = np.array(codes, float).reshape(height, width, 4)[..., :3]
        return float(np.abs(found - picture).mean()) if found.shape == picture.shape else 255.0

    for _ in range(50):
        if difference() < DIFFERENCE:
            break
        page.wait_for_timeout(100)
    assert difference() < DIFFERENCE
    # By keys: a frame, backward, stop; and on the full screen.
    page.get_by_role("slider", name="Position", exact=True).blur()
    page.keyboard.press("ArrowLeft")
    expect(film).to_have_attribute("data-frame", str(wanted - 1))
    page.keyboard.press("j")
    page.wait_for_function(
        f"() => Number(document.querySelector('[data-testid=film]').dataset.frame) < {wanted - 3}"
    )
    page.keyboard.press("k")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    page.keyboard.press("f")
    expect(page.get_by_role("button", name="Full screen")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Full screen")).to_have_attribute(
        "aria-pressed", "false"
    )
    page.get_by_role("button", name="Close").click()
    expect(film).to_have_count(0)


def test_levels_and_crossfades_are_set_and_cuts_laid_on_beats(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    def placed() -> list[dict[str, Any]]:
        return api.get(f"/api/edits/{own_demo['id']}").json()["placed"]

    page.goto(f"{address}/edits/{own_demo['id']}")
    page.locator(".names button").first.click()
    for label, value in (
        ("Level of the clip's sound", "-6"),
        ("Crossfade of the sound to the next clip", "10"),
    ):
        field = page.get_by_label(label)
        field.fill(value)
        field.press("Enter")
    expect(page.get_by_test_id("saved")).to_have_text("Saved")
    assert (placed()[0]["gain_db"], placed()[0]["crossfade"]) == (-6, 10)

    before = [each["edit_frames"] for each in placed()]
    page.get_by_label("Beats from cut to cut").fill("2")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Cut every 2 beats").click()
    expect(page.get_by_text("Cut every 2 beats.", exact=False)).to_be_visible()
    # At 100 BPM and 25 fps a beat has 15 frames.
    assert all(each["edit_frames"] % 15 == 0 for each in placed()[:-1])
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("button", name="Redo", exact=True)).to_be_enabled()
    assert [each["edit_frames"] for each in placed()] == before
