"""The cut checks, on transitions with a known fault, and on the fixes that they offer."""

from fractions import Fraction

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core import checks  # noqa: F401
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import (
    CheckContext,
    Finding,
    Shortage,
    apply_fix,
    check_all,
    registered,
)
from idle_shimmer.core.checks.flashes import flashing
from idle_shimmer.core.recipe import Recipe, recipe_from_json

SIZE = (1280, 720)
USUAL = Window(5, 5)


def context(recipe: Recipe, window: Window = USUAL, **more: object) -> CheckContext:
    return CheckContext(Timeline(recipe, window, Fraction(25), SIZE), **more)  # type: ignore[arg-type]


def found(check: str, *filters: dict, window: Window = USUAL, **recipe: object) -> Finding:
    """What one check finds; every finding must come with its fix proved, where it has one."""
    made = recipe_from_json({"filters": list(filters), **recipe})
    finding = registered()[check].run(context(made, window))
    if finding.fix is not None and finding.fix.patch:
        after = registered()[check].run(context(apply_fix(made, finding.fix), window))
        assert after.status == "ok", f"the fix of {check} leaves {after}"
    return finding


def travel(amount: float, **more: object) -> dict:
    return {"kind": "travel", "amount": amount, **more}


def swell(peak: float, **more: object) -> dict:
    return {"kind": "swell", "peak": peak, **more}


def test_a_roll_from_360_to_16247_is_47_pixels_over() -> None:
    """The values of a hand-typed roll (common practice)."""
    roll = {"kind": "roll", "edge": "tile", "y": travel((16247 - 360) / 720)}
    finding = found("landing", roll)
    assert (finding.status, finding.unit) == ("failed", "px")
    assert finding.value == pytest.approx(47, abs=0.01)
    assert "22.065 rolls" in finding.message
    assert finding.fix is not None
    assert finding.fix.patch[0]["value"] == 22


def test_an_odd_number_of_mirrored_rolls_lands_reversed() -> None:
    finding = found("landing", {"kind": "roll", "edge": "mirror", "x": travel(3)})
    assert finding.status == "failed"
    assert "reversed" in finding.message
    assert found("landing", {"kind": "roll", "edge": "mirror", "x": travel(4)}).status == "ok"
    assert found("landing", {"kind": "roll", "edge": "tile", "x": travel(3)}).status == "ok"


def test_a_turn_that_is_not_whole_is_told_in_degrees() -> None:
    finding = found("landing", {"kind": "transform", "turns": travel(1.1)})
    assert (finding.status, finding.unit, round(finding.value)) == ("failed", "deg", 36)


def test_outgoing_passes_need_not_land() -> None:
    roll = {"kind": "roll", "edge": "tile", "x": travel(0.4), "side": "outgoing"}
    assert found("landing", roll).status == "ok"


@pytest.mark.parametrize(
    ("side", "radius", "status"),
    [
        ("across", 0.02, "failed"),
        ("across", swell(0.02), "ok"),
        (
            "outgoing",
            {"kind": "keyframes", "keyframes": [{"at": -1, "value": 0}, {"at": 0, "value": 0.1}]},
            "ok",
        ),
        (
            "incoming",
            {"kind": "keyframes", "keyframes": [{"at": 0, "value": 0}, {"at": 1, "value": 0.1}]},
            "failed",
        ),
    ],
)
def test_passes_rest_where_they_are_seen(side: str, radius: object, status: str) -> None:
    finding = found("rest", {"kind": "gaussian_blur", "side": side, "radius": radius})
    assert finding.status == status


def test_a_keyframe_away_from_rest_on_the_first_frame_is_asked_about() -> None:
    """A hit starts so; a value without keyframes, or one that stays at the end, is a mistake."""

    def blur(first: float, last: float, at: object = -1) -> dict:
        keyframes = [{"at": at, "value": first}, {"at": 0.5, "value": last}]
        return {"kind": "gaussian_blur", "radius": {"kind": "keyframes", "keyframes": keyframes}}

    for at in (-1, {"frames": -4.5}):
        hard = found("rest", blur(0.05, 0, at))
        assert (hard.status, hard.value, hard.frame) == ("warning", 1, -5)
        assert hard.message.endswith("Accept that if it is meant.")
    assert found("rest", blur(0.05, 0, -0.5)).status == "failed"
    assert found("rest", blur(0.05, 0.05)).status == "failed"
    assert found("rest", blur(0, 0)).status == "ok"


