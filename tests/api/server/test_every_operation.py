"""Every operation of the API under generated requests: no fault of the program, answers as described.

Requests are made from the API's own description (OpenAPI 3.1) by schemathesis; ids in addresses are
mostly of objects that exist.
"""

import uuid
from typing import Any

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, seed
from hypothesis import settings as how
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from idle_shimmer.api.app import create_app
from idle_shimmer.api.server.protection import LOOPBACK_HOSTS
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders.renders import render_by_id
from idle_shimmer.store.tables import BeatDetection
from tests.api.conftest import BYTES
from tests.api.recipes.test_recipes import MINE
from tests.faults.tally import TIMES, Tally
from tests.support.clips import numbered, write_clip

SCHEMA = schemathesis.openapi.from_asgi(
    "/openapi.json", create_app(hosts=(*LOOPBACK_HOSTS, "testserver"))
)
OPERATIONS = {
    f"{found.ok().method.upper()} {found.ok().path}": found.ok()
    for found in SCHEMA.get_all_operations()
}
CHECKS = [
    not_a_server_error,
    response_schema_conformance,
    content_type_conformance,
    status_code_conformance,
]
EXAMPLES = 8 * min(TIMES, 8)
STRANGE_IDS = 0.15
TALLY = Tally("generated requests")


class Objects:
    """Ids of objects that exist; those that a request deleted are made anew."""

    def __init__(self, client: TestClient, clip: bytes) -> None:
        self._client, self._clip = client, clip
        self.ids: dict[str, str] = {}
        self.may_have_changed = False

    def refresh(self) -> dict[str, str]:
        """Return the ids, by the names of the path's parameters."""
        if not self.ids or (self.may_have_changed and not self._all_there()):
            self.ids = self._made()
        self.may_have_changed = False
        return self.ids

    def _all_there(self) -> bool:
        kinds = {"edit_id": "edits", "cut_id": "cuts", "render_id": "renders"}
        found = [self._client.get(f"/api/{kind}/{self.ids[n]}") for n, kind in kinds.items()]
        found.append(self._client.get(f"/api/recipes/{self.ids['recipe_id']}/file"))
        found.append(self._client.get(f"/api/clips/{self.ids['clip_id']}/waveform"))
        listed = [each["id"] for each in found[0].json().get("placed", [])]
        listed += [each["id"] for each in self._client.get("/api/presets").json()]
        there = {self.ids["placed_id"], self.ids["preset_id"]} <= set(listed)
        return there and all(each.status_code == 200 for each in found)

    def _made(self) -> dict[str, str]:
        post = self._client.post
        clip = post("/api/clips", params={"name": "a.mp4"}, content=self._clip, headers=BYTES)
        number = clip.json()["id"]
        edit = post("/api/edits", json={"name": "Evening", "clips": [number] * 3}).json()
        saved = {**MINE, "name": f"Mine {uuid.uuid4()}"}
        cut = edit["cuts"][0]["id"]
        post(f"/api/clips/{number}/cuts")
        box = [{"frame": 3, "box": [0.2, 0.2, 0.5, 0.5]}]
        marked = self._client.put(f"/api/cuts/{cut}/subject/outgoing", json={"strokes": box})
        with session_scope() as session:
            found = {"bpm": 120.0, "offset_s": 0.1, "beats_s": [0.1, 0.6]}
            session.merge(BeatDetection(clip_id=uuid.UUID(number), state="done", found=found))
        # Steps that can be undone and redone.
        for name in ("Night", "Late night"):
            self._client.patch(f"/api/edits/{edit['id']}", json={"name": name})
        post(f"/api/edits/{edit['id']}/undo")
        deleted = post("/api/edits", json={"name": "Deleted", "clips": [number]}).json()["id"]
        self._client.delete(f"/api/edits/{deleted}")
        variant = {"before": 4, "after": 4, "recipe": MINE}
        return {
            "clip_id": number,
            "edit_id": edit["id"],
            "cut_id": cut,
            "placed_id": edit["placed"][0]["id"],
            "preset_id": post("/api/presets", json={"name": saved["name"], "recipe": saved}).json()[
                "id"
            ],
            "recipe_id": post("/api/recipes", json={"recipe": saved}).json()["id"],
            "render_id": rendered(post("/api/renders", json={"cut": cut}).json()["id"]),
            "deleted_edit_id": deleted,
            "variant_id": post(f"/api/cuts/{cut}/variants", json=variant).json().get("id", cut),
            "matte_id": marked.json()["matte"]["id"],
            "number": "3",
            "key": "burn-through-white",
        }


def rendered(render_id: str) -> str:
    """The same render, done, with a file."""
    file = settings().renders / f"{render_id}-1.mp4"
    file.parent.mkdir(exist_ok=True)
    file.write_bytes(b"film")
    with session_scope() as session:
        render = render_by_id(session, uuid.UUID(render_id))
        render.state, render.file = "done", file.name
    return render_id


def with_known(body: Any, known: dict[str, str]) -> Any:
    """A body whose ids are of objects that exist."""
    if isinstance(body, list):
        return [with_known(each, known) for each in body]
    if not isinstance(body, dict):
        return body
    found = {name: with_known(value, known) for name, value in body.items()}
    for name in ("clip", "cut", "edit"):
        if isinstance(found.get(name), str):
            found[name] = known[f"{name}_id"]
    if isinstance(found.get("clips"), list):
        found["clips"] = [known["clip_id"] for _ in found["clips"]]
    return found


@pytest.fixture(scope="module")
def objects(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> Objects:
    path = tmp_path_factory.mktemp("clip") / "a.mp4"
    return Objects(client, write_clip(path, [numbered(n) for n in range(90)]).read_bytes())


@pytest.mark.parametrize("name", OPERATIONS)
def test_no_request_makes_the_program_fail(name: str, client: TestClient, objects: Objects) -> None:
    operation = OPERATIONS[name]
    reached: set[int] = set()

    @seed(7)
    @how(
        max_examples=EXAMPLES,
        deadline=None,
        database=None,
        phases=[Phase.explicit, Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(case=operation.as_strategy(), draw=st.floats(0, 1))
    def ask(case: Any, draw: float) -> None:
        if draw >= STRANGE_IDS:
            known = objects.refresh()
            if name.endswith("/permanently"):
                known = {**known, "edit_id": known["deleted_edit_id"]}
            for parameter, value in (case.path_parameters or {}).items():
                case.path_parameters[parameter] = known.get(parameter, value)
            case.body = with_known(case.body, known)
        if case.media_type == "application/octet-stream" or case.body is None:
            case.headers = {**(case.headers or {}), **BYTES}
        answer = case.call()
        reached.add(answer.status_code)
        objects.may_have_changed |= case.method != "GET" and answer.status_code < 400
        TALLY.add("requests")
        TALLY.add(f"answered {answer.status_code}")
        case.validate_response(answer, checks=CHECKS)

    ask()
    TALLY.save()
    assert reached - {404, 415}, f"{name} was never reached"
