"""The subject layer and slips: composites whose truth is known."""

from fractions import Fraction

import cv2
import numpy as np
import pytest
from skimage import data

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.frame.needs import needs, spare_frames_needed
from idle_shimmer.core.frame.render import Mattes, picture_of
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.subject.foreground import foreground, without_subject
from idle_shimmer.transition.checking import check_transition
from idle_shimmer.transition.missing_frames import require_frames
from idle_shimmer.transition.transition import Subjects, Transition
from tests.support.frames import render_picture

WINDOW, SIZE = Window(6, 6), (320, 180)
RED, BLUE = np.array([0.8, 0.05, 0.05], np.float32), np.array([0.02, 0.1, 0.6], np.float32)
LAYER = {"of": "incoming", "from": -1, "to": 1}


def alpha(at: tuple[float, float] = (150, 90), soft: float = 8) -> np.ndarray:
    x, y = np.meshgrid(np.arange(SIZE[0]) + 0.5, np.arange(SIZE[1]) + 0.5)
    edge = (40 - np.hypot(x - at[0], y - at[1])) / soft + 0.5
    return np.clip(edge, 0, 1).astype(np.float32)


def light(name: str) -> np.ndarray:
    picture = cv2.resize(getattr(data, name)(), SIZE, interpolation=cv2.INTER_AREA)
    return (picture.astype(np.float32) / 255) ** 2.2


def flat(colour: np.ndarray) -> np.ndarray:
    return np.broadcast_to(colour, (SIZE[1], SIZE[0], 3)).astype(np.float32)


def codes(linear: np.ndarray) -> np.ndarray:
    """SRGB codes of 16 bits (IEC 61966-2-1), so that rounding is far below what is compared."""
    display = np.where(
        linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055
    )
    return np.rint(display.clip(0, 1) * 65535).astype(np.uint16)


def composite(matte: np.ndarray, front: np.ndarray, back: np.ndarray) -> np.ndarray:
    return front * matte[..., None] + back * (1 - matte[..., None])


def shown(recipe: dict, matte: np.ndarray, incoming: np.ndarray, offset: int = -3) -> np.ndarray:
    made = recipe_from_json({"subject_layer": LAYER, **recipe})
    outgoing, mattes = codes(light("coffee")), Mattes(incoming=matte)
    return (
        render_picture(made, WINDOW, offset, outgoing, codes(incoming), mattes=mattes)
        .to("linear")
        .pixels
    )


def test_the_subject_of_incoming_lies_over_outgoing_without_a_halo() -> None:
    """A red disc on blue over a photograph: with the old background's colour at its edge, blue would show."""
    matte = alpha()
    found = shown({}, matte, composite(matte, flat(RED), flat(BLUE)))
    expected = composite(matte, flat(RED), light("coffee"))
    assert np.abs(found - expected).max() < 0.02
    halo = composite(matte, composite(matte, flat(RED), flat(BLUE)), light("coffee"))
    assert np.abs(halo - expected).max() > 0.1


def test_it_moves_in_over_transparency() -> None:
    """Moved by half a frame: what lies beyond the edge of its picture is clear, not mirrored."""
    matte = alpha((40, 90))
    move = {"kind": "transform", "side": "subject", "shift_x": -0.1}
    found = shown({"filters": [move]}, matte, composite(matte, flat(RED), flat(BLUE)))
    expected = composite(alpha((8, 90)), flat(RED), light("coffee"))
    assert np.abs(found - expected).max() < 0.03


def test_its_blur_is_its_own() -> None:
    """Colour times cover is blurred, and the cover with it: the outgoing picture stays sharp."""
    matte = alpha()
    blur = {"kind": "gaussian_blur", "side": "subject", "radius": 0.03}
    found = shown({"filters": [blur]}, matte, composite(matte, flat(RED), flat(BLUE)))
    cover = cv2.GaussianBlur(matte, (0, 0), 0.03 * SIZE[1])
    assert np.abs(found - composite(cover, flat(RED), light("coffee"))).max() < 0.03


def test_light_on_it_stays_on_it() -> None:
    matte = alpha()
    flash = {"kind": "flash", "side": "subject", "mix": 1.0, "colour": "#ffffff"}
    found = shown({"filters": [flash]}, matte, composite(matte, flat(RED), flat(BLUE)))
    expected = composite(matte, flat(np.ones(3)), light("coffee"))
    assert np.abs(found - expected).max() < 0.02


