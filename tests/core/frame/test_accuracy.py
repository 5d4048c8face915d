"""How exact the filters are, against references that share no code with them.

Every value goes into docs/accuracy.md (``accuracy_report``): peak signal-to-noise ratio in dB, of 8-bit
code values or of values in 0…1. References are computed in float64 or by another library.
"""

import itertools
import json
import math
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import get_args

import av
import cv2
import numpy as np
import pytest
import scipy.ndimage
import skimage.data
import skimage.transform
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import registered as filters
from idle_shimmer.core.frame.warm_up import usual_filter
from idle_shimmer.core.kernels.directional_blur import directional_blur
from idle_shimmer.core.kernels.gaussian import gaussian
from idle_shimmer.core.kernels.spin_blur import spin
from idle_shimmer.core.kernels.zoom_blur import zoom
from idle_shimmer.core.mixes.base import registered as mixes
from idle_shimmer.core.recipe import recipe_from_json
from tests.conftest import ROOT, code_psnr, psnr
from tests.support.accuracy_report import FIGURE
from tests.support.frames import render_frame

GAUSSIAN_DB, BLUR_DB, LENS_DB, RETURN_DB = 45.0, 40.0, 40.0, 45.0
MIX_DB = 34.0
# Averages over pixels, of so many samples along each side.
SHRUNK_DB, PIXEL_SIDE = 43.0, 6
# What the frames of two sizes agreed to when it was last measured: a fall by 2 dB fails. Where they
# are equal, or nearly, MOST_DB counts.
TWO_SIZES_DB = json.loads((ROOT / "tests" / "data" / "two-sizes-db.json").read_text())
SLACK_DB, MOST_DB = 2.0, 90.0
WINDOW = Window(6, 6)
COPIES = 400
# Takes (what, reference, dB, at least).
Hold = Callable[[str, str, float, float], None]


@pytest.fixture
def hold(request: pytest.FixtureRequest) -> Hold:
    """Notes a value among the test's properties, and holds it to its limit."""
    tests = [each for each in request.session.items if each.path == request.path]
    properties, place = request.node.user_properties, tests.index(request.node)

    def hold(what: str, reference: str, found: float, least: float) -> None:
        number = place, len(properties)
        properties.append((FIGURE, (number, what, reference, found, least)))
        assert found > least, f"{what}: {found:.1f} dB, at least {least}"

    return hold


def sampled(photo: NDArray, x: NDArray, y: NDArray, order: int = 3) -> NDArray:
    """``photo`` at points in pixels, mirrored beyond its edges, by scipy in float64."""
    planes = [
        scipy.ndimage.map_coordinates(
            photo[..., c].astype(np.float64), [y - 0.5, x - 0.5], order=order, mode="reflect"
        )
        for c in range(photo.shape[2])
    ]
    return np.stack(planes, axis=-1)


def points(photo: NDArray) -> tuple[NDArray, NDArray]:
    """The centres of the pixels, (x, y)."""
    height, width = photo.shape[:2]
    return np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)


@pytest.mark.parametrize("share", [0.01, 0.03, 0.1, 0.3])
def test_gaussian_beside_scipy(photo: NDArray, share: float, hold: Hold) -> None:
    sigma = share * photo.shape[0]
    expected = scipy.ndimage.gaussian_filter(
        photo.astype(np.float64), (sigma, sigma, 0), mode="reflect"
    )
    found = psnr(gaussian(photo, sigma_x=sigma, sigma_y=sigma), expected)
    hold(f"gaussian, sigma {share:.0%} of height", "scipy gaussian_filter", found, GAUSSIAN_DB)


@pytest.mark.parametrize(("share", "angle_deg"), [(0.01, 30), (0.06, 0), (0.06, 45), (0.5, 110)])
def test_directional_blur_beside_many_copies(
    photo: NDArray, share: float, angle_deg: float, hold: Hold
) -> None:
    part = photo[:160, :200]
    x, y = points(part)
    length, angle = share * 160, math.radians(angle_deg)
    # Channels are blurred alike: one is compared, as many copies take long.
    green = part[..., 1:2]
    total = np.zeros(green.shape)
    for at in (np.arange(COPIES) + 0.5) / COPIES - 0.5:
        shift = length * at * math.cos(angle), -length * at * math.sin(angle)
        total += sampled(green, x + shift[0], y + shift[1], order=1)
    found = psnr(
        directional_blur(part, length_px=length, angle_deg=angle_deg)[..., 1:2], total / COPIES
    )
    hold(
        f"directional blur, {share:.0%} of height at {angle_deg}°",
        "400 shifted copies",
        found,
        BLUR_DB,
    )


