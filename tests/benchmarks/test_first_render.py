"""The first render of a worker that has just started, beside the second: of a server that has been started a moment ago."""

import time
from typing import Any

import httpx

from idle_shimmer.demo.load_demo import load_demo
from tests.support.asking import asking
from tests.support.server import Application, empty_database

# What one takes to open an edit and ask for a render.
SETTLED_S = 10


def seconds(api: httpx.Client, edit: str) -> float:
    """How long a window of the edit takes from being asked for until it is done."""
    begun = time.perf_counter()
    cut = api.get(f"/api/edits/{edit}").json()["cuts"][0]["id"]
    asked = {"cut": cut, "what": "window", "format": "h264"}
    render = api.post("/api/renders", json=asked).raise_for_status().json()["id"]
    next(_ for _ in asking() if api.get(f"/api/renders/{render}").json()["state"] == "done")
    return time.perf_counter() - begun


def test_the_first_render(report: Any) -> None:
    empty_database()
    load_demo()
    with (
        Application() as running,
        httpx.Client(base_url=running.address, trust_env=False, timeout=60) as api,
    ):
        edit = api.get("/api/edits").json()[0]["id"]
        time.sleep(SETTLED_S)
        first, second = seconds(api, edit), seconds(api, edit)
        third = seconds(api, edit)
    report(
        "the first render of a worker, a window of the demo",
        f"{first:.2f} s, the second {second:.2f} s, the third {third:.2f} s",
    )
