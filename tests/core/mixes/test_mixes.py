"""Mixes and mattes: what is revealed when."""

import numpy as np
import pytest
import skimage.data

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.frame.needs import needs
from idle_shimmer.core.mixes.base import registered
from idle_shimmer.core.mixes.wipe_shapes.base import drawn, shapes
from idle_shimmer.core.recipe import recipe_from_json
from tests.conftest import psnr
from tests.support.frames import render_frame

SHAPES = list(shapes().values())
BLACK, WHITE = np.zeros((90, 160, 3), np.uint8), np.full((90, 160, 3), 255, np.uint8)
WINDOW = Window(30, 30)
# From memory: W3C SMIL 3.0, Transition Effects.
CODES = {("barWipe", "leftToRight"): 1, ("barWipe", "topToBottom"): 2, ("boxWipe", "topLeft"): 3,
         ("barnDoorWipe", "vertical"): 21, ("barnDoorWipe", "horizontal"): 22,
         ("diagonalWipe", "topLeft"): 41, ("irisWipe", "rectangle"): 101,
         ("irisWipe", "diamond"): 102, ("ellipseWipe", "circle"): 119,
         ("clockWipe", "clockwiseTwelve"): 201, ("snakeWipe", "topLeftHorizontal"): 301}  # fmt: skip


def revealed(matte: dict, offset: int, **more: object) -> np.ndarray:
    """Where a wipe from black to white shows white, as a share of white (H, W)."""
    recipe = recipe_from_json({"mix": {"kind": "wipe", "matte": matte, **more}})
    return render_frame(recipe, WINDOW, offset, BLACK, WHITE)[..., 0] / 255


def test_the_shapes_carry_their_published_codes() -> None:
    assert {key: shapes()[key].code for key in CODES} == CODES
    codes = [each.code for each in SHAPES]
    assert len(set(codes)) == len(codes)
    families = "bar barnDoor box diagonal bowTie iris ellipse star clock pinWheel fan singleSweep saloonDoor snake spiral"
    assert {f"{name}Wipe" for name in families.split()} <= {each.type for each in SHAPES}