# In the frame, beside it, and as far outside as a recipe may ask for.
CENTRES = [(100.0, 80.0), (31.7, 120.2), (-40.0, 90.5), (400.0, 320.0)]


# The strongest is compared with four times as many copies: once in the frame, once outside.
ZOOMS = [(amount, centre) for amount in (0.02, 0.2, 0.8) for centre in CENTRES]


@pytest.mark.parametrize(("amount", "centre"), [*ZOOMS, (1.9, CENTRES[0]), (1.9, CENTRES[3])])
def test_zoom_beside_many_copies(
    photo: NDArray, amount: float, centre: tuple[float, float], hold: Hold
) -> None:
    part = photo[:160, :200]
    x, y = (each - middle for each, middle in zip(points(part), centre, strict=True))
    # Channels are blurred alike: one is compared, as many copies take long.
    green = part[..., 1:2]
    total = np.zeros(green.shape)
    # At its strongest copies lie farther apart.
    count = COPIES if amount < 1 else 4 * COPIES
    for at in (np.arange(count) + 0.5) / count - 0.5:
        scale = 1 + amount * at
        total += sampled(green, centre[0] + x / scale, centre[1] + y / scale, order=1)
    found = psnr(zoom(part, amount=amount, centre=centre)[..., 1:2], total / count)
    hold(f"zoom blur, amount {amount:g}, centre {centre}", f"{count} scaled copies", found, BLUR_DB)


@pytest.mark.parametrize("centre", CENTRES)
@pytest.mark.parametrize("amount_deg", [1.0, 12.0, 120.0])
def test_spin_beside_many_copies(
    photo: NDArray, amount_deg: float, centre: tuple[float, float], hold: Hold
) -> None:
    part = photo[:160, :200]
    x, y = (each - middle for each, middle in zip(points(part), centre, strict=True))
    # Channels are blurred alike: one is compared, as many copies take long.
    green = part[..., 1:2]
    total = np.zeros(green.shape)
    for at in (np.arange(COPIES) + 0.5) / COPIES - 0.5:
        turn = math.radians(amount_deg * at)
        u, v = (
            x * math.cos(turn) - y * math.sin(turn),
            x * math.sin(turn) + y * math.cos(turn),
        )
        total += sampled(green, centre[0] + u, centre[1] + v, order=1)
    found = psnr(spin(part, amount_deg=amount_deg, centre=centre)[..., 1:2], total / COPIES)
    hold(f"spin blur, {amount_deg:g}°, centre {centre}", "400 turned copies", found, BLUR_DB)


def shown(photo: NDArray, *documents: dict[str, object]) -> NDArray:
    """What a frame at the cut shows of ``photo`` in display light, as values in 0…1."""
    codes = np.rint(photo * 255).astype(np.uint8)
    recipe = recipe_from_json({"light": "display", "filters": list(documents)})
    return render_frame(recipe, WINDOW, 0, codes, codes) / 255


def polar_points(photo: NDArray) -> tuple[NDArray, NDArray, float, NDArray, NDArray]:
    """x, y, half diagonal, and the offsets from the centre."""
    x, y = points(photo)
    height, width = photo.shape[:2]
    return x, y, math.hypot(width, height) / 2, x - width / 2, y - height / 2


