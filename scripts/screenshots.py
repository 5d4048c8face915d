"""Take screenshots of the main views at 1280 by 800, with the demo edit."""

import re
import secrets
from fractions import Fraction
from typing import Any

import httpx
from playwright.sync_api import Page, sync_playwright
from tests.browser.conftest import ARGUMENTS, installed_browser
from tests.conftest import ROOT
from tests.support.server import empty_database, running_application

from idle_shimmer.demo.load_demo import load_demo
from idle_shimmer.demo.music import bed
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.store.accounts.accounts import add_account
from idle_shimmer.store.database import session_scope

FOLDER = ROOT / "docs" / "screenshots"
LONGEST_MS = 30_000
SETTLED_MS = 600
FAST_FRAME = 181
# Pictures further down load only when they come into view.
_PICTURES_LOADED = """() => [...document.images]
    .filter((each) => each.getBoundingClientRect().top < innerHeight)
    .every((each) => each.complete && each.naturalWidth)"""

# How far a picture is dragged on one frame after another, in pixels.
_AWAY = ((4, 0), (10, 2), (22, 5), (40, 10), (66, 16), (96, 20), (120, 12))
_DRAGS = (*_AWAY, *((-right, -down) for right, down in reversed(_AWAY[:6])))
_CHECKED = "() => !document.querySelector('footer')?.innerText.includes('…')"


def bench(page: Page, address: str, cut_id: str) -> None:
    """Open a cut and wait until its strip is complete."""
    page.goto(f"{address}/cuts/{cut_id}")
    page.wait_for_selector("svg.change rect", state="attached", timeout=LONGEST_MS)


def take(page: Page, name: str) -> None:
    """Save a screenshot when all pictures are loaded and all checks are done."""
    page.wait_for_load_state("networkidle" if name in ("edits", "edit") else "load")
    page.wait_for_function(_PICTURES_LOADED, timeout=LONGEST_MS)
    page.wait_for_function(_CHECKED, timeout=LONGEST_MS)
    page.wait_for_timeout(SETTLED_MS)
    page.screenshot(path=FOLDER / f"{name}.png")


def checks(page: Page, address: str, cut_id: str) -> None:
    """A roll that does not land, and the message of the check."""
    bench(page, address, cut_id)
    page.keyboard.press("1")
    field = page.get_by_label("Roll: Vertical")
    field.fill("-4.3")
    field.press("Enter")
    page.get_by_role("button", name="Landing: failed").click()
    take(page, "checks")
    page.get_by_role("button", name="Fix:").first.click()
    page.get_by_role("button", name="Landing: ok").wait_for()


def keyframes(page: Page, address: str, cut_id: str) -> None:
    """A position that was dragged on every frame, and its value on the shown one."""
    bench(page, address, cut_id)
    page.keyboard.press("n")
    page.get_by_label("Search filters").fill("transform")
    page.keyboard.press("Enter")
    box = page.locator("polygon")
    box.wait_for()
    picture = page.get_by_test_id("picture").bounding_box()
    assert picture is not None
    x, y = picture["x"] + picture["width"] * 0.6, picture["y"] + picture["height"] * 0.62
    page.keyboard.press("Home")
    for place, (right, down) in enumerate(_DRAGS):
        if place:
            page.keyboard.press("ArrowRight")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + right, y + down, steps=4)
        page.mouse.up()
        page.wait_for_timeout(SETTLED_MS)
    page.keyboard.press("0")
    page.keyboard.press("ArrowLeft")
    page.get_by_label("Position X: show the curve").click()
    # The whole lane: it is taller than what is left of a small window.
    page.set_viewport_size({"width": 1280, "height": 1000})
    take(page, "keyframes")
    page.set_viewport_size({"width": 1280, "height": 800})


