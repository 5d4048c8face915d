"""Open to everyone: WCAG 2.2 AA.

axe-core on every screen, with every dialog and every popover open; work by keyboard alone; 200 %
zoom; keys that can be switched off. Sources: WCAG 2.2; the rules of axe-core.
"""

import re
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.bench_page import BenchPage
from tests.browser.conftest import PATIENCE_MS, edit_named
from tests.browser.test_edit import new_edit
from tests.browser.test_shaping import cut_of
from tests.conftest import ROOT
from tests.support.finished import write_finished

AXE = ROOT / "web/node_modules/axe-core/axe.min.js"
# The smallest target of WCAG 2.5.8, in CSS pixels.
LEAST_TARGET = 24


def violations(page: Page) -> list[tuple[str, list[str]]]:
    """Return what axe-core finds: the rule, and the elements that break it."""
    if not page.evaluate("'axe' in window"):
        # Not as a script of the page: its policy allows none but its own.
        page.evaluate(AXE.read_text(encoding="utf-8"))
    found = page.evaluate("async () => (await axe.run({ rules: {} })).violations")
    return [(each["id"], [node["html"][:140] for node in each["nodes"][:4]]) for each in found]


State = Callable[[Page, str, dict[str, Any]], None]


def _home(page: Page, address: str, _: dict[str, Any]) -> None:
    page.goto(address)
    expect(page.get_by_role("link", name="Lantern night", exact=True)).to_be_visible()


def _storage(page: Page, address: str, demo: dict[str, Any]) -> None:
    _home(page, address, demo)
    expect(page.get_by_role("group", name="Storage")).to_be_visible()


def _new_edit(page: Page, address: str, demo: dict[str, Any]) -> None:
    _home(page, address, demo)
    page.get_by_role("button", name="New edit").click()
    expect(page.get_by_role("dialog", name="New edit")).to_be_visible()


def _activity(page: Page, address: str, demo: dict[str, Any]) -> None:
    _home(page, address, demo)
    page.get_by_role("button", name="Activity").click()
    expect(page.get_by_role("dialog", name="Activity")).to_be_visible()


def _edit(page: Page, address: str, demo: dict[str, Any]) -> None:
    page.goto(f"{address}/edits/{demo['id']}")
    expect(page.get_by_role("list", name="Cuts")).to_be_visible()


def _clip_panel(page: Page, address: str, demo: dict[str, Any]) -> None:
    _edit(page, address, demo)
    page.get_by_role("button", name="Dusk water: trim").click()
    page.get_by_label("Select cut 1").click()
    expect(page.get_by_label("Select cut 1")).to_be_checked()
    expect(page.get_by_role("region", name="Clip Dusk water")).to_be_visible()


def _copy_from(page: Page, address: str, demo: dict[str, Any]) -> None:
    _edit(page, address, demo)
    page.get_by_label("Select cut 1").click()
    expect(page.get_by_label("Select cut 1")).to_be_checked()
    page.get_by_role("button", name="Copy from another cut").click()
    expect(page.get_by_role("dialog", name="Copy from another cut")).to_be_visible()


def _export(page: Page, address: str, demo: dict[str, Any]) -> None:
    _edit(page, address, demo)
    page.get_by_role("button", name="Export…").click()
    expect(page.get_by_role("dialog", name="Export")).to_be_visible()


def _render_edit(page: Page, address: str, demo: dict[str, Any]) -> None:
    _edit(page, address, demo)
    page.get_by_role("button", name="Render…").click()
    # What it would be, or why it cannot be: other tests change this edit.
    estimate = page.get_by_role("dialog", name="Render").locator(".estimate")
    expect(estimate).not_to_contain_text("Estimating")


def _bench(page: Page, address: str, demo: dict[str, Any], cut: int = 1) -> BenchPage:
    bench = BenchPage(page, address, demo["cuts"][cut]["id"])
    page.keyboard.press("1")
    return bench


