"""The checks of movements and of the blurs over them: direction, pace, continuity, legibility."""

import pytest

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import Finding, apply_fix, registered
from idle_shimmer.core.recipe import recipe_from_json
from tests.support.checks import context, found, swell, travel


def test_a_level_roll_under_an_upright_streak_is_crossed() -> None:
    roll = {"id": "roll", "kind": "roll", "edge": "tile", "x": travel(1)}
    blur = {"id": "blur", "kind": "directional_blur", "angle": 90, "length": swell(0.1)}
    finding = found("direction", roll, blur)
    assert (finding.status, round(finding.value)) == ("warning", 90)
    assert finding.fix is not None
    assert finding.fix.patch[0]["value"] == 0
    assert found("direction", roll, {**blur, "angle": 188}).status == "ok"
    assert found("direction", roll, {**blur, "angle": 168}).status == "warning"


def test_a_gaussian_blur_of_one_axis_lies_along_its_movement() -> None:
    roll = {"id": "roll", "kind": "roll", "edge": "tile", "y": travel(1)}
    blur = {"id": "blur", "kind": "gaussian_blur", "radius": swell(0.05)}
    assert found("direction", roll, {**blur, "axis": "vertical"}).status == "ok"
    # In all directions it lies across none.
    assert found("direction", roll, blur).status == "ok"
    finding = found("direction", roll, {**blur, "axis": "horizontal"})
    assert (finding.status, round(finding.value)) == ("warning", 90)
    assert finding.message.endswith("Set its axis to vertical.")
    assert finding.fix is not None
    assert finding.fix.patch[0] == {"op": "replace", "path": "/filters/1/axis", "value": "vertical"}


@pytest.mark.parametrize(("right", "status"), [(0.045, "ok"), (0.14, "warning")])
def test_a_movement_nearly_along_the_axis_is_covered_by_it(right: float, status: str) -> None:
    """By about 9 and 26 degrees off the vertical, in a frame of 16 to 9."""
    shift = {"kind": "transform", "shift_x": travel(right), "shift_y": travel(0.5)}
    blur = {"kind": "gaussian_blur", "radius": swell(0.05), "axis": "vertical"}
    finding = found("direction", shift, blur)
    assert finding.status == status
    if finding.fix is not None:
        assert finding.fix.patch[0]["value"] == "both"


def test_a_zoom_that_turns_round_at_the_cut_is_called_a_rebound() -> None:
    fast = {"rise": "ease-in", "fall": "ease-out"}
    zoom = {"kind": "transform", "scale": swell(1.5, **fast)}
    finding = found("continuity", zoom)
    assert (finding.status, "a rebound" in finding.message) == ("ok", True)
    uneven = found(
        "continuity", {"kind": "transform", "scale": swell(1.5, rise="ease-in", fall="linear")}
    )
    assert (uneven.status, "(a rebound)" in uneven.message) == ("warning", True)
    through = [
        {"kind": "transform", "side": "outgoing", "scale": swell(2.0, full_to=0, end=0)},
        {"kind": "transform", "side": "incoming", "scale": swell(0.5, start=0, full_from=0)},
    ]
    assert "rebound" not in found("continuity", *through).message


def test_a_blur_that_swells_before_its_movement_is_out_of_pace() -> None:
    roll = {"id": "roll", "kind": "roll", "edge": "tile", "x": travel(1, easing={"steepness": 0.9})}
    early = swell(0.1, rise="ease-out", fall="ease-in", full_from=-0.5, full_to=0.5)
    finding = found(
        "pace", roll, {"kind": "directional_blur", "length": early}, window=Window(10, 10)
    )
    assert finding.status == "warning"
    assert finding.fix is not None
    assert finding.fix.patch[0]["value"]["kind"] == "follow"


HANDLES = "cubic-bezier(0.8,0,0.2,1)"


def test_a_blur_with_the_handles_of_its_movement_keeps_pace() -> None:
    roll = {"id": "roll", "kind": "roll", "edge": "tile", "x": travel(1, easing=HANDLES)}
    window = Window(10, 10)

    def judged(rise: str, fall: str) -> Finding:
        blur = {"kind": "directional_blur", "length": swell(0.1, rise=rise, fall=fall)}
        return found("pace", roll, blur, window=window)

    assert judged(HANDLES, HANDLES).status == "ok"
    # A little nearer to the speed, and far away from it.
    assert judged("ease-in", "ease-out").status == "ok"
    assert judged("steps(1,jump-start)", "steps(1,jump-end)").status == "warning"