def test_over_its_own_picture_it_changes_nothing() -> None:
    matte, incoming = alpha(), light("astronaut")
    found = shown({}, matte, incoming, offset=2)
    assert np.abs(found - incoming).max() < 1e-4


def test_across_filters_and_their_regions_see_it() -> None:
    matte = alpha()
    flash = {"kind": "flash", "mix": 1.0, "colour": "#ffffff", "region": {"kind": "subject"}}
    found = shown({"filters": [flash]}, matte, composite(matte, flat(RED), flat(BLUE)))
    expected = light("coffee") * (1 - matte[..., None]) ** 2
    inside = matte == 1
    assert found[inside].min() > 0.99
    outside = matte == 0
    assert np.abs(found - expected)[outside].max() < 0.02


def test_foreground_colours_are_those_of_the_subject() -> None:
    """Against the truth of a composite, where at least a tenth of the subject is seen."""
    matte = alpha(soft=12)
    band = (matte > 0.1) & (matte < 1)
    for front, share in ((flat(RED), 0.03), (light("astronaut"), 0.5)):
        seen = composite(matte, front, flat(BLUE))
        found = foreground(seen, matte)
        assert np.abs(found - front)[band].mean() < share * np.abs(seen - front)[band].mean()
    np.testing.assert_array_equal(found[matte == 1], front[matte == 1])


def test_the_picture_behind_is_filled_from_around() -> None:
    ground = cv2.GaussianBlur(light("coffee"), (0, 0), 30)
    found = without_subject(composite(alpha(), flat(RED), ground), alpha())
    assert np.abs(found - ground).mean() < 0.01
    assert np.abs(found - ground).max() < 0.1


class Numbered:
    """A clip with a grey that says its number, and a red disc that moves with it."""

    name = "numbered.mp4"
    count = 60

    def matte(self, number: int) -> np.ndarray:
        return alpha((80 + 3 * number, 90), soft=1)

    def frame(self, number: int) -> np.ndarray:
        assert 0 <= number < self.count
        return codes(composite(self.matte(number), flat(RED), flat(np.full(3, number / 100))))


def transition(recipe: dict, marked: bool = True) -> Transition:
    clip = Numbered()
    subjects = Subjects(clip.matte, clip.matte) if marked else Subjects()
    made = recipe_from_json(recipe)
    return Transition(clip, clip, 30, 30, WINDOW, made, rate=Fraction(25), subjects=subjects)


def background(pixels: np.ndarray) -> float:
    return float(pixels[10, 10, 0])


def test_a_slip_takes_the_background_from_another_time_and_leaves_the_subject() -> None:
    slips = [{"from": 0, "to": 0.5, "offset": 9}, {"from": 0.5, "to": 1, "offset": -12}]
    made = transition({"retime": {"incoming": {"slips": slips, "join": 0}}})
    for offset, shift in ((0, 9), (2, 9), (3, -12), (5, -12), (6, 0), (-1, 0)):
        pixels = made.output(offset).picture.to("linear").pixels
        assert background(pixels) == pytest.approx((30 + offset + shift) / 100, abs=2e-3)
        matte = made.subjects.incoming(30 + offset) if made.subjects.incoming else None
        assert matte is not None
        expected = composite(matte, flat(RED), flat(np.full(3, (30 + offset + shift) / 100)))
        if shift:
            # Nothing is left of the subject where it was, or will be, at the other time.
            assert np.abs(pixels - expected).max() < 0.06


def test_without_a_subject_the_whole_picture_slips() -> None:
    slips = [{"from": 0, "to": 0.5, "offset": 9}, {"from": 0.5, "to": 1, "offset": -12}]
    recipe = {"retime": {"incoming": {"slips": slips, "join": 0}}}
    made = transition(recipe, marked=False)
    require_frames(made)
    for offset, shift in ((0, 9), (2, 9), (3, -12), (5, -12), (6, 0), (-1, 0)):
        clip = made.incoming if offset >= 0 else made.outgoing
        slipped = picture_of(clip.frame(30 + offset + shift)).to("codes").pixels
        assert np.array_equal(made.frame(offset), slipped)
    assert status("subject", recipe) == "ok"


def test_a_join_moves_from_one_time_to_the_other() -> None:
    slips = [{"from": 0.5, "to": 1, "offset": 12}]
    made = transition({"retime": {"incoming": {"slips": slips, "join": 4}}})
    greys = [
        background(made.output(k).picture.to("linear").pixels) * 100 - 30 - k for k in range(6)
    ]
    # The join lies about u = 0.5, t = 3: it runs from 1 to the middle between both jumps, 4.5.
    assert greys[0] == pytest.approx(0, abs=0.2)
    assert greys[1:4] == pytest.approx([12 * (t - 1) / 3.5 for t in (1.5, 2.5, 3.5)], abs=1)
    assert greys[4] == pytest.approx(12, abs=0.2)
    # The end of the window is reached by a join of its own.
    assert greys[5] == pytest.approx(12 * (1 - 1 / 1.5), abs=1)


