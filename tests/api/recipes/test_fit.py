"""Fit in the API: a cut is measured, and the whole book is sorted with reasons."""

from fastapi.testclient import TestClient


def test_the_whole_book_is_sorted_with_reasons_and_set_on_the_beat(
    client: TestClient, edit: dict
) -> None:
    path = f"/api/edits/{edit['id']}"
    client.patch(path, json={"beats_per_minute": 120})
    saved = client.post(
        "/api/recipes", json={"recipe": {"format": 2, "name": "Own", "filters": []}}
    )
    cut = edit["cuts"][0]["id"]
    found = client.get(f"/api/cuts/{cut}/fit").json()
    book = client.get("/api/recipes").json()
    keys = {each["key"] for each in book["built_in"] + book["own"]}
    assert {each["key"] for each in found["recipes"]} == keys
    assert saved.json()["key"] in keys
    points = [each["points"] for each in found["recipes"]]
    assert points == sorted(points, reverse=True)
    for side in ("outgoing", "incoming"):
        assert found[side]["camera"].startswith("The camera ")
    for each in found["recipes"]:
        frames = each["before"] + each["after"]
        # A beat is as many frames as the edit shows in half a second.
        rate = float(edit["rate"]) if "/" not in edit["rate"] else 0
        assert abs(frames - rate / 2 * each["beats"]) <= 0.5
        assert each["reasons"][-1].endswith("at 120 BPM")
        # What Fit returns can be applied as it is.
        if each["recipe"]:
            assert client.post("/api/adjust", json={"recipe": each["recipe"]}).status_code == 200


def test_a_cut_that_is_not_there_is_named(client: TestClient) -> None:
    answer = client.get("/api/cuts/00000000-0000-0000-0000-000000000000/fit")
    assert answer.status_code == 404
