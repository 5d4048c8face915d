"""What could silence the live preview: hostile messages, faults, a file that takes long, too many pages."""

import asyncio
import json
import threading
from typing import Any

import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from idle_shimmer.api.preview import scheduler
from idle_shimmer.api.preview.slots import PreviewLoad
from idle_shimmer.api.preview.socket import FAULT, TOO_MANY
from idle_shimmer.limits import limits
from idle_shimmer.media.previews.picture_cache import picture_cache
from tests.api.preview.test_preview import ask, parsed

HOSTILE = {
    "deep lists": "[" * 100_000,
    "deep objects": '{"recipe":' * 50_000,
    "a list": "[1, 2]",
    "a number": "7",
    "nothing": "",
    "no finite number": ask(5).replace("0.2", "NaN"),
    "an endless number": ask(5).replace("0.2", "1e999"),
    "a frame beyond every edit": ask(5, shown=10**30),
    "an id beyond every number": ask(10**40),
    "zero bytes": ask(5).replace("swell", "sw\\u0000ell"),
    "lone surrogates": ask(5, note="\\ud800"),
    "too many sources": ask(5, sources=list(range(9))),
    "a focus without a frame": json.dumps({"id": 5}),
}


@pytest.mark.parametrize("text", HOSTILE.values(), ids=HOSTILE)
def test_a_hostile_message_is_answered_and_the_preview_goes_on(
    client: TestClient, edit: dict, text: str
) -> None:
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(text)
        answer = parsed(socket.receive())
        assert answer["kind"] == "problem"
        assert answer["problems"][0]["message"]
        socket.send_bytes(b"\x00\xff" * 99)
        assert parsed(socket.receive())["kind"] == "problem"
        socket.send_text(ask(6, rest=False))
        assert parsed(socket.receive())["kind"] == "frame"


def test_a_fault_while_a_picture_is_made_is_said_and_the_preview_goes_on(
    client: TestClient, edit: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object) -> bytes:
        raise ZeroDivisionError("secret")

    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        with monkeypatch.context() as broken:
            broken.setattr(scheduler.Work, "make", fail)
            socket.send_text(ask(1, rest=False))
            answer = parsed(socket.receive())
            assert (answer["kind"], answer["id"]) == ("problem", 1)
            assert "secret" not in str(answer)
        socket.send_text(ask(2, rest=False))
        assert parsed(socket.receive())["kind"] == "frame"


def test_a_socket_whose_maker_has_died_is_closed(
    client: TestClient, edit: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object) -> list[Any]:
        raise ZeroDivisionError("secret")

    monkeypatch.setattr(scheduler.Work, "next_tasks", fail)
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(1))
        assert "error in the program" in str(parsed(socket.receive()))
        with pytest.raises(WebSocketDisconnect) as closed:
            socket.receive_text()
    assert closed.value.code == FAULT


def test_other_pages_go_on_while_a_long_file_is_indexed(
    client: TestClient, edit: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The index of a file that nobody opened yet is waited for, by nobody but its own page."""
    indexing, go_on = threading.Event(), threading.Event()
    cache = picture_cache()
    index_of = cache.index_of

    def slow_index(path: Any) -> Any:
        paths.append(path)
        if path == paths[0]:
            indexing.set()
            assert go_on.wait(60)
        return index_of(path)

    paths: list[Any] = []
    monkeypatch.setattr(cache, "_files", {})
    monkeypatch.setattr(cache, "index_of", slow_index)
    address = f"/api/cuts/{edit['cuts'][1]['id']}/preview"
    with client.websocket_connect(address) as waiting:
        waiting.send_text(ask(1, rest=False))
        assert indexing.wait(60)
        assert client.get("/api/edits").status_code == 200
        with client.websocket_connect(address) as other:
            other.send_text("7")
            assert parsed(other.receive())["kind"] == "problem"
        go_on.set()
        assert parsed(waiting.receive())["kind"] == "frame"


def test_previews_of_one_client_and_in_all_are_limited(
    client: TestClient, edit: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(limits(), "max_previews_per_client", 1)
    address = f"/api/cuts/{edit['cuts'][0]['id']}/preview"
    with client.websocket_connect(address), client.websocket_connect(address) as second:
        assert "close a page" in str(parsed(second.receive()))
        with pytest.raises(WebSocketDisconnect) as closed:
            second.receive_text()
        assert closed.value.code == TOO_MANY
    with client.websocket_connect(address) as third:
        third.send_text(ask(1, rest=False))
        assert parsed(third.receive())["kind"] == "frame"
    load = PreviewLoad()
    monkeypatch.setattr(limits(), "max_previews", 2)
    assert load.enter("a") is None
    assert load.enter("b") is None
    assert "as many previews as it may" in str(load.enter("c"))
    load.leave("a")
    assert load.enter("c") is None


def test_pictures_of_many_pages_are_computed_in_turn() -> None:
    """Who waits longest is next: a page that asks more often gets no more."""

    async def share() -> list[str]:
        load, order = PreviewLoad(slots=1), []

        async def page(name: str) -> None:
            for _ in range(5):
                async with load.slots:
                    order.append(name)
                    await asyncio.sleep(0)

        await asyncio.gather(*(page(name) for name in "abc"))
        return order

    result: list[list[str]] = []
    thread = threading.Thread(target=lambda: result.append(asyncio.run(share())))
    thread.start()
    thread.join()
    assert result[0] == list("abc" * 5)