def test_slips_and_layers_need_their_frames() -> None:
    slips = {"retime": {"outgoing": {"slips": [{"from": -0.5, "to": 0, "offset": 8}], "join": 0}}}
    assert spare_frames_needed(recipe_from_json(slips), WINDOW).outgoing == 8
    layer = recipe_from_json({"subject_layer": {"of": "incoming", "from": -0.5, "to": 0.5}})
    assert spare_frames_needed(layer, WINDOW).incoming == 3
    assert needs(layer, WINDOW, -3).incoming
    assert not needs(layer, WINDOW, -4).incoming


@pytest.mark.parametrize(
    "recipe",
    [
        {"subject_layer": LAYER},
        {"filters": [{"kind": "flash", "mix": 1.0, "region": {"kind": "background"}}]},
    ],
)
def test_a_recipe_that_needs_a_subject_says_so(recipe: dict) -> None:
    with pytest.raises(InvalidValue, match=r"needs the subject of the incoming clip numbered\.mp4"):
        require_frames(transition(recipe, marked=False))
    finding = next(
        each
        for each in check_transition(transition(recipe, marked=False), SIZE)
        if each.id == "subject"
    )
    assert (finding.status, "mark it with strokes" in finding.message) == ("failed", True)
    require_frames(transition(recipe))


def status(check: str, recipe: dict) -> str:
    findings = check_transition(transition(recipe), SIZE)
    return next(each.status for each in findings if each.id == check)


def flight(start: float, end: float, **more: object) -> dict:
    travel = {"kind": "travel", "from": 1.2, "amount": -1.2, "start": start, "end": end, **more}
    return {"kind": "transform", "side": "subject", "shift_y": travel}


def test_checks_know_how_a_subject_comes() -> None:
    assert status("abrupt", {"subject_layer": LAYER}) == "failed"
    coming = {"subject_layer": LAYER, "filters": [flight(-1, 0, easing="ease-out")]}
    assert status("abrupt", coming) == "ok"
    assert status("rest", coming) == "ok"
    late = {"subject_layer": {**LAYER, "to": 0.5}, "filters": [flight(-1, 1)]}
    assert status("rest", late) == "failed"
    black = {"subject_layer": LAYER, "filters": [{**flight(-1, 0), "edge": "black"}]}
    assert status("edges", black) == "ok"


class Photograph:
    """A clip whose frames are one photograph, moved by three pixels each."""

    count = 40

    def __init__(self, name: str) -> None:
        self.name = name
        self._wide = cv2.resize(getattr(data, name)(), (SIZE[0] + 160, SIZE[1]))

    def frame(self, number: int) -> np.ndarray:
        return np.ascontiguousarray(self._wide[:, 3 * number : 3 * number + SIZE[0]])


@pytest.mark.parametrize(
    ("other", "jump", "expected"),
    [("coffee", 3, "ok"), ("astronaut", 3, "failed")],
)
def test_ghosting_tells_a_jump_in_one_shot_from_another_picture(
    other: str, jump: int, expected: str
) -> None:
    """A photograph that moves by nine pixels is found again; another photograph is not."""
    recipe = recipe_from_json({"mix": {"kind": "morph"}, "hold_frames": True})
    made = Transition(
        Photograph("coffee"), Photograph(other), 20, 20 + jump, WINDOW, recipe, rate=Fraction(25)
    )
    findings = check_transition(made, SIZE, lambda _: None, morphs=made.morphs)
    (found,) = [each for each in findings if each.id == "ghosting"]
    assert found.status == expected, found
    assert found.frame in WINDOW


def test_ghosting_looks_at_the_joins_of_slips() -> None:
    slips = [{"from": 0.5, "to": 1, "offset": 12}]
    made = transition({"retime": {"incoming": {"slips": slips, "join": 4}}})
    assert [offset for offset, _, _ in made.morphs()] == [1, 2, 3, 5]


def test_a_filter_on_no_subject_is_refused() -> None:
    with pytest.raises(RecipeError) as caught:
        recipe_from_json({"filters": [{"kind": "grade", "side": "subject"}]})
    assert "give it a subject_layer" in caught.value.problems[0][1]
