"""Followers and speeds: a blur that takes its size from a movement."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from idle_shimmer.core.animation.envelope import NumberEnvelope, speed_at, value_at
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.picture.noise import drift, hashed
from idle_shimmer.core.recipe import recipe_from_json

WINDOW = Window(6, 4)
NUMBER = TypeAdapter(NumberEnvelope)


def timeline(*filters: dict, size: tuple[int, int] = (1280, 720)) -> Timeline:
    return Timeline(recipe_from_json({"filters": list(filters)}), WINDOW, Fraction(25), size)


def value(made: Timeline, name: str, offset: int) -> float:
    return made.values(made.recipe.filters[-1], offset + 0.5)[name]


@pytest.mark.parametrize("offset", [-6, -2, 0, 3])
def test_a_streak_follows_a_roll_by_its_way_in_the_frame(offset: int) -> None:
    """Displacement during the frame times shutter / 360, in frame heights."""
    travel = {"kind": "travel", "amount": -3, "easing": {"steepness": 0.7}}
    made = timeline(
        {"id": "roll", "kind": "roll", "edge": "tile", "x": travel},
        {"kind": "directional_blur", "length": {"kind": "follow", "filter": "roll", "shutter": 90}},
    )
    ends = [
        value_at(NUMBER.validate_python(travel), WINDOW.u_at(t), 0.0) for t in (offset, offset + 1)
    ]
    expected = abs(ends[1] - ends[0]) * 1280 / 720 * 90 / 360
    assert value(made, "length", offset) == pytest.approx(expected, rel=1e-6)
    assert value(made, "angle", offset) == pytest.approx(180)


def test_a_changed_recipe_is_measured_anew() -> None:
    slow, fast = (
        {"id": "roll", "kind": "roll", "y": {"kind": "travel", "amount": amount}}
        for amount in (1, 4)
    )
    made = timeline(slow)
    moved = made.movement("roll", 0.5).down
    assert made.movement("roll", 0.5).down == moved
    changed = replace(made, given=recipe_from_json({"filters": [fast]}))
    assert changed.movement("roll", 0.5).down == pytest.approx(4 * moved)


def test_a_streak_turns_with_the_direction_of_its_movement() -> None:
    made = timeline(
        {"id": "move", "kind": "transform", "shift_x": {"kind": "travel", "amount": 0.2},
         "shift_y": {"kind": "travel", "amount": -0.2}},
        {"kind": "directional_blur", "length": {"kind": "follow", "filter": "move"}},
        size=(720, 720),
    )  # fmt: skip
    assert value(made, "angle", -1) == pytest.approx(45, abs=1e-6)


def test_zoom_and_spin_blurs_follow_scale_and_turns() -> None:
    grow = {"kind": "keyframes", "keyframes": [{"at": -1, "value": 1}, {"at": 1, "value": 3}]}
    zoom = timeline(
        {"id": "move", "kind": "transform", "scale": grow},
        {"kind": "radial_blur", "amount": {"kind": "follow", "filter": "move", "shutter": 360}},
    )
    # Scales interpolate by ratio, 3^p: an average over 1 - a/2 … 1 + a/2 has their ratio.
    amount = value(zoom, "amount", -3)
    low, high = (3 ** ((-3 / 6 + 1) / 2), 3 ** ((-2 / 6 + 1) / 2))
    assert (1 + amount / 2) / (1 - amount / 2) == pytest.approx(high / low, rel=1e-6)
    spin = timeline(
        {"id": "move", "kind": "transform", "turns": {"kind": "travel", "amount": 5, "easing": "linear"}},
        {"kind": "radial_blur", "style": "spin",
         "amount": {"kind": "follow", "filter": "move", "shutter": 180}},
    )  # fmt: skip
    # Five turns over a window whose outgoing half has six frames: 2.5 / 6 of a turn a frame.
    assert value(spin, "amount", -3) == pytest.approx(360 * 2.5 / 6 / 2, rel=1e-6)


@pytest.mark.parametrize(
    ("filters", "message"),
    [
        ([{"id": "a", "kind": "directional_blur", "length": {"kind": "follow", "filter": "roll"}}],
         "filters: a.length follows 'roll', which does not move the picture: add a filter of the kind"),
        ([{"kind": "gaussian_blur", "opacity": {"kind": "follow", "filter": "roll"}}],
         "filters[0].opacity: opacity cannot follow a movement"),
    ],
)  # fmt: skip
def test_a_follower_without_a_movement_is_refused(filters: list[dict], message: str) -> None:
    with pytest.raises(RecipeError) as caught:
        recipe_from_json({"filters": filters})
    assert str(caught.value).startswith(message)


MOVING = [
    {"kind": "swell", "peak": 2.0, "start": -0.9, "full_from": -0.1, "full_to": 0.2, "end": 0.8},
    {"kind": "travel", "amount": -3.0, "easing": {"steepness": 0.6}},
    {
        "kind": "keyframes",
        "keyframes": [{"at": -0.7, "value": 1, "easing": "ease"}, {"at": 0.6, "value": -2}],
    },
]


@pytest.mark.parametrize("document", MOVING, ids=lambda each: each["kind"])
@given(u=st.floats(-1, 1))
def test_every_envelope_answers_its_speed(document: dict, u: float) -> None:
    """The speed is the derivative: its integral over a stretch is the difference of the values."""
    envelope = NUMBER.validate_python(document)
    stretch = np.linspace(u, u + 0.05, 401)
    speeds = [speed_at(envelope, float(at), 0.0) for at in stretch]
    way = value_at(envelope, u + 0.05, 0.0) - value_at(envelope, u, 0.0)
    assert np.trapezoid(speeds, stretch) == pytest.approx(way, abs=0.01)


def test_noise_is_the_same_everywhere_bounded_and_centred() -> None:
    """Stored values: stored recipes keep their shakes and blocks only while these do not change."""
    assert float(hashed(1, 2, 3)) == 0.39169607614167035
    assert float(hashed(3, 2, 1)) == 0.04524235473945737
    assert float(hashed(-1, 0)) == 0.036250536097213626
    assert hashed(7, np.arange(3)).tolist() == [
        0.39026089292019606,
        0.38814040017314255,
        0.2781264246441424,
    ]
    assert drift(3, 0, 1.25, 8.0) == pytest.approx(0.22695854010737737, abs=1e-12)
    spread = hashed(5, np.arange(20_000))
    assert np.histogram(spread, 10, (0, 1))[0] == pytest.approx(np.full(10, 2000), rel=0.1)
    step_s = 0.05
    seconds = np.arange(0, 400, step_s)
    trembling = np.array([drift(3, 0, t, 8.0) for t in seconds])
    assert np.abs(trembling).max() <= 1
    assert abs(trembling.mean()) < 0.01
    spectrum = np.abs(np.fft.rfft(trembling * np.hanning(trembling.size))) ** 2
    rates = np.fft.rfftfreq(trembling.size, step_s)
    assert spectrum[rates > 8.1].sum() < 1e-6 * spectrum.sum()
