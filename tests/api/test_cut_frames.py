"""The frames that meet at a cut: stepped, slipped and matched."""

from fastapi.testclient import TestClient

from tests.api.test_resources import messages


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