@pytest.mark.parametrize("shape", SHAPES, ids=lambda each: f"{each.type}-{each.subtype}")
def test_a_shape_uncovers_the_frame_steadily(shape: object) -> None:
    """From nothing to everything, never back, and at no size differently."""
    small, large = (drawn(shape.type, shape.subtype, w, w * 9 // 16) for w in (160, 640))  # type: ignore[attr-defined]
    assert small.min() >= 0
    assert small.max() <= 1
    assert np.abs(small.mean() - large.mean()) < 0.01
    shares = [(large < p).mean() for p in np.linspace(0, 1.0001, 12)]
    assert shares == sorted(shares)
    assert shares[0] == 0
    assert shares[-1] == 1
    assert 0.03 < shares[6] < 0.97


@pytest.mark.parametrize(
    ("matte", "first", "last"),
    [
        ({"type": "barWipe", "subtype": "leftToRight"}, (45, 3), (45, 156)),
        ({"type": "diagonalWipe", "subtype": "topRight"}, (2, 157), (87, 2)),
        ({"type": "ellipseWipe", "subtype": "circle"}, (45, 80), (2, 2)),
        ({"type": "clockWipe", "subtype": "clockwiseThree"}, (50, 150), (40, 150)),
        ({"type": "snakeWipe", "subtype": "topLeftHorizontal"}, (3, 3), (87, 3)),
        ({"type": "spiralWipe", "subtype": "bottomRightClockwise"}, (87, 157), (45, 80)),
    ],
)
def test_a_shape_starts_and_ends_where_its_name_says(
    matte: dict, first: tuple, last: tuple
) -> None:
    early, late = revealed(matte, -24), revealed(matte, 12)
    assert early[first] == 1
    assert early[last] == 0
    assert late[first] == 1
    assert late[last] < 1
    turned = revealed(matte, -24, invert=True)
    assert turned[last] > turned[first]


@pytest.mark.parametrize(
    "matte",
    [
        {"clouds": {"size": 0.3, "seed": 2}},
        {"blocks": {"size": 0.1, "seed": 2}},
        {"brightness": "incoming"},
    ],
)
def test_other_mattes_reveal_everything_in_the_end(matte: dict) -> None:
    recipe = recipe_from_json({"mix": {"kind": "wipe", "matte": matte, "softness": 0.1}})
    frames = [render_frame(recipe, WINDOW, k, BLACK, WHITE).mean() for k in range(-31, 31)]
    assert frames == sorted(frames)
    assert (frames[0], frames[-1]) == (0, 255)


def test_a_luma_wipe_lets_the_dark_parts_go_first() -> None:
    ramp = np.tile(np.arange(160, dtype=np.uint8)[None, :, None] + 40, (90, 1, 3))
    recipe = recipe_from_json(
        {"mix": {"kind": "wipe", "matte": {"brightness": "outgoing"}, "softness": 0}}
    )
    middle = render_frame(recipe, Window(100, 100), 0, ramp, WHITE)[45, :, 0]
    # At half of the progress what is darker than code 127.5 has gone: columns below 88.
    assert (middle[:86] == 255).all()
    assert (middle[91:] == ramp[45, 91:, 0]).all()


def test_softness_is_the_width_of_the_border() -> None:
    row = revealed({"type": "barWipe", "subtype": "leftToRight"}, 0, softness=0.25)[45]
    assert ((row > 0.02) & (row < 0.98)).mean() == pytest.approx(0.25, abs=0.03)


def test_a_users_picture_is_a_matte_and_a_missing_one_is_told(codes_pair: tuple) -> None:
    mix = {"kind": "wipe", "matte": {"image": "ramp.png"}, "softness": 0}
    recipe = recipe_from_json({"mix": mix})
    ramp = np.tile(np.linspace(1, 0, 640, dtype=np.float32), (360, 1))
    made = render_frame(recipe, WINDOW, 0, *codes_pair, matte_of=lambda _: ramp)
    assert np.array_equal(made[:, -200:], codes_pair[1][:, -200:])
    assert np.array_equal(made[:, :200], codes_pair[0][:, :200])
    with pytest.raises(ValueError, match=r"mix\.matte\.image: the matte 'ramp.png' is missing"):
        render_frame(recipe, WINDOW, 0, *codes_pair)


def test_unknown_shapes_are_refused_with_those_there_are() -> None:
    with pytest.raises(
        RecipeError, match=r"no wipe subtype 'up' of barWipe: use one of leftToRight"
    ):
        recipe_from_json({"mix": {"kind": "wipe", "matte": {"type": "barWipe", "subtype": "up"}}})


@pytest.mark.parametrize("origin", ["left", "right", "top", "bottom"])
@pytest.mark.parametrize("feather", [0.0, 0.3])
def test_a_push_enters_from_its_side(origin: str, feather: float, codes_pair: tuple) -> None:
    mix = {"kind": "push", "from": origin, "feather": feather}
    recipe = recipe_from_json({"mix": mix})
    early = render_frame(recipe, WINDOW, -26, BLACK, WHITE)[..., 0] / 255
    halves = {
        "left": early[:, :80],
        "right": early[:, 80:],
        "top": early[:45],
        "bottom": early[45:],
    }
    opposite = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}[origin]
    assert halves[origin].mean() > halves[opposite].mean()
    if feather == 0:
        # A quarter of the way in: incoming's far quarter shows at the edge it came from.
        one, other = codes_pair
        shown = render_frame(recipe, Window(1, 1), -1, one, other)
        expected = {
            "left": other[:, -160:],
            "right": other[:, :160],
            "top": other[-90:],
            "bottom": other[:90],
        }
        place = {
            "left": np.s_[:, :158],
            "right": np.s_[:, -158:],
            "top": np.s_[:88],
            "bottom": np.s_[-88:],
        }
        inner = {
            "left": np.s_[:, :158],
            "right": np.s_[:, 2:],
            "top": np.s_[:88],
            "bottom": np.s_[2:],
        }
        difference = shown[place[origin]].astype(int) - expected[origin][inner[origin]]
        assert np.abs(difference).max() <= 1


def test_passes_that_look_at_the_other_clip_ask_for_it() -> None:
    push = {"kind": "displace", "by": "other", "amount": {"kind": "swell", "peak": 0.1}}
    recipe = recipe_from_json({"filters": [push]})
    assert needs(recipe, WINDOW, -1).incoming
    assert not needs(recipe, WINDOW, -31).incoming
    ramp = np.tile(np.arange(160, dtype=np.uint8)[None, :, None], (90, 1, 3))
    by_black, by_white = (render_frame(recipe, WINDOW, -1, ramp, other) for other in (BLACK, WHITE))
    # White shows what lies further along the angle, to the right; black what lies behind.
    assert by_black[45, 80, 0] < ramp[45, 80, 0] < by_white[45, 80, 0]


def test_every_mix_is_whole_at_its_ends_and_beyond_its_span(codes_pair: tuple) -> None:
    for kind, cls in registered().items():
        document = {"kind": kind, **({"span": [-0.5, 0.5]} if "span" in cls.model_fields else {})}
        recipe = recipe_from_json({"mix": document})
        assert render_frame(recipe, WINDOW, -16, *codes_pair) is codes_pair[0]
        assert render_frame(recipe, WINDOW, 15, *codes_pair) is codes_pair[1]


@pytest.mark.parametrize("share", [0.25, 0.5, 0.75])
def test_a_morph_is_on_its_way_between_two_places(share: float) -> None:
    """A picture that jumped by 24 and 10 pixels is seen where it would be had it moved evenly."""
    photo = skimage.data.astronaut()
    jumped = np.roll(photo, (10, 24), axis=(0, 1))
    between = np.roll(photo, (round(10 * share), round(24 * share)), axis=(0, 1))
    offset = round(60 * share) - 30
    inside = (slice(60, -60), slice(60, -60))

    def error(kind: str) -> float:
        shown = render_frame(
            recipe_from_json({"mix": {"kind": kind}}), WINDOW, offset, photo, jumped
        )
        return psnr(shown[inside] / 255, between[inside] / 255)

    assert error("morph") > 26
    assert error("morph") > error("dissolve") + 6
