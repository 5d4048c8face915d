"""An edit of 500 cuts: what the server takes for what an editor does with it."""

# Fixtures are arguments of the name under which they are imported.
# ruff: noqa: F811

import time
from collections.abc import Callable
from typing import Any

import httpx
import pytest
from scripts.large_edit import make_large_edit

from tests.browser.conftest import address, api  # noqa: F401

CUTS = 500


@pytest.fixture(scope="module")
def long_edit(api: httpx.Client) -> dict[str, Any]:
    """The edit, every check found."""
    edit = make_large_edit(CUTS, "Lantern night, long")
    found: dict[str, Any] = api.get(f"/api/edits/{edit}").json()
    while any(each["worst"] is None for each in api.get(f"/api/edits/{edit}/checks").json()):
        pass
    return found


def timed(ask: Callable[[], httpx.Response]) -> tuple[float, Any]:
    """Return the seconds that a request took, and its answer."""
    began = time.perf_counter()
    answer = ask()
    took = time.perf_counter() - began
    answer.raise_for_status()
    return took, answer


def test_an_edit_of_500_cuts(api: httpx.Client, long_edit: dict[str, Any], report: Any) -> None:
    path = f"/api/edits/{long_edit['id']}"
    took, answer = timed(lambda: api.get(path))
    report(f"{CUTS} cuts, opened", f"{took:.2f} s (goal 1)")
    edit = answer.json()
    first = edit["placed"][0]

    took, _ = timed(
        lambda: api.patch(f"{path}/placed/{first['id']}", json={"in_frame": first["in_frame"] + 1})
    )
    report(f"{CUTS} cuts, one clip trimmed", f"{took:.2f} s (goal 0.9)")
    took, answer = timed(lambda: api.post(f"{path}/undo"))
    report(f"{CUTS} cuts, the trim undone", f"{took:.2f} s (goal 0.9)")

    cuts = [{"cut": each["id"], "version": each["version"]} for each in answer.json()["cuts"]]
    recipe = api.get("/api/recipes", params={"rate": "25"}).json()["built_in"][0]["recipe"]
    took, _ = timed(lambda: api.post(f"{path}/apply", json={"cuts": cuts, "recipe": recipe}))
    report(f"{CUTS} cuts, one recipe applied to all", f"{took:.2f} s (goal 2)")
    began = time.perf_counter()
    while any(each["worst"] is None for each in api.get(f"{path}/checks").json()):
        pass
    report(f"{CUTS} cuts, all checked", f"{time.perf_counter() - began:.1f} s (goal 20)")
    took, _ = timed(lambda: api.post(f"{path}/undo"))
    report(f"{CUTS} cuts, the recipe undone", f"{took:.2f} s (goal 2)")
    for kind in ("otio", "edl"):
        took, _ = timed(lambda kind=kind: api.get(f"{path}/export/{kind}"))
        report(f"{CUTS} cuts, exported as {kind.upper()}", f"{took:.2f} s (goal 3)")