def test_missing_spare_frames_are_counted_with_three_ways_out() -> None:
    made = recipe_from_json({"mix": {"kind": "dissolve"}})
    short = [Shortage("outgoing", "Hoisted sail", 5, 2)]
    finding = registered()["spare_frames"].run(
        context(made, shortages=short, span_that_fits=(-1.0, 0.4))
    )
    assert (finding.status, finding.value, finding.frame) == ("failed", 3, 2)
    assert [fix.label.split()[0] for fix in finding.fixes] == ["Shorten", "Hold", "Move"]
    assert finding.fixes[2].move_cut == -3


def test_half_scale_with_black_edges_leaves_three_quarters_bare() -> None:
    finding = found("edges", {"kind": "transform", "scale": 0.5, "edge": "black"})
    assert finding.status == "failed"
    assert finding.value == pytest.approx(75, abs=1)


def test_a_black_edge_that_is_never_seen_is_fine() -> None:
    zoomed = {"kind": "transform", "scale": swell(1.4), "edge": "black"}
    assert found("edges", zoomed).status == "ok"


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


def test_a_blur_at_full_on_the_first_frame_is_abrupt() -> None:
    finding = found("abrupt", {"kind": "gaussian_blur", "radius": swell(0.05, full_from=-1)})
    assert (finding.status, finding.frame) == ("failed", -5)
    steps = swell(0.05, full_from=-1, rise="steps(3,end)")
    assert found("abrupt", {"kind": "gaussian_blur", "radius": steps}).status == "ok"
    assert found("abrupt", {"kind": "gaussian_blur", "radius": swell(0.05)}).status == "ok"


def test_a_sharp_zoom_to_300_percent_is_a_warning() -> None:
    zoom = {"kind": "transform", "scale": swell(3.0, full_from=-0.3, full_to=0.3)}
    finding = found("enlargement", zoom)
    assert (finding.status, round(finding.value)) == ("warning", 300)
    assert found("enlargement", {"kind": "transform", "scale": swell(1.4)}).status == "ok"
    blurred = {"kind": "gaussian_blur", "radius": swell(0.02, full_from=-0.3, full_to=0.3)}
    assert found("enlargement", zoom, blurred).status == "ok"


def test_a_peak_away_from_the_cut_is_a_warning_unless_tagged() -> None:
    late = {"kind": "gaussian_blur", "radius": swell(0.05, full_from=0.6, full_to=0.7)}
    assert (found("peak", late).status, found("peak", late).value) == ("warning", 3)
    assert found("peak", late, tags=["off-cut"]).status == "ok"


def pictures(
    levels: list[float], colour: tuple[float, float, float] = (1, 1, 1), share: float = 1.0
) -> list[NDArray]:
    """A dark picture whose left ``share`` shows each of the luminances in turn."""
    made = []
    for level in levels:
        display = 1.055 * max(level, 1e-4) ** (1 / 2.4) - 0.055
        picture = np.zeros((144, 192, 3), np.uint8)
        picture[:, : round(192 * share)] = np.rint(255 * max(display, 0) * np.array(colour))
        made.append(picture)
    return made


def flashes_of(count: int, low: float, high: float, every: int = 3) -> list[float]:
    levels = [low] * every
    for _ in range(count):
        levels += [high] * every + [low] * every
    return levels


