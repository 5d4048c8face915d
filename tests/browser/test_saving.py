"""Nothing is lost: saves that fail, leaving with unsaved changes, deleted cuts, drags and previews."""

import re
from typing import Any

import httpx
import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.bench_page import BenchPage
from tests.browser.test_shaping import cut_of


class Outage:
    """The saves of a page, which fail while it lasts."""

    def __init__(self, page: Page, pattern: str = "**/api/**") -> None:
        self.lasts = True
        page.route(pattern, self._answer)

    def _answer(self, route: Route) -> None:
        if self.lasts and route.request.method != "GET":
            route.abort()
        else:
            route.continue_()


def test_a_failed_save_is_kept_said_plainly_and_repeated(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    """Undo, the next cut and leaving wait for it; then it is saved by itself."""
    cut = own_demo["cuts"][3]["id"]
    bench = BenchPage(page, address, cut)
    before = cut_of(api, own_demo, 3)
    outage = Outage(page)
    bench.add_filter("vignette")
    page.get_by_label("Original: framing of the incoming clip").click()
    page.get_by_label("Framing of the incoming clip: Scale").fill("120")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    saved = page.get_by_test_id("saved")
    expect(saved).to_contain_text(re.compile(r"Not saved since \d+:\d+.*does not answer"))
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Not done: there are unsaved changes.")).to_be_visible()
    page.keyboard.press("PageDown")
    dialog = page.get_by_role("dialog", name="Leave without saving?")
    dialog.get_by_role("button", name="Stay").click()
    assert cut in page.url
    expect(bench.lane("Vignette")).to_be_visible()
    outage.lasts = False
    expect(saved).to_have_text("Saved")
    after = cut_of(api, own_demo, 3)
    assert len(after["recipe"]["filters"]) == len(before["recipe"]["filters"]) + 1
    assert after["incoming"]["framing"]["scale"] == pytest.approx(1.2)


def test_pictures_that_could_not_be_loaded_come_when_the_server_is_back(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    gone = True
    page.route("**/pictures/**", lambda route: route.abort() if gone else route.continue_())
    page.goto(f"{address}/edits/{own_demo['id']}")
    pictures = page.locator(".row img")
    expect(pictures.first).to_have_attribute("data-failed", "")
    expect(pictures.first).to_be_hidden()
    gone = False
    page.wait_for_function(
        "() => [...document.querySelectorAll('.row img')].every(each => each.naturalWidth > 0)"
    )
    expect(pictures.first).to_be_visible()


def test_leaving_saves_what_is_not_saved_yet(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    BenchPage(page, address, own_demo["cuts"][0]["id"])
    was = cut_of(api, own_demo, 0)
    page.keyboard.press("Shift+Equal")
    page.keyboard.press("PageDown")
    page.wait_for_url(f"**/cuts/{own_demo['cuts'][1]['id']}")
    assert cut_of(api, own_demo, 0)["before"] == was["before"] + 1


def test_closing_the_tab_asks_and_makes_a_last_attempt(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    BenchPage(page, address, own_demo["cuts"][2]["id"])
    was = cut_of(api, own_demo, 2)
    # The browser asks only where the page has been used.
    page.mouse.click(640, 60)
    page.keyboard.press("Alt+Equal")
    with page.expect_event("dialog") as asked:
        page.close(run_before_unload=True)
    assert asked.value.type == "beforeunload"
    with page.expect_event("close"):
        asked.value.accept()
    # The request outlives the page; it may arrive a moment later.
    tries = (cut_of(api, own_demo, 2)["after"] for _ in range(200))
    assert was["after"] + 1 in tries


def test_a_render_waits_for_what_is_unsaved(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][5]["id"])
    was = cut_of(api, own_demo, 5)
    page.keyboard.press("Shift+Equal")
    bench.render()
    expect(
        page.get_by_label("Cancel render").or_(page.get_by_role("link", name="Download"))
    ).to_be_visible()
    render = api.get("/api/renders").json()[0]
    assert cut_of(api, own_demo, 5)["before"] == was["before"] + 1
    assert render["total_frames"] == was["before"] + was["after"] + 1 + 2 * 12


def test_a_cut_that_was_deleted_says_so(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    copy = api.post(f"/api/edits/{own_demo['id']}/duplicate").json()
    path = f"/api/edits/{copy['id']}"
    bench = BenchPage(page, address, copy["cuts"][0]["id"])
    api.delete(f"{path}/placed/{copy['placed'][0]['id']}")
    # The save is refused: the cut has gone.
    bench.add_filter("vignette")
    expect(page.get_by_test_id("saved")).to_contain_text("there is no such cut")
    page.reload()
    expect(page.get_by_role("heading", name="there is no such cut")).to_be_visible()
    api.delete(path)


def test_pictures_are_shown_while_a_key_is_held(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    """A held arrow key on Strength: the picture follows, state by state."""
    BenchPage(page, address, own_demo["cuts"][1]["id"])
    page.keyboard.press("0")
    page.evaluate(
        """() => {
            window.seen = new Set();
            const picture = document.querySelector('[data-testid=picture]');
            new MutationObserver(() => seen.add(picture.dataset.shownId))
                .observe(picture, { attributes: true, attributeFilter: ['data-shown-id'] });
        }"""
    )
    strength = page.get_by_label("Strength", exact=True)
    strength.focus()
    for count in range(1000):
        page.keyboard.down("ArrowUp" if count // 50 % 2 == 0 else "ArrowDown")
        if page.evaluate("seen.size") >= 5:
            break
    else:
        pytest.fail("no picture was shown while the key was held")
    page.keyboard.up("ArrowUp")
    page.wait_for_function(
        "() => { const c = document.querySelector('[data-testid=picture]');"
        " return c.dataset.shownId === c.dataset.askedId }"
    )


def test_two_quick_flips_are_two(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][3]["id"])
    was = cut_of(api, own_demo, 3)["recipe"]["filters"]
    page.keyboard.press("Shift+d")
    page.keyboard.press("Shift+d")
    page.keyboard.press("d")
    page.keyboard.press("d")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    bench.wait_saved()
    assert cut_of(api, own_demo, 3)["recipe"]["filters"] == was


def test_the_original_is_let_go_when_the_window_loses_the_focus(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][1]["id"])
    page.keyboard.press("0")
    bench.wait_for_newest()
    page.keyboard.down("h")
    expect(page.locator("p.note", has_text="Original")).to_be_visible()
    page.evaluate("window.dispatchEvent(new Event('blur'))")
    expect(page.locator("p.note", has_text="Original")).to_be_hidden()


def test_a_drag_that_the_system_takes_away_ends(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][1]["id"])
    strip = page.get_by_test_id("strip").bounding_box()
    assert strip is not None
    x, y = strip["x"] + strip["width"] / 2 + 60, strip["y"] + 10
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(
        """() => document.querySelector('.frames').dispatchEvent(
            new PointerEvent('pointercancel', { pointerId: 1, bubbles: true }))"""
    )
    shown = bench.picture.get_attribute("data-shown")
    page.mouse.move(x + 200, y, steps=4)
    assert bench.picture.get_attribute("data-shown") == shown
    page.mouse.up()


def test_an_easing_that_is_none_is_refused_where_it_is_typed(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][4]["id"])
    bench.add_filter("gaussian")
    bench.wait_saved()
    version = cut_of(api, own_demo, 4)["version"]
    page.get_by_role("button", name=re.compile(": rise$")).click()
    field = page.get_by_label("Easing as text")
    field.fill("cubic-bezier(2,0,0,1)")
    field.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="is not an easing")).to_be_visible()
    assert cut_of(api, own_demo, 4)["version"] == version
    field.fill("cubic-bezier(0.9,0,0.2,1)")
    field.press("Enter")
    bench.wait_saved()
    assert cut_of(api, own_demo, 4)["version"] == version + 1


