"""The cut checks, on transitions with a known fault, and on the fixes that they offer."""

from fractions import Fraction

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core import checks  # noqa: F401
from idle_shimmer.core.checks.base import (
    Shortage,
    check_all,
    registered,
)
from idle_shimmer.core.checks.flashes import flashing
from idle_shimmer.core.recipe import recipe_from_json
from tests.support.checks import context, found, swell, travel


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


def test_an_enlarged_clip_is_judged_where_the_mix_shows_it() -> None:
    """A dissolve after the cut shows the outgoing clip longer; before the cut, the incoming one earlier."""
    late = {"kind": "dissolve", "span": [0, 1], "easing": "linear"}
    curve = {"kind": "keyframes", "keyframes": [{"at": 0, "value": 1}, {"at": 0.5, "value": 3}]}
    out = {"kind": "transform", "side": "outgoing", "scale": curve}
    finding = found("enlargement", out, mix=late)
    assert (finding.status, finding.frame) == ("warning", 2)
    assert found("enlargement", out).status == "ok"
    into = {**out, "side": "incoming", "scale": 3.0}
    hidden = found("enlargement", into, mix=late)
    # Nothing is said of the frames in which the outgoing clip hides it.
    assert (hidden.status, hidden.frame) == ("warning", 3)
    blur = {"kind": "gaussian_blur", "side": "incoming", "radius": 0.05}
    assert found("enlargement", into, blur, mix=late).status == "ok"
    other = {**blur, "side": "outgoing"}
    assert found("enlargement", into, other, mix=late).status == "warning"


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