@pytest.mark.parametrize(("k1", "k2"), [(0.3, 0.0), (-0.25, 0.1), (0.05, -0.1)])
def test_radial_lens_beside_its_formula_and_opencv(
    photo: NDArray, k1: float, k2: float, hold: Hold
) -> None:
    """The formula and normalisation of libavfilter's lenscorrection, and OpenCV's undistort."""
    made = shown(photo, {"kind": "lens", "k1": k1, "k2": k2})
    _, _, half, dx, dy = polar_points(photo)
    r2 = (dx**2 + dy**2) / half**2
    bend = 1 + k1 * r2 + k2 * r2**2
    height, width = photo.shape[:2]
    x, y = width / 2 + dx * bend, height / 2 + dy * bend
    what = f"radial lens, k1 {k1:g}, k2 {k2:g}"
    hold(what, "formula in float64", psnr(made, sampled(photo, x, y)), LENS_DB)
    camera = np.array([[half, 0, width / 2 - 0.5], [0, half, height / 2 - 0.5], [0, 0, 1]])
    maps = cv2.initUndistortRectifyMap(
        camera, np.array([k1, k2, 0, 0]), None, camera, (width, height), cv2.CV_32FC1
    )
    other = cv2.remap(photo, *maps, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
    hold(what, "OpenCV undistort maps", psnr(made, other), LENS_DB)


@pytest.mark.parametrize("view", [90, 155])
def test_fisheye_beside_opencv(photo: NDArray, view: float, hold: Hold) -> None:
    """OpenCV's fisheye model without its four coefficients is equidistant; it takes ours back."""
    made = shown(photo, {"kind": "lens", "model": "fisheye", "view": view, "inverse": True})
    height, width = photo.shape[:2]
    half, angle = math.hypot(width, height) / 2, math.radians(view) / 2
    middle = [width / 2 - 0.5, height / 2 - 0.5]

    def camera(focal: float) -> NDArray:
        return np.array([[focal, 0, middle[0]], [0, focal, middle[1]], [0, 0, 1.0]])

    maps = cv2.fisheye.initUndistortRectifyMap(
        camera(half / angle),
        np.zeros(4),
        np.eye(3),
        camera(half / math.tan(angle)),
        (width, height),
        cv2.CV_32FC1,
    )
    # Where the picture is enlarged the interpolation is compared; where it shrinks a point sample
    # would alias, so the other is averaged from nine samples a pixel.
    large = cv2.resize(np.stack(maps, -1), None, fx=3, fy=3, interpolation=cv2.INTER_LINEAR)
    other = cv2.remap(photo, large, None, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
    other = cv2.resize(other, (width, height), interpolation=cv2.INTER_AREA)
    hold(f"fisheye back, view {view}°", "OpenCV fisheye maps", psnr(made, other), 34.0)


def bulged(r: NDArray, radius: float) -> NDArray:
    return 1 - 0.6 * np.maximum(1 - (r / radius) ** 2, 0) ** 2 + 0j


def twirled(r: NDArray, radius: float) -> NDArray:
    return np.exp(2j * np.pi * 0.25 * np.maximum(1 - (r / radius) ** 2, 0) ** 2)


@pytest.mark.parametrize(
    ("document", "factor"),
    [
        ({"kind": "bulge", "strength": 0.6, "radius": 0.5}, bulged),
        ({"kind": "twirl", "turns": 0.25, "radius": 0.5}, twirled),
    ],
    ids=["bulge", "twirl"],
)
def test_pulls_and_twirls_beside_their_formulas(
    photo: NDArray, document: dict, factor: Callable, hold: Hold
) -> None:
    _, _, _, dx, dy = polar_points(photo)
    height, width = photo.shape[:2]
    turned = (dx - 1j * dy) * np.conj(factor(np.hypot(dx, dy), 0.5 * height))
    expected = sampled(photo, width / 2 + turned.real, height / 2 - turned.imag)
    hold(document["kind"], "formula in float64", psnr(shown(photo, document), expected), LENS_DB)


def twirl_of(turns: float) -> tuple[dict, Callable]:
    def factor(r: NDArray, radius: float) -> NDArray:
        return np.exp(2j * np.pi * turns * np.maximum(1 - (r / radius) ** 2, 0) ** 2)

    return {"kind": "twirl", "turns": turns, "radius": 0.5}, factor


def shrunk_by(scale: float, turns: float) -> tuple[dict, Callable]:
    factor = np.exp(2j * np.pi * turns) / scale
    return {"kind": "transform", "scale": scale, "turns": turns}, lambda r, _: factor + 0 * r


@pytest.mark.parametrize(
    ("made", "what"),
    [
        (twirl_of(0.6), "twirl, 0.6 turns"),
        (twirl_of(1.5), "twirl, 1.5 turns"),
        (shrunk_by(0.7, 0.0), "transform to 0.7"),
        (shrunk_by(0.55, 0.1), "transform to 0.55, turned"),
        (shrunk_by(0.31, 0.0), "transform to 0.31"),
        (shrunk_by(0.31, 0.1), "transform to 0.31, turned"),
    ],
    ids=lambda each: each if isinstance(each, str) else "",
)
def test_what_shrinks_is_averaged(photo: NDArray, made: tuple, what: str, hold: Hold) -> None:
    """Beside the average over each pixel."""
    document, factor = made
    green = photo[..., 1:2]
    height, width = green.shape[:2]
    x, y = points(green)
    total, steps = np.zeros(green.shape), (np.arange(PIXEL_SIDE) + 0.5) / PIXEL_SIDE - 0.5
    for right, down in itertools.product(steps, steps):
        offset = x + right - width / 2 - 1j * (y + down - height / 2)
        turned = offset * np.conj(factor(np.abs(offset), 0.5 * height))
        total += sampled(green, width / 2 + turned.real, height / 2 - turned.imag)
    found = psnr(shown(photo, document)[..., 1:2], total / PIXEL_SIDE**2)
    hold(what, f"{PIXEL_SIDE**2} samples of each pixel", found, SHRUNK_DB)


def test_ripple_beside_its_formula(photo: NDArray, hold: Hold) -> None:
    x, y = points(photo)
    height, width = photo.shape[:2]
    angle = math.radians(30)
    along = ((x - width / 2) * math.cos(angle) - (y - height / 2) * math.sin(angle)) / height
    push = 0.03 * height * np.sin(2 * np.pi * (along / 0.2 + 0.3))
    expected = sampled(photo, x - push * math.sin(angle), y - push * math.cos(angle))
    document = {"kind": "ripple", "amount": 0.03, "wavelength": 0.2, "phase": 0.3, "angle": 30}
    hold("ripple", "formula in float64", psnr(shown(photo, document), expected), LENS_DB)


def test_lens_and_its_inverse_return_the_picture(photo: NDArray, hold: Hold) -> None:
    lens = {"kind": "lens", "k1": 0.3, "k2": -0.05}
    back = shown(photo, lens, {**lens, "inverse": True})
    hold("lens there and back", "the picture itself", psnr(back, photo), RETURN_DB)
    eye = {"kind": "lens", "model": "fisheye", "view": 150}
    # This way round: seen through the fisheye first, the middles of the sides would be cut off.
    back = shown(photo, {**eye, "inverse": True}, eye)
    hold("fisheye there and back", "the picture itself", psnr(back, photo), RETURN_DB)


def test_geometry_there_and_back(photo: NDArray, hold: Hold) -> None:
    stack = [
        {"kind": "transform", "scale": 0.5},
        {"kind": "lens", "k1": 0.2},
        {"kind": "transform", "turns": 0.1},
        {"kind": "roll", "x": 0.23, "edge": "tile"},
        {"kind": "roll", "x": -0.23, "edge": "tile"},
        {"kind": "transform", "turns": -0.1},
        {"kind": "lens", "k1": 0.2, "inverse": True},
        {"kind": "transform", "scale": 2.0},
    ]
    found = psnr(shown(photo, *stack), photo)
    hold("eight geometry filters there and back", "the picture itself", found, RETURN_DB)


def libavfilter(name: str, arguments: str, *pictures: NDArray, frames: int = 1) -> list[NDArray]:
    """What a filter of libavfilter makes of ``frames`` copies of each picture, as codes."""
    graph = av.filter.Graph()
    height, width = pictures[0].shape[:2]
    layout = av.VideoFormat("gbrp", width, height)
    work, sink = graph.add(name, arguments), graph.add("buffersink")
    sources = [
        graph.add_buffer(width=width, height=height, format=layout, time_base=Fraction(1, 25))
        for _ in pictures
    ]
    for pad, source in enumerate(sources):
        rate = graph.add("fps", "25")
        source.link_to(rate)
        rate.link_to(work, 0, pad)
    work.link_to(sink)
    graph.configure()
    made = []
    for pts in range(frames):
        for source, picture in zip(sources, pictures, strict=True):
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(format="gbrp")
            frame.pts, frame.time_base = pts, Fraction(1, 25)
            source.push(frame)
    for source in sources:
        source.push(None)
    while True:
        try:
            made.append(graph.vpull().to_ndarray(format="rgb24"))
        except (av.EOFError, av.BlockingIOError):
            return made


def test_channel_split_beside_rgbashift(codes_pair: tuple, hold: Hold) -> None:
    """A whole number of pixels is moved exactly."""
    split = {"kind": "channel_split", "distance": 16 / 360, "angle": 0}
    made = shown(codes_pair[0] / 255, split)
    other = libavfilter("rgbashift", "rh=8:bh=-8:edge=smear", codes_pair[0], frames=2)[0] / 255
    inner = np.s_[:, 16:-16]
    hold("channel split", "libavfilter rgbashift", psnr(made[inner], other[inner]), 60.0)


@pytest.mark.parametrize(
    ("name", "document"),
    [
        ("fade", {"kind": "dissolve"}),
        ("slideright", {"kind": "push", "from": "left"}),
        ("slideup", {"kind": "push", "from": "bottom"}),
        ("wipedown", {"kind": "wipe", "matte": {"type": "barWipe", "subtype": "topToBottom"}}),
    ],
)
def test_mixes_beside_xfade(codes_pair: tuple, name: str, document: dict, hold: Hold) -> None:
    """Two of twenty frames of libavfilter's xfade."""
    made = libavfilter("xfade", f"transition={name}:duration=0.8:offset=0", *codes_pair, frames=20)
    softness = {"softness": 0} if document["kind"] == "wipe" else {}
    recipe = recipe_from_json({"mix": {**document, **softness}})
    # Its progress on frame n is n / 20; with 15 | 15 ours is the same on these frames' centres.
    found = [
        code_psnr(render_frame(recipe, Window(15, 15), offset, *codes_pair), made[n])
        for offset, n in ((-8, 5), (7, 15))
    ]
    hold(f"mix {document['kind']} as {name}", "libavfilter xfade", min(found), MIX_DB)


def test_a_fade_meets_in_its_colour(codes_pair: tuple) -> None:
    recipe = recipe_from_json({"mix": {"kind": "fade_through", "colour": "#204060"}})
    middle = render_frame(recipe, Window(200, 200), 0, *codes_pair)
    assert np.abs(middle.astype(int) - (0x20, 0x40, 0x60)).max() <= 2


def two_sizes() -> tuple[list[NDArray], list[NDArray]]:
    """Two photographs at 1920x1080, and the same averaged to 640x360."""
    photos = [skimage.data.astronaut()[112:400], skimage.data.coffee()]
    large = [cv2.resize(each, (1920, 1080), interpolation=cv2.INTER_CUBIC) for each in photos]
    return large, [cv2.resize(each, (640, 360), interpolation=cv2.INTER_AREA) for each in large]


LARGE, SMALL = two_sizes()


def with_each_choice(kind: str) -> Iterator[dict]:
    """The usual filter, and the same with every other choice of every choice and switch."""
    facts, fields = filters()[kind].parameters(), filters()[kind].model_fields
    # The catalogue calls no field of view usual, and without one a fisheye does nothing.
    usual = usual_filter(kind) | ({"view": 150} if kind == "lens" else {})
    yield usual
    for name, fact in facts.items():
        choices = (False, True) if fact.control == "switch" else fact.choices
        for value in get_args(fields[name].annotation) if name == "edge" else choices:
            other = {
                each: own.unit_when.usual
                for each, own in facts.items()
                if own.unit_when and (own.unit_when.parameter, own.unit_when.value) == (name, value)
            }
            if name != "enabled" and value != fields[name].default:
                yield {**usual, name: value, **other}


SIZED: list[dict] = [
    {"filters": [each]} for kind in sorted(filters()) for each in with_each_choice(kind)
]
SIZED += [{"mix": {"kind": kind}} for kind in sorted(mixes())]
SIZED += [
    {"mix": {"kind": "wipe", "matte": matte}}
    for matte in (
        {"type": "starWipe", "subtype": "fivePoint"},
        {"type": "spiralWipe", "subtype": "topLeftClockwise"},
        {"clouds": {"size": 0.3, "seed": 4}},
        {"blocks": {"size": 0.1, "seed": 4}},
        {"brightness": "outgoing"},
    )
]


def title(document: dict) -> str:
    """The kind and what is special about it."""
    made = document["mix"] if "mix" in document else document["filters"][0]
    special = made.get("matte") or [
        name if value is True else str(value)
        for name, value in made.items()
        if name not in ("kind", "id") and isinstance(value, str | bool)
    ]
    if isinstance(special, dict):
        special = [special.get("type") or next(iter(special))]
    return " ".join([made["kind"], *special])


@pytest.mark.parametrize("document", SIZED, ids=title)
def test_the_large_frame_averaged_is_the_small_one(document: dict, hold: Hold) -> None:
    recipe = recipe_from_json(document)
    big = render_frame(recipe, WINDOW, -1, *LARGE)
    averaged = cv2.resize(big, (640, 360), interpolation=cv2.INTER_AREA)
    found = code_psnr(averaged, render_frame(recipe, WINDOW, -1, *SMALL))
    measured = min(TWO_SIZES_DB[title(document)], MOST_DB)
    hold(title(document), "1920x1080 averaged to 640x360", found, measured - SLACK_DB)
