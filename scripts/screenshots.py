"""Pictures of every main view at 1280 by 800, from the demo edit; see the shell script beside this."""

import httpx
from playwright.sync_api import Page, sync_playwright
from tests.browser.conftest import ARGUMENTS, CHROMIUM
from tests.conftest import ROOT
from tests.server import empty_database, running_application

from idle_shimmer.demo.load import load_demo

FOLDER = ROOT / "docs" / "screenshots"
LONGEST_MS = 30_000
SETTLED_MS = 600
# Those further down a shelf are loaded only when they come into sight.
_PICTURES_THERE = """() => [...document.images]
    .filter((each) => each.getBoundingClientRect().top < innerHeight)
    .every((each) => each.complete && each.naturalWidth)"""

_CHECKED = "!document.querySelector('footer')?.innerText.includes('…')"


def bench(page: Page, address: str, cut_id: str) -> None:
    """Open a cut and wait until its strip is whole."""
    page.goto(f"{address}/cuts/{cut_id}")
    page.wait_for_selector("svg.change rect", state="attached", timeout=LONGEST_MS)


def take(page: Page, name: str) -> None:
    """Save what the page shows once all its pictures are there."""
    page.wait_for_load_state("networkidle" if name in ("edits", "run") else "load")
    page.wait_for_function(_PICTURES_THERE, timeout=LONGEST_MS)
    page.wait_for_function(_CHECKED, timeout=LONGEST_MS)
    page.wait_for_timeout(SETTLED_MS)
    page.screenshot(path=FOLDER / f"{name}.png")


def checks(page: Page, address: str, cut_id: str) -> None:
    """A roll that does not land, and what the check says of it."""
    bench(page, address, cut_id)
    page.keyboard.press("1")
    field = page.get_by_label("Roll: Up and down")
    field.fill("-4.3")
    field.press("Enter")
    page.get_by_role("button", name="landing: broken").click()
    take(page, "checks")
    page.get_by_role("button", name="Fix:").first.click()
    page.get_by_role("button", name="landing: ok").wait_for()


def keys_of_a_curve(page: Page, address: str, cut_id: str) -> None:
    """A curve of keys with its speed."""
    bench(page, address, cut_id)
    page.keyboard.press("1")
    page.get_by_label("How Length moves").select_option("keys")
    page.locator("[data-handle=key-2]").press("ArrowDown")
    page.keyboard.press("v")
    take(page, "keys-of-a-curve")


def framing(page: Page, address: str, cut_id: str) -> None:
    """The incoming clip laid over the outgoing one's cut frame."""
    bench(page, address, cut_id)
    page.get_by_label("Framing of the incoming clip: as it is").click()
    page.get_by_label("Framing of the incoming clip: scale").fill("118")
    page.keyboard.press("Enter")
    page.wait_for_timeout(SETTLED_MS)
    take(page, "framing")


def speed(page: Page, address: str, cut_id: str) -> None:
    """The outgoing clip runs three times as fast into the cut."""
    bench(page, address, cut_id)
    page.get_by_role("button", name="Speed of the outgoing clip").click()
    page.get_by_label("Speed of the outgoing clip at the cut").fill("300")
    page.keyboard.press("Enter")
    page.locator("body").click(position={"x": 640, "y": 60})
    page.get_by_role("button", name="Speed outgoing").click()
    page.wait_for_timeout(SETTLED_MS)
    take(page, "speed")


def variants(page: Page, address: str, cut_id: str) -> None:
    """A pinned variant beside a stronger transition."""
    bench(page, address, cut_id)
    page.get_by_role("button", name="Pin a variant").click()
    page.get_by_label("Strength of the whole transition").fill("250")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Variant A beside").click()
    page.locator("body").click(position={"x": 640, "y": 60})
    page.keyboard.press("ArrowLeft")
    page.wait_for_timeout(2 * SETTLED_MS)
    take(page, "variants")


def main() -> None:
    """Take every picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    empty_database()
    load_demo()
    with running_application() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        with httpx.Client(base_url=address, trust_env=False) as client:
            edit = client.get("/api/edits").json()[0]
            page.goto(address)
            take(page, "edits")
            page.goto(f"{address}/edits/{edit['id']}")
            take(page, "run")
            bench(page, address, edit["cuts"][2]["id"])
            page.keyboard.press("2")
            page.keyboard.press("ArrowLeft")
            take(page, "bench")
            page.keyboard.press("n")
            take(page, "add-a-pass")
            checks(page, address, edit["cuts"][3]["id"])
            keys_of_a_curve(page, address, edit["cuts"][1]["id"])
            framing(page, address, edit["cuts"][5]["id"])
            speed(page, address, edit["cuts"][4]["id"])
            variants(page, address, edit["cuts"][0]["id"])
            bench(page, address, edit["cuts"][1]["id"])
            page.keyboard.press("r")
            page.get_by_label("Apply Cross blur").wait_for()
            take(page, "recipe-book")
            client.post("/api/renders", json={"cut": edit["cuts"][3]["id"]})
            client.post("/api/renders", json={"edit": edit["id"]})
            page.goto(f"{address}/renders")
            page.get_by_role("link", name="Download").first.wait_for(timeout=60_000)
            take(page, "renders")
        browser.close()


if __name__ == "__main__":
    main()