def framing(page: Page, address: str, cut_id: str) -> None:
    """The framing of the incoming clip by its box, with the cut frames overlaid."""
    bench(page, address, cut_id)
    page.get_by_label("Original: framing of the incoming clip").click()
    page.get_by_label("Framing of the incoming clip: Scale").fill("118")
    page.keyboard.press("Enter")
    place = page.get_by_test_id("picture").bounding_box()
    assert place is not None
    page.mouse.click(place["x"] + place["width"] / 3, place["y"] + place["height"] / 2)
    page.locator('[data-handle="box-turn"]').press("ArrowLeft")
    page.wait_for_timeout(SETTLED_MS)
    take(page, "framing")


def speed(page: Page, address: str, cut_id: str) -> None:
    """The outgoing clip at three times its speed at the cut."""
    bench(page, address, cut_id)
    page.get_by_role("button", name="Normal: speed of the outgoing clip").click()
    page.get_by_label("Speed of the outgoing clip at the cut").fill("300")
    page.keyboard.press("Enter")
    page.locator("body").click(position={"x": 640, "y": 60})
    page.get_by_role("button", name="Speed Outgoing clip").click()
    page.wait_for_timeout(SETTLED_MS)
    take(page, "speed")


def variants(page: Page, address: str, cut_id: str) -> None:
    """A pinned variant beside a stronger transition."""
    bench(page, address, cut_id)
    page.get_by_role("button", name="Pin variant").click()
    page.get_by_label("Strength", exact=True).fill("250")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="A: compare with this variant").click()
    page.locator("body").click(position={"x": 640, "y": 60})
    page.keyboard.press("ArrowLeft")
    page.wait_for_timeout(2 * SETTLED_MS)
    take(page, "variants")


def render_dialog(page: Page, address: str, cut_id: str) -> None:
    """The Render dialog, with its estimate."""
    bench(page, address, cut_id)
    page.get_by_role("button", name="Render…").click()
    page.get_by_role("dialog", name="Render").get_by_text("frames, ").wait_for()
    take(page, "render-dialog")
    page.keyboard.press("Escape")


def easings(page: Page, address: str, cut_id: str) -> None:
    """The gallery of easings, over a curve."""
    bench(page, address, cut_id)
    page.keyboard.press("1")
    page.get_by_role("button", name=re.compile(": (rise|easing)")).first.click()
    page.get_by_role("button", name="Use on every curve").wait_for()
    take(page, "easings")
    page.keyboard.press("Escape")


def match_frames(page: Page, address: str, cut_id: str) -> None:
    """The pairs of frames that meet best."""
    bench(page, address, cut_id)
    page.get_by_role("button", name=": cut frame of the outgoing clip").click()
    page.get_by_role("button", name="Match frames").click()
    page.get_by_role("button", name=re.compile("^Use outgoing")).first.wait_for()
    take(page, "match-frames")
    page.keyboard.press("Escape")


def accent(page: Page, address: str, cut_id: str) -> None:
    """An accent that follows a roll."""
    bench(page, address, cut_id)
    page.get_by_role("button", name="Add accent").click()
    page.get_by_label("Movement that the accent follows").select_option(index=1)
    page.locator("svg[aria-label='Waveform of the accent'] polygon[points*=',']").wait_for()
    page.get_by_text("LU below").first.wait_for()
    take(page, "accent")


def subject(page: Page, address: str, cut_id: str) -> None:
    """The panel in which the sail is marked, its mattes made."""
    bench(page, address, cut_id)
    page.get_by_role("button", name=re.compile("subject of the incoming clip")).click()
    page.get_by_text("Ready for").wait_for(timeout=4 * LONGEST_MS)
    take(page, "subject")
    page.keyboard.press("Escape")