def test_everything_done_on_an_edit_is_undone_and_redone(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    copy = api.post(f"/api/edits/{own_demo['id']}/duplicate").json()
    page.goto(f"{address}/edits/{copy['id']}")
    page.get_by_label("Edit name").fill("Late tide")
    page.keyboard.press("Enter")
    page.get_by_role("slider", name="Position of the cut, cut 2").focus()
    page.keyboard.press("ArrowRight")
    page.get_by_label("Select cut 4").click()
    expect(page.get_by_label("Select cut 4")).to_be_checked()
    page.get_by_role("button", name="Copy from another cut").click()
    page.get_by_role("dialog").get_by_role("button", name="Soft focus dissolve").click()
    expect(page.get_by_role("link", name=re.compile("Cut 4 Soft focus dissolve"))).to_be_visible()
    page.locator("h2", has_text="7 cuts").click()
    path = f"/api/edits/{copy['id']}"
    done = api.get(path).json()
    assert done["name"] == "Late tide"
    for left in ("Move cut by +1 frames", "Rename to Late tide"):
        page.keyboard.press("Control+z")
        undo = page.get_by_role("button", name="Undo").first
        expect(undo).to_have_attribute("aria-description", re.compile(re.escape(left)))
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Edit name")).to_have_value(copy["name"])
    back = api.get(path).json()
    assert back["cuts"][3]["recipe_name"] == copy["cuts"][3]["recipe_name"]
    for _ in range(3):
        page.keyboard.press("Control+Shift+z")
    expect(page.get_by_role("link", name=re.compile("Cut 4 Soft focus dissolve"))).to_be_visible()
    again = api.get(path).json()
    assert again["name"] == "Late tide"
    assert again["placed"][1]["out_frame"] == done["placed"][1]["out_frame"]
    api.delete(path)
