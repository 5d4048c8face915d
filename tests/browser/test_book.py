"""The recipe book and the cut checks in the browser."""

from typing import Any

import httpx
from playwright.sync_api import Page, expect

from tests.browser.bench_page import BenchPage


def test_a_recipe_is_applied_adjusted_and_its_check_fixed(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][5]["id"])
    page.keyboard.press("r")
    page.get_by_label("Search recipes").fill("four")
    page.get_by_role("button", name="Apply Four rolls").click()
    expect(page.get_by_role("toolbar", name="Transport")).to_contain_text("5 | 5")
    bench.wait_for_newest()
    roll = bench.lane("Roll").get_by_label("Roll: Vertical")
    expect(roll).to_have_value("-4")
    page.get_by_label("Strength", exact=True).fill("150")
    page.keyboard.press("Enter")
    expect(roll).to_have_value("-6")
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 640, "y": 60})
    page.keyboard.press("Shift+d")
    expect(roll).to_have_value("6")

    roll.fill("6.3")
    page.keyboard.press("Enter")
    check = page.get_by_role("button", name="Landing: failed")
    expect(check).to_contain_text("216 px")
    check.click()
    page.get_by_role("button", name="Fix: Use 6 rolls").click()
    expect(page.get_by_role("button", name="Landing: ok")).to_be_visible()
    expect(roll).to_have_value("6")
    bench.wait_saved()
    saved = api.get(f"/api/cuts/{demo['cuts'][5]['id']}").json()
    assert saved["recipe"]["name"] == "Four rolls"
    assert saved["undo_label"] == "Fix landing: Use 6 rolls"