def music(page: Page, client: httpx.Client, address: str, edit_id: str) -> None:
    """The music under the run, with its beats."""
    data = wave_bytes(bed(Fraction(0), Fraction(36)))
    headers = {"Content-Type": "application/octet-stream"}
    sent = client.post("/api/clips?name=Quay song.wav", content=data, headers=headers)
    client.put(f"/api/edits/{edit_id}/music", json={"clip": sent.json()["id"]}).raise_for_status()
    page.goto(f"{address}/edits/{edit_id}")
    page.get_by_text("Music: Quay song").wait_for()
    page.get_by_role("button", name="Play edit").click()
    page.wait_for_function(
        "() => Number(document.querySelector('[data-testid=film]').dataset.frame) > 3"
    )
    page.get_by_role("button", name="Pause").click()
    # Just after the second cut, where its movement is fast.
    page.get_by_role("slider", name="Position", exact=True).fill(str(FAST_FRAME))
    page.wait_for_timeout(SETTLED_MS)
    take(page, "music")
    client.delete(f"/api/edits/{edit_id}/music").raise_for_status()


def first_screens(page: Page, address: str, edit: dict[str, Any]) -> None:
    """The list of edits, an edit, the bench and what can be added to it."""
    page.goto(address)
    take(page, "edits")
    page.goto(f"{address}/edits/{edit['id']}")
    page.get_by_label("Select cut 2").click()
    page.get_by_label("Select cut 4").click(modifiers=["Shift"])
    take(page, "edit")
    page.get_by_role("button", name="Select all").click()
    page.get_by_role("button", name="Select none").click()
    bench(page, address, edit["cuts"][2]["id"])
    page.keyboard.press("2")
    page.keyboard.press("ArrowLeft")
    take(page, "bench")
    page.keyboard.press("n")
    take(page, "add-filter")


def recipe_book(page: Page, address: str, cut_id: str) -> None:
    """The recipe book over the bench, then the large picture."""
    bench(page, address, cut_id)
    page.keyboard.press("r")
    page.get_by_text("Sort by fit", exact=True).click()
    page.get_by_text("Frames at the cut").wait_for()
    page.get_by_label("Apply Blur into blur").wait_for()
    page.wait_for_timeout(4 * SETTLED_MS)
    take(page, "recipe-book")
    page.keyboard.press("Escape")
    page.keyboard.press("f")
    page.wait_for_timeout(SETTLED_MS)
    take(page, "large-picture")


def renders(page: Page, client: httpx.Client, address: str, edit: dict[str, Any]) -> None:
    """The renders of a cut and of the whole, one of them at work."""
    cut, whole = {"cut": edit["cuts"][3]["id"]}, {"edit": edit["id"]}
    client.post("/api/renders", json={**cut, "format": "prores"})
    client.post("/api/renders", json={**whole, "what": "round_trip"})
    client.post("/api/renders", json={**whole, "what": "edit", "format": "h264"})
    page.goto(f"{address}/renders")
    page.get_by_role("link", name="Download").nth(1).wait_for(timeout=600_000)
    take(page, "renders")


def sign_in(page: Page, address: str) -> None:
    """The screen that asks who it is."""
    with session_scope() as session:
        add_account(session, "Harbour desk", secrets.token_urlsafe())
    httpx.delete(f"{address}/api/session", trust_env=False)
    page.goto(f"{address}/sign-in")
    page.get_by_label("Name").last.fill("Harbour desk")
    take(page, "sign-in")


def main() -> None:
    """Take every screenshot."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    empty_database()
    load_demo()
    with running_application() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=installed_browser(), args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        with httpx.Client(base_url=address, trust_env=False) as client:
            listed = client.get("/api/edits").json()[0]
            edit = client.get(f"/api/edits/{listed['id']}").json()
            cuts = [cut["id"] for cut in edit["cuts"]]
            first_screens(page, address, edit)
            checks(page, address, cuts[3])
            keyframes(page, address, cuts[1])
            framing(page, address, cuts[5])
            speed(page, address, cuts[4])
            easings(page, address, cuts[2])
            match_frames(page, address, cuts[3])
            accent(page, address, cuts[2])
            subject(page, address, cuts[1])
            music(page, client, address, edit["id"])
            variants(page, address, cuts[0])
            recipe_book(page, address, cuts[1])
            render_dialog(page, address, cuts[3])
            renders(page, client, address, edit)
        sign_in(page, address)
        browser.close()


if __name__ == "__main__":
    main()
