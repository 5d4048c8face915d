"""Signing in, the account menu, and what is held, in the browser."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from playwright.sync_api import Locator, Page, expect

from idle_shimmer.store.accounts.accounts import add_account, remove_account
from idle_shimmer.store.database import session_scope
from tests.api.conftest import BYTES
from tests.browser.bench_page import BenchPage
from tests.browser.test_accessibility import violations
from tests.support.clips import numbered, write_clip

NAME, WORD, OTHER_WORD = "Harbour desk", "lantern over water", "another lantern"


@pytest.fixture
def account(api: httpx.Client) -> Iterator[None]:
    with session_scope() as session:
        add_account(session, NAME, WORD)
    # The server asks at once who has to sign in.
    api.delete("/api/session")
    yield
    with session_scope() as session:
        remove_account(session, NAME)
    api.delete("/api/session")


def sign_in(place: Page | Locator, word: str) -> None:
    place.get_by_role("textbox", name="Name").fill(NAME.lower())
    password = place.get_by_role("textbox", name="Password")
    password.fill(word)
    password.press("Enter")


@pytest.mark.usefixtures("account")
def test_a_visitor_signs_in_changes_the_password_and_signs_out(page: Page, address: str) -> None:
    page.goto(f"{address}/renders")
    expect(page.get_by_role("textbox", name="Name")).to_be_focused()
    sign_in(page, "nonsense")
    expect(page.get_by_role("alert")).to_contain_text("The name or the password is wrong")
    assert violations(page) == []
    expect(page.get_by_role("textbox", name="Password")).to_have_value("")
    sign_in(page, WORD)
    expect(page).to_have_url(f"{address}/renders")
    page.get_by_role("button", name=f"Account of {NAME}").click()
    assert violations(page) == []
    page.get_by_role("button", name="Change password…").click()
    dialog = page.get_by_role("dialog", name="Change password")
    dialog.get_by_label("Current password").last.fill(WORD)
    dialog.get_by_role("textbox", name="New password", exact=True).fill(OTHER_WORD)
    dialog.get_by_role("textbox", name="New password again").fill("another")
    expect(dialog.get_by_role("alert")).to_contain_text("differ")
    dialog.get_by_role("textbox", name="New password again").fill(OTHER_WORD)
    dialog.get_by_role("button", name="Change password").click()
    expect(page.get_by_text("Password changed.")).to_be_visible()
    page.get_by_role("button", name=f"Account of {NAME}").click()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("textbox", name="Name")).to_be_visible()
    page.goto(f"{address}/edits/00000000-0000-4000-8000-000000000000")
    sign_in(page, OTHER_WORD)
    expect(page.get_by_role("alert")).to_contain_text("there is no such edit")


def test_work_waits_for_a_session_that_ended_and_goes_on(
    page: Page,
    address: str,
    own_demo: dict[str, Any],
    account: None,
) -> None:
    cut = own_demo["cuts"][3]["id"]
    page.goto(f"{address}/cuts/{cut}")
    sign_in(page, WORD)
    page.wait_for_url(f"{address}/cuts/{cut}")
    bench = BenchPage(page, address, cut)
    page.context.clear_cookies()
    page.keyboard.press("Shift+Equal")
    dialog = page.get_by_role("dialog", name="Sign in to go on")
    expect(dialog).to_be_visible()
    assert violations(page) == []
    sign_in(dialog, "nonsense")
    expect(dialog.get_by_role("alert")).to_contain_text("The name or the password is wrong")
    expect(page).to_have_url(f"{address}/cuts/{cut}")
    sign_in(dialog, WORD)
    expect(dialog).to_be_hidden()
    bench.wait_saved()
    saved = page.request.get(f"{address}/api/cuts/{cut}").json()
    assert saved["before"] == own_demo["cuts"][3]["before"] + 1


def test_without_accounts_there_is_nothing_to_sign_in_to(page: Page, address: str) -> None:
    page.goto(f"{address}/sign-in?to=/renders")
    expect(page).to_have_url(f"{address}/renders")


def test_unused_clips_and_deleted_edits_are_removed_for_good(
    page: Page, address: str, api: httpx.Client, own_demo: dict[str, Any], tmp_path: Path
) -> None:
    content = write_clip(tmp_path / "spare.mp4", [numbered(n + 9) for n in range(30)]).read_bytes()
    api.post("/api/clips", params={"name": "spare.mp4"}, content=content, headers=BYTES)
    api.delete(f"/api/edits/{own_demo['id']}")
    page.goto(address)
    storage = page.get_by_role("group", name="Storage")
    expect(storage).to_contain_text("Free:")
    storage.get_by_role("button", name="Delete unused clips…").click()
    page.get_by_role("dialog").get_by_role("button", name="Cancel").click()
    assert api.get("/api/storage").json()["unused_clips"] > 0
    storage.get_by_role("button", name="Delete unused clips…").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete unused clips").click()
    expect(storage).not_to_contain_text("Not used in any edit")
    assert api.get("/api/storage").json()["unused_clips"] == 0
    name = own_demo["name"]
    page.get_by_role("button", name=f"Delete permanently… {name}").first.click()
    page.get_by_role("button", name="Delete permanently", exact=True).click()
    expect(page.get_by_text(f"Deleted “{name}” permanently.")).to_be_visible()
    assert own_demo["id"] not in [each["id"] for each in api.get("/api/edits/deleted").json()]