def test_a_recipe_on_three_cuts_with_alternate_ones_flipped(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    page.goto(f"{address}/edits/{demo['id']}")
    for number in (1, 2, 4):
        page.get_by_label(f"Select cut {number}").check()
    page.get_by_label("Alternate cuts").select_option("horizontal")
    page.get_by_role("button", name="Apply recipe to 3 cuts").click()
    page.get_by_role("button", name="Fast", exact=True).click()
    page.get_by_role("button", name="Apply Whip left").click()
    expect(page.get_by_text("Applied “Whip left” to 3 cuts")).to_be_visible()
    amounts = [
        api.get(f"/api/cuts/{demo['cuts'][n]['id']}").json()["recipe"]["filters"][0]["x"]["amount"]
        for n in (0, 1, 3)
    ]
    assert amounts == [-1, 1, -1]
    page.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Cut 1 Soft focus dissolve")).to_be_visible()
    names = [cut["recipe_name"] for cut in api.get(f"/api/edits/{demo['id']}").json()["cuts"]]
    assert "Whip left" not in names


def test_a_transition_is_saved_as_a_recipe_and_deleted(
    page: Page, address: str, demo: dict[str, Any]
) -> None:
    BenchPage(page, address, demo["cuts"][3]["id"])
    page.keyboard.press("r")
    page.get_by_role("button", name="Save as recipe").click()
    expect(page.get_by_role("heading", name="Saved", exact=True)).to_be_visible()
    page.get_by_role("button", name="Delete Four rolls up").click()
    expect(page.get_by_role("heading", name="Saved", exact=True)).to_be_hidden()


def test_a_centre_is_moved_on_the_picture_by_pointer_and_by_key(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, demo["cuts"][1]["id"])
    page.keyboard.press("0")
    bench.add_filter("radial")
    bench.wait_for_newest()
    before = bench.pixels()
    handle = page.locator("[data-handle=centre]")
    bench.drag(handle, 120, -40)
    bench.wait_for_newest()
    assert bench.pixels() != before
    bench.wait_saved()
    kept = api.get(f"/api/cuts/{demo['cuts'][1]['id']}").json()["recipe"]["filters"][-1]["centre"]
    assert kept[0] > 0.6
    assert kept[1] < 0.45
    handle.press("ArrowLeft")
    bench.wait_saved()
    moved = api.get(f"/api/cuts/{demo['cuts'][1]['id']}").json()["recipe"]["filters"][-1]["centre"]
    assert round(kept[0] - moved[0], 4) == 0.01


def test_a_centre_with_keyframes_shows_its_path_and_another_follows(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    cut = own_demo["cuts"][1]["id"]
    bench = BenchPage(page, address, cut)
    page.keyboard.press("0")
    bench.add_filter("radial")
    lane = bench.lane("Radial blur")
    lane.get_by_role("button", name="Centre: show the curve").click()
    page.get_by_label("Animation of Centre").select_option(label="Keyframes")
    bench.wait_for_newest()
    # The key is the page's own, not that of the list that was just used.
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Home")
    bench.wait_for_newest()
    handle = page.locator("[data-handle=centre]")
    for _ in range(5):
        handle.press("Shift+ArrowLeft")
    bench.wait_saved()
    saved = api.get(f"/api/cuts/{cut}").json()["recipe"]["filters"][-1]["centre"]
    assert [each["value"][0] for each in saved["keyframes"]] == [0, 0.5]
    assert saved["keyframes"][1]["at"] == 0
    expect(page.locator(".over polyline")).to_have_count(1)

    bench.add_filter("bulge")
    bench.lane("Bulge").get_by_role("button", name="Centre: show the curve").click()
    page.get_by_label("Animation of Centre").select_option(label="Follow point")
    bench.wait_saved()
    filters = api.get(f"/api/cuts/{cut}").json()["recipe"]["filters"]
    # The first filter with a point; the demo's own recipe may have one.
    assert filters[-1]["centre"]["kind"] == "follow"
    assert filters[-1]["centre"]["filter"] in {each["id"] for each in filters[:-1]}


def test_a_direction_is_chosen_turned_and_a_finding_accepted(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    cut = own_demo["cuts"][4]["id"]
    bench = BenchPage(page, address, cut)
    page.keyboard.press("r")
    page.get_by_label("Search recipes").fill("whip")
    # One card for all directions; the chosen one is applied.
    expect(page.get_by_role("button", name="Apply Whip")).to_have_count(1)
    directions = page.get_by_role("group", name="Direction of Whip left")
    directions.get_by_role("button", name="Whip up", exact=True).click()
    page.get_by_role("button", name="Apply Whip up").click()
    bench.wait_for_newest()
    lane = bench.lane("Roll")
    expect(lane.get_by_label("Roll: Vertical")).to_have_value("-1")
    page.keyboard.press("Shift+t")
    expect(lane.get_by_label("Roll: Horizontal")).to_have_value("1")
    expect(lane.get_by_label("Roll: Vertical")).to_have_value("0")

    lane.get_by_label("Roll: Horizontal").fill("1.5")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Landing: failed").click()
    page.get_by_label("Reason to accept this finding").fill("The strip is meant")
    page.keyboard.press("Enter")
    accepted = page.get_by_role("button", name="Landing: accepted")
    expect(accepted).to_be_visible()
    bench.wait_saved()
    saved = api.get(f"/api/cuts/{cut}").json()["recipe"]
    assert saved["accepted"] == {"landing": "The strip is meant"}
    assert saved["filters"][0]["x"]["amount"] == 1.5
    edit = api.get(f"/api/edits/{own_demo['id']}/checks").json()
    assert edit[4]["worst"]["accepted"] == {"landing": "The strip is meant"}
    accepted.click()
    page.get_by_role("button", name="Judge again").click()
    expect(page.get_by_role("button", name="Landing: failed")).to_be_visible()


def test_recipes_are_sorted_and_set_for_the_cut(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    cut = own_demo["cuts"][2]["id"]
    fit = api.get(f"/api/cuts/{cut}/fit").json()["recipes"]
    best, by_key = fit[0], {each["key"]: each for each in fit}
    in_book = {each["key"]: each for each in api.get("/api/recipes").json()["built_in"]}
    before, after = (in_book["warm-bloom"][side] for side in ("before", "after"))
    wanted = by_key["warm-bloom"]
    assert (before, after) != (wanted["before"], wanted["after"])
    bench = BenchPage(page, address, cut)
    page.keyboard.press("r")
    # The book is as it was written; sorted by fit it is still that.
    expect(page.get_by_text(best["reasons"][0])).to_have_count(0)
    page.get_by_text("Sort by fit", exact=True).click()
    # A reason is said once, for all recipes that it weighs most for.
    expect(page.get_by_role("heading", name=best["reasons"][0])).to_be_visible()
    expect(page.get_by_text(best["reasons"][0])).to_have_count(1)
    page.get_by_label("Search recipes").fill("warm bloom")
    card = page.get_by_role("article").filter(has_text="Warm bloom")
    expect(card).to_contain_text(f"{before} | {after}")
    page.get_by_role("button", name="Apply Warm bloom").click()
    bench.wait_for_newest()
    bench.wait_saved()
    saved = api.get(f"/api/cuts/{cut}").json()
    assert (saved["before"], saved["after"]) == (before, after)
    # Where that is asked for it is set for this cut, and says what it changes.
    page.keyboard.press("r")
    page.get_by_label("Search recipes").fill("warm bloom")
    page.get_by_role("button", name="Fit Warm bloom to this cut").click()
    expect(card).to_contain_text(f"{wanted['before']} | {wanted['after']} frames")
    page.get_by_role("button", name="Apply Warm bloom").click()
    bench.wait_for_newest()
    bench.wait_saved()
    saved = api.get(f"/api/cuts/{cut}").json()
    assert (saved["before"], saved["after"]) == (wanted["before"], wanted["after"])


def test_an_easing_of_the_gallery_is_put_on_every_curve(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    cut = own_demo["cuts"][3]["id"]
    bench = BenchPage(page, address, cut)
    page.keyboard.press("r")
    page.get_by_label("Search recipes").fill("Bloom flash")
    page.get_by_role("button", name="Apply Bloom flash").click()
    bench.wait_for_newest()
    page.keyboard.press("1")
    page.get_by_role("button", name=": rise").click()
    page.get_by_role("button", name="Overshoot and settle").click()
    rise = page.get_by_role("button", name="Overshoot and settle: rise")
    expect(rise).to_be_visible()
    rise.click()
    page.get_by_role("button", name="Use on every curve").click()
    expect(page.get_by_role("button", name="Overshoot and settle: fall")).to_be_visible()
    bench.wait_saved()
    written = api.get(f"/api/cuts/{cut}").text
    assert written.count("linear(0, ") >= 2


def test_a_recipe_that_lacks_spare_frames_offers_to_hold_the_end_frames(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    cut = own_demo["cuts"][6]["id"]
    bench = BenchPage(page, address, cut)
    page.keyboard.press("r")
    page.get_by_label("Search recipes").fill("Hidden dissolve")
    page.get_by_role("button", name="Apply Hidden dissolve").click()
    message = page.get_by_text(
        "Hidden dissolve: The window needs 5 spare frames before the in point of Wake; it has 3."
    )
    expect(message).to_be_visible()
    page.get_by_role("button", name="Hold the end frames").click()
    expect(page.get_by_role("button", name="Spare frames: ok")).to_be_visible()
    bench.wait_saved()
    assert api.get(f"/api/cuts/{cut}").json()["recipe"]["hold_frames"] is True