def _subject_lanes(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo)
    page.keyboard.press("r")
    page.get_by_role("dialog").get_by_role("button", name="Apply Held subject").click()
    page.get_by_role("article", name="Slips of the incoming clip").locator("button.name").click()
    expect(page.get_by_label("Offset of the slip")).to_be_visible()


def _keyframes(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo, cut=0)
    page.get_by_label("Animation of Radius").select_option("keyframes")
    expect(page.get_by_label("Time of keyframe 1, frames from the cut")).to_be_visible()


def _split(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo)
    page.keyboard.press("g")
    expect(page.get_by_role("slider", name="Split line")).to_be_visible()


def _large(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo)
    page.keyboard.press("f")
    expect(page.get_by_role("button", name="Whole bench")).to_be_visible()


def _mix(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo)
    page.get_by_role("button", name="Mix").click()
    page.get_by_label("Kind of mix").select_option("wipe")
    expect(page.get_by_label("Matte", exact=True)).to_be_visible()


def _variant(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo, cut=4)
    page.get_by_role("button", name="Pin variant").click()
    page.get_by_role("button", name="A: compare with this variant").click()
    expect(page.get_by_test_id("beside")).to_be_visible()


def _unsaved(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo, cut=5)
    page.route(
        "**/api/cuts/*",
        lambda route: route.abort() if route.request.method == "PUT" else route.continue_(),
    )
    page.keyboard.press("=")
    expect(page.get_by_role("alert").filter(has_text="Not saved since")).to_be_visible()
    page.keyboard.press("PageDown")
    expect(page.get_by_role("dialog", name="Leave without saving?")).to_be_visible()


def _conflict(page: Page, address: str, demo: dict[str, Any]) -> None:
    _bench(page, address, demo, cut=5)
    page.route(
        "**/api/cuts/*",
        lambda route: (
            route.fulfill(status=409, json={"problems": []})
            if route.request.method == "PUT"
            else route.continue_()
        ),
    )
    page.keyboard.press("=")
    expect(page.get_by_role("button", name="Keep my version")).to_be_visible()


def _missing_media(page: Page, address: str, demo: dict[str, Any]) -> None:
    _home(page, address, demo)
    timeline = {"edit": None, "missing": ["Anchor.mp4", "Buoy.mp4"]}
    page.route("**/api/edits/import*", lambda route: route.fulfill(json=timeline))
    page.get_by_label("Import edit").set_input_files(
        {"name": "mouth.otio", "mimeType": "application/json", "buffer": b"{}"}
    )
    expect(page.get_by_role("list", name="Missing files")).to_be_visible()


def _renders(page: Page, address: str, _: dict[str, Any]) -> None:
    page.goto(f"{address}/renders")
    expect(page.get_by_role("heading", name="enders")).to_be_attached()


def _help(page: Page, address: str, _: dict[str, Any]) -> None:
    page.goto(f"{address}/help")
    expect(page.get_by_role("heading", level=1)).to_be_visible()


def _missing(page: Page, address: str, _: dict[str, Any]) -> None:
    page.goto(f"{address}/cuts/00000000-0000-4000-8000-000000000000")
    expect(page.get_by_role("link", name="All edits")).to_be_visible()


STATES: dict[str, State] = {
    "home": _home,
    "storage": _storage,
    "new edit": _new_edit,
    "activity": _activity,
    "edit": _edit,
    "clip panel": _clip_panel,
    "copy from another cut": _copy_from,
    "export": _export,
    "render edit": _render_edit,
    "bench": lambda page, address, demo: (_bench(page, address, demo), None)[1],
    "subject lanes": _subject_lanes,
    "keyframes": _keyframes,
    "split": _split,
    "large picture": _large,
    "mix": _mix,
    "variant": _variant,
    "unsaved": _unsaved,
    "conflict": _conflict,
    "missing media": _missing_media,
    "renders": _renders,
    "help": _help,
    "missing cut": _missing,
}


