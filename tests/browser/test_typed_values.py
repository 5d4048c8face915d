"""What is typed on the bench is what a frame shows."""

import re
from typing import Any

import httpx
from playwright.sync_api import Page, expect

from tests.browser.bench_page import BenchPage, number_of


def empty_cut(api: httpx.Client, demo: dict[str, Any], place: int, side: int) -> str:
    """Make a cut of the demo a hard cut again, as a new one is, and return its id."""
    cut = api.get(f"/api/cuts/{demo['cuts'][place]['id']}").json()
    body = {
        "version": cut["version"],
        "before": side,
        "after": side,
        "recipe": {"format": 2, "times": "frames"},
        "label": "Clear",
    }
    api.put(f"/api/cuts/{cut['id']}", json=body).raise_for_status()
    return str(cut["id"])


def typed(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def test_a_vertical_blur_of_25_is_25_on_both_frames_beside_the_cut(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, empty_cut(api, demo, 6, 5))
    bench.add_filter("directional")
    typed(page, "Directional blur: Angle", "90")
    typed(page, "Directional blur: Length", "25")
    bench.wait_for_newest()
    page.keyboard.press("0")
    assert number_of(page.get_by_label("Length of Directional blur at 0")) == 25
    page.keyboard.press("ArrowLeft")
    assert number_of(page.get_by_label("Length of Directional blur at −1")) == 25
    # On another frame another value: the swell becomes keyframes, and nothing else changes.
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    typed(page, "Length of Directional blur at −3", "2")
    expect(page.get_by_text("keyframes of the same shape")).to_be_visible()
    typed(page, "Length of Directional blur at −3", "3.5")
    bench.wait_saved()
    length = api.get(f"/api/cuts/{demo['cuts'][6]['id']}").json()["recipe"]["filters"][0]["length"]
    assert [(each["at"], each["value"]) for each in length["keyframes"]] == [
        (-1, 0),
        (-0.5, 0.035),
        (0, 0.25),
        (1, 0),
    ]
    csv = api.get(f"/api/cuts/{demo['cuts'][6]['id']}/curves.csv").text
    values = dict(re.findall(r"directional_blur,length,(-?\d+),([\d.]+)", csv))
    assert [values[frame] for frame in ("-3", "-1", "0")] == ["0.035", "0.25", "0.25"]


def test_a_dissolve_of_four_frames_stays_four_at_twice_the_duration(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, empty_cut(api, demo, 6, 5))
    page.locator("article[aria-label=Mix] button.name").click()
    page.get_by_label("Kind of mix").select_option("dissolve")
    typed(page, "Frames of the mix", "4")
    typed(page, "Duration", "20")
    expect(page.get_by_role("toolbar", name="Transport")).to_contain_text("10 | 10")
    bench.wait_saved()
    expect(page.get_by_label("Frames of the mix", exact=True)).to_have_value("4")
    cut = api.get(f"/api/cuts/{demo['cuts'][6]['id']}").json()
    assert (cut["before"], cut["after"]) == (10, 10)
    assert cut["recipe"]["mix"]["span"] == [{"frames": -2}, {"frames": 2}]


def test_the_outgoing_side_is_repeated_as_it_is(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, empty_cut(api, demo, 6, 5))
    bench.add_filter("gaussian")
    lane = bench.lane("Gaussian blur")
    typed(page, "Gaussian blur: Radius", "10")
    lane.get_by_role("button", name="Repeat").click()
    expect(lane.get_by_label("Animation of Radius")).to_have_value("keyframes")
    bench.wait_saved()
    radius = api.get(f"/api/cuts/{demo['cuts'][6]['id']}").json()["recipe"]["filters"][0]["radius"]
    assert [(each["at"], each["value"]) for each in radius["keyframes"]] == [
        (-1, 0),
        (0, 0.1),
        (0, 0),
        (1, 0.1),
    ]


def test_a_position_dragged_on_ten_frames_is_ten_keyframes(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, empty_cut(api, demo, 6, 5))
    bench.add_filter("transform")
    expect(page.locator("polygon")).to_be_visible()
    picture = bench.picture.bounding_box()
    assert picture is not None
    x, y = picture["x"] + picture["width"] * 0.6, picture["y"] + picture["height"] * 0.6
    page.keyboard.press("Home")
    for n in range(10):
        # Inside the box, away from its handles; the arrow keys step frames again afterwards.
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 12 + 3 * n, y - 6 - n, steps=3)
        page.mouse.up()
        bench.wait_for_newest()
        bench.wait_saved()
        if n < 9:
            page.keyboard.press("ArrowRight")
    for label in ("Position X", "Position Y"):
        page.get_by_label(f"{label}: show the curve").click()
        expect(bench.lane("Transform").get_by_text("of 10")).to_be_visible()
    bench.wait_saved()
    placed = api.get(f"/api/cuts/{demo['cuts'][6]['id']}").json()["recipe"]["filters"][0]
    for name in ("shift_x", "shift_y"):
        keyframes = placed[name]["keyframes"]
        assert [each["at"] for each in keyframes] == [(k + 0.5) / 5 for k in range(-5, 5)]
        values = [each["value"] for each in keyframes]
        assert len(set(values)) == 10
    expect(page.locator("polyline").first).to_be_visible()


def test_several_keyframes_are_moved_copied_and_pasted_mirrored(
    page: Page, api: httpx.Client, address: str, demo: dict[str, Any]
) -> None:
    cut = empty_cut(api, demo, 6, 10)
    values = {-8.5: 0.0, -6.5: 0.04, -4.5: 0.01}
    keyframes = [{"at": t / 10, "value": value} for t, value in values.items()]
    blur = {"id": "blur", "kind": "gaussian_blur"}
    blur["radius"] = {"kind": "keyframes", "keyframes": keyframes}  # type: ignore[assignment]
    seen = api.get(f"/api/cuts/{cut}").json()
    body = {name: seen[name] for name in ("version", "before", "after")}
    recipe = {**seen["recipe"], "filters": [blur]}
    api.put(f"/api/cuts/{cut}", json={**body, "recipe": recipe, "label": "Blur"}).raise_for_status()
    bench = BenchPage(page, address, cut)
    page.keyboard.press("1")
    lane = bench.lane("Gaussian blur")
    handle = lane.locator("[data-handle=keyframe-2]")
    handle.focus()
    page.keyboard.press("Control+a")
    expect(lane.get_by_text("3 picked")).to_be_visible()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Control+c")
    # Pasted at the shown frame, 0, from the last to the first.
    page.keyboard.press("Control+Shift+v")
    bench.wait_saved()
    radius = api.get(f"/api/cuts/{cut}").json()["recipe"]["filters"][0]["radius"]
    shown = {round(10 * each["at"], 3): each["value"] for each in radius["keyframes"]}
    assert shown == {-7.5: 0, -5.5: 0.04, -3.5: 0.01, 0.5: 0.01, 2.5: 0.04, 4.5: 0}
