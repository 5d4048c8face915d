"""Envelopes: where they rest, peak and land."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from idle_shimmer.core.animation.easing import curve
from idle_shimmer.core.animation.envelope import NumberEnvelope, PointEnvelope, value_at

NUMBER = TypeAdapter(NumberEnvelope)
POINT = TypeAdapter(PointEnvelope)
TIMES = st.floats(-1, 1)


def number(document: object, u: float, rest: float = 0.0) -> float:
    return value_at(NUMBER.validate_python(document), u, rest)


def test_a_bare_number_holds() -> None:
    assert [number(3, u) for u in (-5, 0, 5)] == [3, 3, 3]


@given(TIMES, st.floats(-100, 100), st.floats(-100, 100))
def test_a_swell_stays_between_rest_and_peak_and_rests_outside(
    u: float, peak: float, rest: float
) -> None:
    low, high = sorted((rest, peak))
    swell = {"kind": "swell", "peak": peak}
    assert low - 1e-9 <= number(swell, u, rest) <= high + 1e-9
    assert number(swell, 0, rest) == peak
    assert number(swell, -1.0001, rest) == number(swell, 1.0001, rest) == rest


@given(st.floats(0, 1))
def test_a_swell_rises_and_falls_by_its_easings(progress: float) -> None:
    swell = {
        "kind": "swell",
        "peak": 2,
        "start": -0.8,
        "full_from": -0.2,
        "full_to": 0.4,
        "end": 0.9,
    }
    assert number(swell, -0.8 + 0.6 * progress, 1) == pytest.approx(
        1 + curve("ease-in")(progress), abs=1e-6
    )
    assert number(swell, 0.4 + 0.5 * progress, 1) == pytest.approx(
        2 - curve("ease-out")(progress), abs=1e-6
    )
    assert number(swell, -0.2 + 0.6 * progress, 1) == pytest.approx(2)


@given(st.integers(-40, 40), st.floats(-3, 3))
def test_a_travel_lands_exactly(amount: int, origin: float) -> None:
    travel = {"kind": "travel", "from": origin, "amount": amount, "easing": {"steepness": 0.8}}
    assert number(travel, -1) == origin
    assert number(travel, 1) == origin + amount
    assert number(travel, 1.5) == origin + amount


def test_a_travel_without_from_begins_at_rest() -> None:
    assert number({"kind": "travel", "amount": 2}, -1, rest=1) == 1


def test_keyframes_are_constant_outside_and_eased_to_the_next() -> None:
    keyframes = {
        "kind": "keyframes",
        "keyframes": [{"at": -0.5, "value": 1, "easing": "steps(2,end)"}, {"at": 0.5, "value": 3}],
    }
    assert [number(keyframes, u) for u in (-1, -0.5, -0.01, 0.01, 0.49, 0.5, 1)] == [
        1,
        1,
        1,
        2,
        2,
        3,
        3,
    ]


def test_points_move_like_numbers() -> None:
    travel = POINT.validate_python(
        {"kind": "travel", "from": [0, 1], "amount": [1, -1], "easing": "linear"}
    )
    assert value_at(travel, 0, None) == pytest.approx((0.5, 0.5))


@pytest.mark.parametrize(
    "document",
    [
        float("nan"),
        True,
        "3",
        {"kind": "swell", "peak": float("inf")},
        {"kind": "swell", "peak": 1, "start": 0.5, "full_from": 0},
        {"kind": "swell", "peak": 1, "peek": 2},
        {"kind": "keyframes", "keyframes": []},
        {"kind": "keyframes", "keyframes": [{"at": 0.5, "value": 1}, {"at": 0, "value": 1}]},
        {"kind": "wobble"},
    ],
)
def test_what_is_no_envelope_is_refused(document: object) -> None:
    with pytest.raises(ValidationError):
        NUMBER.validate_python(document)
