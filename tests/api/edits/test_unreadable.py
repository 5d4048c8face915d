"""Stored documents that cannot be read: shown in their place, kept, and in nobody's way."""

from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient
from psycopg.types.json import Jsonb

from idle_shimmer.settings import settings

UNKNOWN = {"name": "Drift", "format": 2, "filters": [{"id": "a", "kind": "sparkle"}]}
CUT = {"before": 4, "after": 5, "recipe": UNKNOWN}


def store(table: str, column: str, document: Any, where: str, key: str) -> None:
    """Put ``document`` into a row, past every validation."""
    with psycopg.connect(settings().plain_database(), autocommit=True) as connection:
        done = connection.execute(
            f"UPDATE {table} SET {column} = %s WHERE {where} = %s", (Jsonb(document), key)
        )
        assert done.rowcount == 1


@pytest.mark.parametrize("document", [CUT, {**CUT, "recipe": 7}, ["no object"], {"recipe": {}}])
def test_an_unreadable_cut_leaves_all_else_working(
    client: TestClient, edit: dict, document: Any
) -> None:
    broken, sound = (each["id"] for each in edit["cuts"])
    store("cut_revision", "document", document, "cut_id", broken)
    readable = document == {"recipe": {}}
    checked = client.get(f"/api/edits/{edit['id']}/checks").json()
    found = client.get(f"/api/edits/{edit['id']}").json()
    problems = [each["problem"] for each in found["cuts"]]
    assert problems == [each["problem"] for each in checked]
    assert problems[1] is None
    assert (problems[0] is None) == readable
    listed = next(e for e in client.get("/api/edits").json() if e["id"] == edit["id"])
    assert (listed["cut_count"], listed["unreadable_cuts"]) == (2, 0 if readable else 1)
    assert client.get(f"/api/cuts/{broken}").json()["problem"] == problems[0]
    assert client.get(f"/api/cuts/{broken}/document").json() == document
    assert client.get(f"/api/cuts/{sound}").json()["problem"] is None
    assert client.get(f"/api/edits/{edit['id']}/export/otio").status_code == 200
    film = f"/api/edits/{edit['id']}/film"
    assert client.get(f"{film}/frames?first=0&count=1").status_code == 200
    assert client.get(f"{film}/sound?first=0&frames=25").status_code == 200
    answer = client.post("/api/renders", json={"cut": broken})
    assert answer.status_code == (201 if readable else 422)


def test_an_unreadable_cut_can_be_replaced_and_undone(client: TestClient, edit: dict) -> None:
    cut = edit["cuts"][0]
    store("cut_revision", "document", CUT, "cut_id", cut["id"])
    body = {
        "cuts": [{"cut": cut["id"], "version": cut["version"]}],
        "recipe": {"name": "Dissolve", "mix": {"kind": "dissolve"}},
    }
    assert client.post(f"/api/edits/{edit['id']}/apply", json=body).status_code == 200
    made = client.get(f"/api/cuts/{cut['id']}").json()
    assert (made["problem"], made["recipe"]["name"]) == (None, "Dissolve")
    undone = client.post(f"/api/cuts/{cut['id']}/undo", json={"version": made["version"]})
    assert "sparkle" in undone.json()["problem"]
    assert client.get(f"/api/cuts/{cut['id']}/document").json() == CUT


def test_an_unreadable_recipe_and_variant_are_shown_with_the_others(
    client: TestClient, edit: dict
) -> None:
    cut = edit["cuts"][0]["id"]
    saved = [client.post("/api/recipes", json={"recipe": {"name": name}}).json() for name in "PQ"]
    store("saved_recipe", "document", UNKNOWN, "id", saved[0]["id"])
    own = client.get("/api/recipes").json()["own"]
    assert {each["id"]: each["problem"] is None for each in own} == {
        saved[0]["id"]: False,
        saved[1]["id"]: True,
    }
    assert client.get(f"/api/recipes/{saved[0]['id']}/file").json() == UNKNOWN
    for each in saved:
        assert client.delete(f"/api/recipes/{each['id']}").status_code == 204

    body = {"before": 4, "after": 4, "recipe": {"name": "A"}}
    variant = client.post(f"/api/cuts/{cut}/variants", json=body).json()
    store("cut_variant", "document", CUT, "id", variant["id"])
    (shown,) = client.get(f"/api/cuts/{cut}/variants").json()
    assert "sparkle" in shown["problem"]
    assert client.get(f"/api/cuts/{cut}/variants/{variant['id']}/document").json() == CUT
