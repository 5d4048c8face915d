"""The bench as tests use it."""

import re
from typing import Any

from playwright.sync_api import Locator, Page, expect

COLD_START_MS = 60_000


class BenchPage:
    """A bench opened on one cut."""

    def __init__(self, page: Page, address: str, cut_id: str) -> None:
        self.page = page
        page.goto(f"{address}/cuts/{cut_id}")
        self.wait_for_strip()

    @property
    def picture(self) -> Locator:
        return self.page.get_by_test_id("picture")

    def wait_for_strip(self) -> None:
        """Wait until the whole strip of the newest state is there: then the changes are drawn."""
        # The first cut of a run is decoded from a cold start.
        strip = self.page.locator("svg.change rect").first
        expect(strip).to_be_attached(timeout=COLD_START_MS)

    def wait_for_newest(self) -> None:
        """Wait until the picture shows the newest state."""
        self.page.wait_for_function(
            "() => { const c = document.querySelector('[data-testid=picture]');"
            " return c.dataset.shownId === c.dataset.askedId }"
        )

    def wait_saved(self) -> None:
        expect(self.page.get_by_test_id("saved")).to_have_text("Saved")

    def pixels(self) -> list[int]:
        """Return the shown picture at 16 by 9."""
        return self.page.evaluate(
            """() => {
                const small = new OffscreenCanvas(16, 9).getContext('2d');
                small.drawImage(document.querySelector('[data-testid=picture]'), 0, 0, 16, 9);
                return [...small.getImageData(0, 0, 16, 9).data];
            }"""
        )

    def add_filter(self, name: str) -> None:
        """Add a filter with the keyboard: N, part of the name, Enter."""
        self.page.keyboard.press("n")
        self.page.get_by_label("Search filters").fill(name)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("dialog", name="Add filter")).to_be_hidden()

    def render(self) -> None:
        """Open the Render dialog, and render what it proposes."""
        self.page.get_by_role("button", name="Render…").click()
        dialog = self.page.get_by_role("dialog", name="Render")
        dialog.get_by_role("button", name="Render", exact=True).click()
        expect(dialog).to_be_hidden()

    def lane(self, title: str) -> Locator:
        return self.page.get_by_role("article", name=re.compile(rf"^Filter \d+: {title}$"))

    def drag(self, handle: Locator, right: float, down: float, steps: int = 10) -> None:
        handle.scroll_into_view_if_needed()
        box = handle.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + right, y + down, steps=steps)
        self.page.mouse.up()


def number_of(field: Locator) -> float:
    """Return the number that a field shows."""
    match = re.search(r"-?[\d.]+", field.input_value())
    assert match is not None
    return float(match[0])


def first_filter(cut: dict[str, Any]) -> dict[str, Any]:
    return cut["recipe"]["filters"][0]