@pytest.mark.parametrize(
    ("levels", "share", "colour", "count"),
    [
        (flashes_of(4, 0.0, 1.0), 1.0, (1, 1, 1), 4),
        (flashes_of(3, 0.0, 1.0), 1.0, (1, 1, 1), 3),
        # Around 10 % of change, the darker at 0.5.
        (flashes_of(4, 0.50, 0.61), 1.0, (1, 1, 1), 4),
        (flashes_of(4, 0.50, 0.59), 1.0, (1, 1, 1), 0),
        # Around 0.80 of the darker state.
        (flashes_of(4, 0.78, 0.95), 1.0, (1, 1, 1), 4),
        (flashes_of(4, 0.82, 0.99), 1.0, (1, 1, 1), 0),
        # Around a quarter of a block: 341 of 1024 is a third of the width.
        (flashes_of(4, 0.0, 1.0), 0.12, (1, 1, 1), 4),
        (flashes_of(4, 0.0, 1.0), 0.06, (1, 1, 1), 0),
        # A saturated red that is too dark for a general flash.
        (flashes_of(4, 0.0, 0.3), 1.0, (1, 0, 0), 4),
    ],
)
def test_flashes_around_each_threshold(
    levels: list[float], share: float, colour: tuple, count: int
) -> None:
    """WCAG 2.2, success criterion 2.3.1 and its definitions (from memory)."""
    assert flashing(pictures(levels, colour, share), Fraction(25)).count == count


def damping(shown: list[NDArray]) -> float:
    """How much libavfilter's ``photosensitivity`` changes the pictures at most, in code values."""
    graph = av.filter.Graph()
    height, width = shown[0].shape[:2]
    source = graph.add_buffer(width=width, height=height, format="rgb24", time_base=Fraction(1, 25))
    graph.link_nodes(source, graph.add("photosensitivity"), graph.add("buffersink")).configure()
    changes = []
    for pts, picture in enumerate(shown):
        frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
        frame.pts, frame.time_base = pts, Fraction(1, 25)
        graph.push(frame)
        made = graph.pull().to_ndarray().astype(np.float32)
        changes.append(float(np.abs(made - picture).mean()))
    return max(changes)


@pytest.mark.parametrize(
    ("failing", "passing"),
    [
        ((flashes_of(4, 0.0, 1.0), 1.0), (flashes_of(1, 0.0, 1.0), 1.0)),
        ((flashes_of(4, 0.50, 0.61), 1.0), (flashes_of(4, 0.50, 0.59), 1.0)),
        ((flashes_of(4, 0.0, 1.0), 0.12), (flashes_of(4, 0.0, 1.0), 0.06)),
        ((flashes_of(6, 0.0, 1.0, every=2), 1.0), ([0.5] * 25, 1.0)),
    ],
)
def test_what_fails_is_damped_more_by_libavfilter(failing: tuple, passing: tuple) -> None:
    """Libavfilter weighs flashes by a measure of its own: both must agree on which is worse."""
    worse, better = (pictures(levels, share=share) for levels, share in (failing, passing))
    assert flashing(worse, Fraction(25)).count > 3 >= flashing(better, Fraction(25)).count
    assert damping(worse) > damping(better)


def test_flashes_spread_over_more_than_a_second_do_not_add_up() -> None:
    slow = flashes_of(6, 0.0, 1.0, every=10)
    assert flashing(pictures(slow), Fraction(25)).count == 1


def test_four_flashes_fail_and_three_are_ok() -> None:
    for count, status in ((4, "failed"), (3, "ok")):
        shown = dict(enumerate(pictures(flashes_of(count, 0.0, 1.0, every=2)), start=-8))
        made = recipe_from_json({})
        finding = registered()["flashes"].run(context(made, frames=shown.get))
        assert (finding.status, finding.value) == (status, count)


# In the order in which they are listed; from the contract.
IDS = [
    "landing",
    "rest",
    "spare_frames",
    "subject",
    "edges",
    "direction",
    "pace",
    "continuity",
    "abrupt",
    "enlargement",
    "peak",
    "legibility",
    "flashes",
    "ghosting",
    "loudness",
]


def test_every_check_is_run_in_its_order_and_reports_what_the_contract_names() -> None:
    findings = check_all(context(recipe_from_json({}), frames=lambda _: None))
    assert [each.id for each in findings] == IDS
    for each in findings:
        written = each.as_json()
        assert set(written) >= {"id", "status", "value", "unit", "frame", "message", "fix"}
        assert written["message"].endswith(".")
        assert each.status == "ok"
