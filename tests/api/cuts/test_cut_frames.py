"""The frames that meet at a cut: stepped, slipped and matched."""

from fastapi.testclient import TestClient

from tests.api.edits.test_resources import messages


def ends(edit: dict) -> list[tuple[int, int]]:
    return [(each["in_frame"], each["out_frame"]) for each in edit["placed"]]


def trimmed(client: TestClient, edit: dict) -> dict:
    """The edit with ten frames to spare on both sides of every clip."""
    for each in edit["placed"]:
        path = f"/api/edits/{edit['id']}/placed/{each['id']}"
        edit = client.patch(path, json={"in_frame": 10, "out_frame": 50}).json()
    return edit


def test_cut_frames_are_stepped_slipped_and_undone(client: TestClient, edit: dict) -> None:
    edit = trimmed(client, edit)
    path = f"/api/edits/{edit['id']}/cuts/{edit['cuts'][1]['id']}/step"
    stepped = client.post(path, json={"outgoing": -2, "incoming": 1}).json()
    assert ends(stepped) == [(10, 50), (10, 48), (11, 50)]
    assert stepped["undo_label"] == "Step outgoing clip by -2 and incoming clip by +1"
    slipped = client.post(path, json={"outgoing": 3, "slip": True}).json()
    assert ends(slipped) == [(10, 50), (13, 51), (11, 50)]
    for _ in range(2):
        back = client.post(f"/api/edits/{edit['id']}/undo").json()
    assert ends(back) == [(10, 50)] * 3
    refused = client.post(path, json={"outgoing": 1, "incoming": -11})
    assert refused.status_code == 422
    assert "three has frames 0 to 60" in messages(refused)[0][1]
    # One that is refused takes nothing of the other with it.
    assert ends(client.get(f"/api/edits/{edit['id']}").json()) == [(10, 50)] * 3


def test_steps_of_a_cut_and_changes_of_its_transition_are_undone_in_their_order(
    client: TestClient, edit: dict
) -> None:
    """On the bench there is one undo: what was done last goes back first, whatever it was."""
    edit = trimmed(client, edit)
    cut, other = (each["id"] for each in edit["cuts"])

    def now() -> dict:
        return client.get(f"/api/cuts/{cut}").json()

    def step(by: int) -> None:
        body = {"outgoing": by, "label": f"Step {by}"}
        assert client.post(f"/api/edits/{edit['id']}/cuts/{cut}/step", json=body).status_code == 200

    def change(name: str) -> None:
        body = {"version": now()["version"], "before": 3, "after": 3, "label": name}
        made = client.put(f"/api/cuts/{cut}", json={**body, "recipe": {"name": name}})
        assert made.status_code == 200

    def back(way: str = "undo") -> tuple[str, int]:
        found = client.post(f"/api/cuts/{cut}/{way}", json={"version": now()["version"]}).json()
        return found["recipe"]["name"], found["outgoing"]["out_frame"]

    change("One")
    step(-2)
    change("Two")
    step(-3)
    assert now()["outgoing"]["out_frame"] == 45
    assert [back() for _ in range(3)] == [("Two", 48), ("One", 48), ("One", 50)]
    assert now()["undo_label"] == "One"
    assert [back("redo") for _ in range(3)] == [("One", 48), ("Two", 48), ("Two", 45)]
    assert (now()["undo_label"], now()["redo_label"]) == (now()["undo_label"], None)
    stale = client.post(f"/api/cuts/{cut}/undo", json={"version": 1})
    assert stale.status_code == 409
    # Steps about another cut, or about the whole edit, are not undone here.
    client.patch(f"/api/edits/{edit['id']}", json={"name": "Renamed"})
    assert now()["undo_label"] == "Two"
    assert client.get(f"/api/cuts/{other}").json()["undo_label"] is None


def test_pairs_are_counted_from_the_frames_that_meet_now(client: TestClient, edit: dict) -> None:
    edit = trimmed(client, edit)
    path = f"/api/cuts/{edit['cuts'][0]['id']}/frame-pairs"
    found = client.get(path, params={"reach": 4}).json()
    assert (found["first_outgoing"], found["first_incoming"]) == (-4, -4)
    assert (len(found["similarity"]), len(found["similarity"][0])) == (9, 9)
    for pair in found["best"]:
        row, column = pair["outgoing"] + 4, pair["incoming"] + 4
        assert found["similarity"][row][column] == pair["similarity"]
    best = [pair["similarity"] for pair in found["best"]]
    assert best[0] == max(map(max, found["similarity"]))
    assert best == sorted(best, reverse=True)