# What opens a dialog of the bench: the name of a button or a key, and the dialog's name.
DIALOGS = {
    "render": ("^Render…", "Render"),
    "history": ("^History", "History of this cut"),
    "speed": ("speed of the outgoing", "Speed of the outgoing clip"),
    "framing": ("framing of the incoming", "Framing of the incoming clip"),
    "subject": ("subject of the incoming", "Subject of Hoisted sail"),
    "easing": (": rise", "Rise"),
    "times": ("^Times of", "Times of Directional blur, length"),
    "check": ("^Landing", "Check: Landing"),
    "recipe book": ("r", "Recipe book"),
    "add filter": ("n", "Add filter"),
    "shortcuts": ("?", "Shortcuts"),
}


@pytest.fixture(scope="module")
def only_looked_at(browser: Browser, address: str, api: httpx.Client) -> Iterator[Page]:
    """A bench of the demo whose dialogs are opened and closed; nothing is changed."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    _bench(page, address, edit_named(api, "Lantern night"))
    yield page
    context.close()


def _open(page: Page, dialog: str) -> Locator:
    opener, name = DIALOGS[dialog]
    if len(opener) == 1:
        page.keyboard.press(opener)
    else:
        page.get_by_role("button", name=re.compile(opener)).first.click()
    opened = page.get_by_role("dialog", name=name)
    expect(opened).to_be_visible()
    return opened


@pytest.mark.parametrize("dialog", DIALOGS)
def test_axe_finds_nothing_in_a_dialog(only_looked_at: Page, dialog: str) -> None:
    opened = _open(only_looked_at, dialog)
    found = violations(only_looked_at)
    only_looked_at.keyboard.press("Escape")
    expect(opened).to_be_hidden()
    assert found == []


@pytest.mark.parametrize("state", STATES)
def test_axe_finds_nothing(page: Page, address: str, own_demo: dict[str, Any], state: str) -> None:
    STATES[state](page, address, own_demo)
    assert violations(page) == []


def too_small(page: Page) -> list[str]:
    """Return what is not 24 px high and wide of buttons, links and fields, and stands in no line of text (2.5.8)."""
    found: list[str] = page.evaluate(
        """(least) => [...document.querySelectorAll('button, a, input, select, [role=slider]')]
            .filter((one) => one.checkVisibility({ visibilityProperty: true }))
            .filter((one) => !one.closest('.film, svg, p, .sr-only, label'))
            .map((one) => [one, one.getBoundingClientRect()])
            .filter(([, box]) => box.width > 1 && (box.width < least || box.height < least - 0.5))
            .map(([one, box]) => `${one.outerHTML.slice(0, 120)} ${box.width}×${box.height}`)""",
        LEAST_TARGET,
    )
    return found


@pytest.mark.parametrize("state", ["home", "clip panel", "keyframes"])
def test_targets_are_large_enough(
    page: Page, address: str, own_demo: dict[str, Any], state: str
) -> None:
    STATES[state](page, address, own_demo)
    assert too_small(page) == []


@pytest.mark.parametrize("dialog", ["easing", "framing", "subject"])
def test_targets_of_a_dialog_are_large_enough(only_looked_at: Page, dialog: str) -> None:
    opened = _open(only_looked_at, dialog)
    found = too_small(only_looked_at)
    only_looked_at.keyboard.press("Escape")
    expect(opened).to_be_hidden()
    assert found == []


def test_every_drag_has_another_way(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    """Order of filters, times of a swell, split line, position of a cut: by click and typed (2.5.7)."""
    bench = BenchPage(page, address, own_demo["cuts"][3]["id"])
    page.keyboard.press("2")
    first = [each["id"] for each in cut_of(api, own_demo, 3)["recipe"]["filters"]]
    bench.lane("Directional blur").get_by_role("button", name="Move Directional blur up").click()
    page.get_by_role("button", name=re.compile("^Times of")).click()
    field = page.get_by_role("spinbutton", name="Start of Directional blur")
    field.fill("-3")
    field.press("Enter")
    page.keyboard.press("Escape")
    bench.wait_saved()
    cut = cut_of(api, own_demo, 3)
    filters = cut["recipe"]["filters"]
    assert [each["id"] for each in filters] == first[::-1]
    assert filters[0]["length"]["start"] == pytest.approx(-3 / cut["before"], abs=1e-3)
    page.keyboard.press("g")
    split = page.get_by_label("Position of the split line")
    split.fill("25")
    split.press("Enter")
    expect(page.get_by_role("slider", name="Split line")).to_have_attribute("aria-valuenow", "25")
    page.goto(f"{address}/edits/{own_demo['id']}")
    seam = page.get_by_role("slider", name="Position of the cut, cut 2")
    at = int(seam.get_attribute("aria-valuenow") or 0)
    page.get_by_label("Select cut 2").click()
    expect(page.get_by_label("Select cut 2")).to_be_checked()
    page.get_by_role("button", name="Move the selected cuts one frame later").click()
    expect(seam).to_have_attribute("aria-valuenow", str(at + 1))
    page.get_by_role("button", name="Move the selected cuts one frame earlier").click()
    expect(seam).to_have_attribute("aria-valuenow", str(at))
    expect(page.get_by_test_id("saved")).to_have_text("Saved")


def test_popovers_open_on_enter_not_on_focus_and_give_the_focus_back(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    _bench(page, address, own_demo)
    button = page.get_by_role("button", name="Original: framing of the incoming clip")
    panel = page.get_by_role("dialog", name="Framing of the incoming clip")
    button.focus()
    expect(panel).to_be_hidden()
    expect(page.get_by_text("Cut frames overlaid at 50 %")).to_be_hidden()
    page.keyboard.press("Enter")
    expect(panel).to_be_visible()
    page.keyboard.press("Escape")
    expect(panel).to_be_hidden()
    expect(button).to_be_focused()
    book = page.get_by_role("button", name="Recipe book")
    book.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Recipe book")).to_be_visible()
    page.keyboard.press("Escape")
    expect(book).to_be_focused()


def test_single_letter_keys_can_be_switched_off(
    page: Page, address: str, own_demo: dict[str, Any]
) -> None:
    bench = BenchPage(page, address, own_demo["cuts"][3]["id"])
    page.keyboard.press("?")
    page.get_by_role("switch", name="Single-letter keys").press("Space")
    page.keyboard.press("Escape")
    for key in ("n", "r", "e", "="):
        page.keyboard.press(key)
    expect(page.get_by_role("dialog", name=re.compile("Add filter|Recipe book"))).to_be_hidden()
    expect(page.get_by_test_id("saved")).to_have_text("Saved")
    page.keyboard.press("ArrowRight")
    expect(bench.picture).to_have_attribute("data-shown", "1")
    page.get_by_role("button", name="Shortcuts (?)").click()
    page.get_by_role("switch", name="Single-letter keys").press("Space")
    page.keyboard.press("Escape")
    page.keyboard.press("n")
    expect(page.get_by_role("dialog", name="Add filter")).to_be_visible()


def test_a_text_field_keeps_its_own_keys(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    """Ctrl C, V and Z in a field belong to the field: the cut stays as it is."""
    bench = BenchPage(page, address, own_demo["cuts"][2]["id"])
    page.keyboard.press("Shift+Equal")
    bench.wait_saved()
    before = cut_of(api, own_demo, 2)
    name = page.get_by_label("Recipe name")
    name.click()
    name.press("Control+a")
    for key in ("Control+c", "End", "Control+v", "Control+z"):
        name.press(key)
    expect(page.get_by_test_id("saved")).to_have_text("Saved")
    after = cut_of(api, own_demo, 2)
    assert (after["before"], after["version"]) == (before["before"], before["version"])


def test_a_transition_is_built_by_keyboard_alone(
    page: Page, api: httpx.Client, address: str, own_demo: dict[str, Any]
) -> None:
    """Two filters, keyframes edited, order changed, rendered: no pointer at all."""
    cut = own_demo["cuts"][6]["id"]
    bench = BenchPage(page, address, cut)
    keys = page.keyboard
    while cut_of(api, own_demo, 6)["recipe"]["filters"]:
        keys.press("1")
        keys.press("Delete")
        bench.wait_saved()
    bench.add_filter("gaussian")
    bench.add_filter("vignette")
    page.get_by_label(re.compile("^Animation of")).focus()
    keys.type("Keyframes")
    bench.wait_saved()
    page.get_by_role("button", name="Next keyframe").focus()
    keys.press("Enter")
    value = page.get_by_label("Value of keyframe 2")
    value.focus()
    keys.press("ArrowUp")
    keys.press("Shift+ArrowUp")
    bench.wait_saved()
    handle = bench.lane("Vignette").locator("[data-handle=keyframe-2]")
    handle.focus()
    keys.press("ArrowRight")
    bench.wait_saved()
    keys.press("Control+ArrowUp")
    bench.wait_saved()
    filters = cut_of(api, own_demo, 6)["recipe"]["filters"]
    assert [each["kind"] for each in filters] == ["vignette", "gaussian_blur"]
    frames = next(
        each["keyframes"]
        for each in filters[0].values()
        if isinstance(each, dict) and each.get("kind") == "keyframes"
    )
    assert len(frames) == 3
    assert frames[1]["at"] > 0
    page.get_by_role("button", name="Render…").focus()
    keys.press("Enter")
    dialog = page.get_by_role("dialog", name="Render")
    dialog.get_by_role("button", name="Render", exact=True).focus()
    keys.press("Enter")
    expect(page.get_by_role("link", name="Download")).to_be_visible(timeout=240_000)


def test_cuts_are_detected_and_moved_by_keyboard_alone(
    page: Page, address: str, tmp_path: Any
) -> None:
    video = tmp_path / "Regatta.mp4"
    write_finished(video)
    new_edit(page, address, "Regatta", [video])
    detect = page.get_by_role("button", name="Detect cuts")
    detect.focus()
    page.keyboard.press("Enter")
    create = page.get_by_role("button", name=re.compile("^Create edit with"))
    create.focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**/edits/*")
    cut = page.get_by_role("slider", name="Position of the cut, cut 1")
    cut.focus()
    page.keyboard.press("ArrowUp")
    expect(page.get_by_role("slider", name="Start of the window, cut 1")).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(cut).to_be_focused()
    # One tab stop a cut.
    page.keyboard.press("Tab")
    expect(page.get_by_role("slider", name="Position of the cut, cut 2")).to_be_focused()
    page.keyboard.press("Enter")
    page.wait_for_url("**/cuts/*")
    expect(page.get_by_text("2 of")).to_be_visible()


@pytest.mark.parametrize("size", [(640, 400), (1100, 800)])
def test_nothing_is_lost_at_200_percent_and_at_1100_px(
    browser: Browser, address: str, own_demo: dict[str, Any], size: tuple[int, int]
) -> None:
    """1280 by 800 at 200 % is 640 by 400: no sideways scrolling, and every control can be reached."""
    context = browser.new_context(viewport={"width": size[0], "height": size[1]})
    page = context.new_page()
    for path in ("/", f"/edits/{own_demo['id']}", f"/cuts/{own_demo['cuts'][1]['id']}", "/renders"):
        page.goto(address + path)
        page.wait_for_load_state("networkidle")
        assert page.evaluate(
            "document.documentElement.scrollWidth <= innerWidth"
            " && [...document.querySelectorAll('main, header')].every("
            " (one) => one.scrollWidth <= one.clientWidth + 1)"
        ), path
    page.goto(f"{address}/cuts/{own_demo['cuts'][1]['id']}")
    page.keyboard.press("1")
    controls = (
        page.get_by_role("button", name="Render…"),
        page.get_by_label("Strength", exact=True),
        page.get_by_label("Directional blur: Length"),
        page.get_by_role("button", name="Add filter").last,
        page.get_by_role("button", name="Landing: ok"),
    )
    for control in controls:
        control.scroll_into_view_if_needed()
        expect(control).to_be_in_viewport()
        control.click(trial=True)
    context.close()
