"""Accounts: who is let in, who did what, and that nobody guesses passwords."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import delete
from starlette.websockets import WebSocketDisconnect
from typer.testing import CliRunner
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

from idle_shimmer.api.app import LOOPBACK, _hosts, create_app
from idle_shimmer.api.server.protection import LOOPBACK_HOSTS
from idle_shimmer.api.server.sign_in import COOKIE, SIGN_IN_FIRST
from idle_shimmer.cli import app as commands
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.settings import Settings
from idle_shimmer.store.accounts.accounts import add_account, remove_account
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Account, SignedIn, SignInFailure
from tests.api.conftest import BYTES
from tests.api.edits.test_resources import messages, save

EVERYWHERE = "0.0.0.0"  # noqa: S104  (never bound)
NAME, WORD = "Harbour desk", "lantern over water"
OTHER_WORD = "another lantern"


@pytest.fixture
def account(client: TestClient) -> Iterator[None]:
    """An account: from now on one has to sign in."""
    with session_scope() as session:
        add_account(session, NAME, WORD)
    client.app.state.gate.forget()  # type: ignore[attr-defined]
    yield
    with session_scope() as session:
        remove_account(session, NAME)
    client.cookies.clear()
    client.app.state.gate.forget()  # type: ignore[attr-defined]
    forget_failures()


def forget_failures() -> None:
    with session_scope() as session:
        session.execute(delete(SignInFailure))


def sign_in(client: TestClient, password: str = WORD, name: str = NAME) -> Any:
    return client.post("/api/session", json={"name": name, "password": password})


def test_without_accounts_nobody_signs_in(client: TestClient) -> None:
    assert client.get("/api/session").json() == {"required": False, "name": None}
    assert client.get("/api/edits").status_code == 200


@pytest.mark.usefixtures("account")
def test_nothing_is_answered_before_one_has_signed_in(client: TestClient) -> None:
    """Every operation of the API but the session and the health, downloads and sockets included."""
    for path, methods in client.app.openapi()["paths"].items():  # type: ignore[attr-defined]
        if path in ("/api/session", "/api/health"):
            continue
        address = path
        for name in ("edit_id", "cut_id", "clip_id", "render_id", "recipe_id", "placed_id"):
            address = address.replace("{" + name + "}", "00000000-0000-4000-8000-000000000000")
        for method in methods:
            answer = client.request(method, address, headers=BYTES)
            assert (answer.status_code, messages(answer)[0][1]) == (401, "sign in first"), address
    cut = "/api/cuts/00000000-0000-4000-8000-000000000000/preview"
    with pytest.raises(WebSocketDisconnect) as closed, client.websocket_connect(cut):
        pass
    assert closed.value.code == SIGN_IN_FIRST
    assert client.get("/api/session").json() == {"required": True, "name": None}
    assert client.get("/api/health").status_code == 200


@pytest.mark.usefixtures("account")
def test_who_signs_in_is_named_in_what_they_do(
    client: TestClient, clip_ids_signed_in: list[str]
) -> None:
    edit = client.post("/api/edits", json={"name": "Three", "clips": clip_ids_signed_in}).json()
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, before=3)
    steps = client.get(f"/api/cuts/{cut['id']}/history").json()["steps"]
    assert [each["author"] for each in steps] == [NAME, NAME]
    render = client.post("/api/renders", json={"edit": edit["id"]}).json()
    assert render["author"] == NAME
    # The test client names sockets otherwise than requests.
    cookie = {"Cookie": f"{COOKIE}={client.cookies[COOKIE]}"}
    with client.websocket_connect(f"/api/cuts/{cut['id']}/preview", headers=cookie) as socket:
        socket.send_text("7")
        assert socket.receive_json()["kind"] == "problem"


@pytest.fixture
def clip_ids_signed_in(client: TestClient, account: None, request: Any) -> list[str]:
    sign_in(client)
    found: list[str] = request.getfixturevalue("clip_ids")
    return found


@pytest.mark.usefixtures("account")
def test_the_cookie_is_kept_from_scripts_and_other_sites_and_ends(client: TestClient) -> None:
    answer = sign_in(client, name=" harbour  DESK ")
    assert answer.json() == {"required": True, "name": NAME}
    cookie = answer.headers["set-cookie"].lower()
    assert cookie.startswith(COOKIE)
    assert {"httponly", "samesite=strict", "path=/"} <= {each.strip() for each in cookie.split(";")}
    assert "secure" not in cookie
    token = client.cookies[COOKIE]
    with session_scope() as session:
        assert token not in {each.token_hash for each in session.query(SignedIn)}
        assert session.query(Account).one().password_hash.startswith("$argon2id$")
    behind_tls = TestClient(client.app, base_url="https://localhost")
    assert "secure" in sign_in(behind_tls).headers["set-cookie"].lower()
    assert client.delete("/api/session").status_code == 204
    client.cookies.set(COOKIE, token)
    assert client.get("/api/edits").status_code == 401
    client.cookies.set(COOKIE, "made up")
    assert client.get("/api/edits").status_code == 401


@pytest.mark.usefixtures("account")
@pytest.mark.parametrize(("address", "is_believed"), [("172.20.0.3", True), ("172.40.0.3", False)])
def test_only_a_proxy_that_is_named_says_where_a_request_comes_from(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, address: str, is_believed: bool
) -> None:
    """As our compose file has it: the proxy is in a network of containers, not at 127.0.0.1."""
    monkeypatch.setenv("IDLE_SHIMMER_PROXIES", "172.16.0.0/12,192.168.0.0/16")
    served = ProxyHeadersMiddleware(client.app, Settings().idle_shimmer_proxies)  # type: ignore[arg-type]
    proxy = TestClient(served, base_url="http://localhost", client=(address, 40000))
    proxy.headers.update({"X-Forwarded-Proto": "https", "X-Forwarded-For": "203.0.113.7"})
    assert ("secure" in sign_in(proxy).headers["set-cookie"].lower()) == is_believed
    assert sign_in(proxy, "wrong").status_code == 422
    with session_scope() as session:
        counted = {each.key for each in session.query(SignInFailure)}
    assert any("203.0.113.7" in each for each in counted) == is_believed


@pytest.mark.usefixtures("account")
def test_another_password_signs_every_other_browser_out(client: TestClient) -> None:
    elsewhere = TestClient(client.app, base_url="http://localhost")
    for each in (client, elsewhere):
        sign_in(each)
    change = {"current": WORD, "new": OTHER_WORD}
    wrong = client.put("/api/session/password", json={**change, "current": "no"})
    assert (wrong.status_code, messages(wrong)[0][1]) == (422, "the password is wrong: try again")
    short = client.put("/api/session/password", json={**change, "new": "short"})
    assert "has 10 to 200 characters" in messages(short)[0][1]
    assert client.put("/api/session/password", json=change).status_code == 204
    assert client.get("/api/edits").status_code == 200
    assert elsewhere.get("/api/edits").status_code == 401
    assert sign_in(elsewhere).status_code == 422
    assert sign_in(elsewhere, OTHER_WORD).status_code == 200


@pytest.mark.usefixtures("account")
def test_a_password_cannot_be_guessed(client: TestClient) -> None:
    for _ in range(10):
        answer = sign_in(client, "guess")
        assert (answer.status_code, messages(answer)[0][1]) == (
            422,
            "the name or the password is wrong: try again",
        )
    spent = sign_in(client)
    assert spent.status_code == 429
    assert int(spent.headers["retry-after"]) > 60
    # A name that does not exist is answered like one that does.
    forget_failures()
    unknown = sign_in(client, "guess", name="Nobody")
    assert messages(unknown)[0][1] == "the name or the password is wrong: try again"


@pytest.mark.usefixtures("account")
def test_spaces_and_capitals_gain_no_further_attempts(client: TestClient) -> None:
    for n in range(10):
        assert sign_in(client, "guess", name=f"{' ' * n}HARBOUR  desk").status_code == 422
    assert sign_in(client, "guess", name=" Harbour desk ").status_code == 429


@pytest.mark.usefixtures("account")
def test_no_more_passwords_are_compared_when_they_come_at_once(client: TestClient) -> None:
    with ThreadPoolExecutor(16) as pool:
        codes = [each.status_code for each in pool.map(lambda _: sign_in(client, "x"), range(30))]
    assert (codes.count(422), codes.count(429)) == (10, 20)


@pytest.mark.usefixtures("account")
def test_a_success_counts_as_no_failure(client: TestClient) -> None:
    assert {sign_in(client).status_code for _ in range(12)} == {200}


@pytest.mark.usefixtures("account")
def test_a_socket_ends_with_the_session_that_it_was_opened_in(
    client: TestClient, clip_ids_signed_in: list[str]
) -> None:
    edit = client.post("/api/edits", json={"name": "Three", "clips": clip_ids_signed_in}).json()
    cookie = {"Cookie": f"{COOKIE}={client.cookies[COOKIE]}"}
    path = f"/api/cuts/{edit['cuts'][0]['id']}/preview"
    with client.websocket_connect(path, headers=cookie) as socket:
        socket.send_text("7")
        assert socket.receive_json()["kind"] == "problem"
        assert client.delete("/api/session").status_code == 204
        socket.send_text("7")
        with pytest.raises(WebSocketDisconnect) as closed:
            socket.receive_json()
    assert closed.value.code == SIGN_IN_FIRST


def test_a_public_server_answers_nothing_once_its_last_account_is_gone(client: TestClient) -> None:
    """``idle-shimmer user remove`` may take the last one from under a server that runs."""
    served = TestClient(create_app(is_public=True), base_url="http://localhost")
    assert served.get("/api/health").status_code == 200
    for method, path in (("GET", "/api/edits"), ("GET", "/api/session"), ("POST", "/api/clips")):
        answer = served.request(method, path)
        assert (answer.status_code, "has no accounts" in answer.text) == (503, True)
    cut = "/api/cuts/00000000-0000-4000-8000-000000000000/preview"
    with pytest.raises(WebSocketDisconnect), served.websocket_connect(cut):
        pass


def test_beyond_loopback_it_does_not_serve_without_accounts(client: TestClient) -> None:
    assert _hosts(LOOPBACK, ()) == list(LOOPBACK_HOSTS)
    for host, names in ((EVERYWHERE, ()), ("192.0.2.1", ()), (LOOPBACK, ("edit.example",))):
        with pytest.raises(InvalidValue, match="add an account first"):
            _hosts(host, names)
    with pytest.raises(InvalidValue, match="is not an address"):
        _hosts("edit.example", ())


@pytest.mark.usefixtures("account")
def test_with_accounts_it_answers_to_its_names_alone(client: TestClient) -> None:
    with pytest.raises(InvalidValue, match="give the name under which browsers"):
        _hosts(EVERYWHERE, ())
    assert "192.0.2.1" in _hosts("192.0.2.1", ())
    served = TestClient(create_app(hosts=_hosts(EVERYWHERE, ("edit.example",))))
    for base, status in (("http://edit.example", 200), ("http://strange.example", 421)):
        assert served.get(f"{base}/api/session").status_code == status


def test_accounts_are_added_listed_and_removed_by_command(client: TestClient) -> None:
    def run(*arguments: str, word: str = "") -> Any:
        return CliRunner().invoke(commands, ["user", *arguments], input=word)

    assert run("add", "Quay", word=f"{WORD}\n").exit_code == 0
    again = run("add", "quay", word=f"{WORD}\n")
    assert (again.exit_code, again.stderr.count("\n")) == (2, 1)
    assert "there is an account quay already" in again.stderr
    assert run("add", "../x", word=f"{WORD}\n").exit_code == 2
    assert "10 to 200 characters" in run("add", "Pier", word="short\n").stderr
    assert "Quay" in run("list").stdout
    assert run("remove", "Quay").exit_code == 0
    assert run("list").stdout == ""
    assert "there is no account Quay" in run("remove", "Quay").stderr
    client.app.state.gate.forget()  # type: ignore[attr-defined]