def test_a_gaussian_blur_keeps_pace_where_it_has_one_axis() -> None:
    roll = {"id": "roll", "kind": "roll", "edge": "tile", "y": travel(1, easing={"steepness": 0.9})}
    wide = swell(0.1, rise="ease-out", fall="ease-in", full_from=-0.5, full_to=0.5)
    blur = {"kind": "gaussian_blur", "radius": wide}
    window = Window(10, 10)
    assert found("pace", roll, {**blur, "axis": "vertical"}, window=window).status == "warning"
    assert found("pace", roll, blur, window=window).status == "ok"


def test_movements_of_one_side_are_judged_where_they_are_seen() -> None:
    """A shift to the right before the cut and one upwards after it, each under its own blur, or one over both."""
    before = {"kind": "transform", "side": "outgoing", "id": "one"}
    before |= {"shift_x": {"kind": "travel", "amount": 0.5, "end": 0, "easing": "ease-in"}}
    after = {"kind": "transform", "side": "incoming", "id": "two"}
    after |= {"shift_y": {"kind": "travel", "amount": 0.5, "start": 0, "easing": "ease-out"}}
    blur = {"kind": "directional_blur", "length": swell(0.1, rise="ease-in", fall="ease-out")}
    assert found("pace", before, after, blur).status == "ok"
    strong = {**blur, "length": swell(0.1, rise="ease-in", fall="ease-in")}
    assert found("pace", before, strong).status == "warning"
    lying = {**blur, "side": "outgoing", "angle": 0}
    upright = {**blur, "side": "incoming", "angle": 90}
    assert found("direction", before, after, lying, upright).status == "ok"
    assert found("direction", before, after, {**lying, "side": "incoming"}).status == "warning"


@pytest.mark.parametrize(
    ("rolls", "frames", "status", "value"),
    [(4, 10, "ok", 0), (5, 10, "ok", 0), (22, 34, "warning", 34), (22, 120, "ok", 0)],
)
def test_a_roll_faster_than_half_a_frame_per_frame_shows_no_direction(
    rolls: int, frames: int, status: str, value: int
) -> None:
    window = Window(frames // 2, frames // 2)
    roll = {"kind": "roll", "edge": "tile", "y": travel(-rolls, easing="linear")}
    finding = found("legibility", roll, window=window)
    assert (finding.status, finding.value) == (status, value)


def test_what_moves_too_fast_is_seen_after_each_fix() -> None:
    roll = {"kind": "roll", "edge": "tile", "y": travel(-22, easing="linear")}
    made, window = recipe_from_json({"filters": [roll]}), Window(17, 17)
    longer, fewer = registered()["legibility"].run(context(made, window)).fixes
    assert longer.window == Window(22, 22)
    assert apply_fix(made, fewer).filters[0].constant_values() is not None
    assert fewer.patch[0]["value"] == -17
    for fixed in (context(made, Window(22, 22)), context(apply_fix(made, fewer), window)):
        assert registered()["legibility"].run(fixed).status == "ok"
    one_less = Window(21, 22)
    assert registered()["legibility"].run(context(made, one_less)).status == "warning"


def test_a_push_moves_the_picture_and_one_side_counts_for_itself() -> None:
    """By a whole frame in two frames: in both of them exactly half a frame, then in one frame all of it."""
    push = {"kind": "push", "from": "left", "easing": "linear"}
    assert found("legibility", mix=push, window=Window(1, 1)).value == 0
    narrow = {**push, "span": [-0.5, 0.5]}
    assert found("legibility", mix=narrow, window=Window(1, 1)).value == 0
    pull = {"kind": "transform", "side": "incoming", "shift_x": travel(3, start=0, easing="linear")}
    finding = found("legibility", pull, window=Window(4, 4))
    assert (finding.status, finding.value, finding.frame) == ("warning", 4, 0)
