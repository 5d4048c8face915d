"""Accents: levels, places, fades, following and the same sound at every frame rate.

References: libavfilter's ``afade`` (curve exp), ``ebur128`` and ``astats`` through PyAV.
"""

from fractions import Fraction

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idle_shimmer.core.adjust import flip, turn, with_strength
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.fades import fade_in
from idle_shimmer.core.sound.levels import momentary_loudness, peak_db, true_peak_db
from idle_shimmer.core.sound.mixing import mixed
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.core.sound.sounds.base import registered
from idle_shimmer.transition.heard_accent import accent_of

SOUNDS = sorted(registered())
WHIP = {
    "id": "whip",
    "kind": "roll",
    "edge": "tile",
    "x": {"kind": "travel", "amount": 1, "easing": {"steepness": 0.8}},
}
PEAK_DB, LOUDNESS_LU, PITCH_CENTS, LENGTH_S = 0.5, 0.5, 5.0, 0.005


def recipe(accent: dict, filters: list[dict] | None = None, **more) -> Recipe:
    return recipe_from_json({"format": 2, "accent": accent, "filters": filters or [], **more})


USUAL = Window(10, 10)


def heard(made: Recipe, window: Window = USUAL, rate: int | str = 25, own=None) -> PlacedSound:
    found = accent_of(made, window, Fraction(rate), own)
    assert found is not None
    return found


def loudest(sound: PlacedSound) -> int:
    return sound.first + int(np.abs(sound.samples).max(axis=1).argmax())


def through(filters: str, sound: Sound) -> tuple[Sound, dict[str, float]]:
    """Return sound after libavfilter's ``filters``, and the largest of every figure that they measure."""
    graph = av.filter.Graph()
    source = graph.add_abuffer(
        sample_rate=SAMPLES_PER_SECOND, format="flt", layout="stereo", time_base=Fraction(1, 48000)
    )
    nodes = [source]
    for each in filters.split(","):
        name, _, options = each.partition("=")
        nodes.append(graph.add(name, options))
    nodes.append(graph.add("abuffersink"))
    graph.link_nodes(*nodes).configure()
    frame = av.AudioFrame.from_ndarray(sound.reshape(1, -1), format="flt", layout="stereo")
    frame.sample_rate, frame.pts, frame.time_base = SAMPLES_PER_SECOND, 0, Fraction(1, 48000)
    graph.push(frame)
    graph.push(None)
    parts, metadata = [], {}
    while True:
        try:
            out = graph.pull()
        except (av.error.EOFError, av.error.BlockingIOError):
            break
        for key, value in dict(out.metadata).items():
            metadata[key] = max(float(value), metadata.get(key, -1e9))
        values = out.to_ndarray()
        parts.append(values.reshape(-1, 2) if values.shape[0] == 1 else values.T)
    return np.concatenate(parts), metadata


@pytest.mark.parametrize("name", SOUNDS)
@pytest.mark.parametrize("rate", ["24000/1001", "25", "60"])
def test_an_accent_peaks_at_its_gain_on_the_cut_and_is_silent_outside(name, rate):
    sound = heard(recipe({"sound": name, "gain_db": -12.0}), Window(8, 12), rate)
    assert peak_db(sound.samples) == pytest.approx(-12.0, abs=PEAK_DB)
    assert loudest(sound) == 0
    assert sound.first == round(-8 * 48000 / Fraction(rate))
    assert sound.end == round(12 * 48000 / Fraction(rate))
    # Nothing begins or ends with a step.
    assert np.abs(sound.samples[[0, -1]]).max() < 1e-4


@pytest.mark.parametrize("name", SOUNDS)
def test_the_same_seed_gives_the_same_samples_at_every_rate(name):
    accent = {"sound": name, "follow": "whip", "seed": 5}
    at_25 = heard(recipe(accent, [WHIP]), Window(10, 10), 25)
    assert np.array_equal(heard(recipe(accent, [WHIP]), Window(10, 10), 25).samples, at_25.samples)
    at_50 = heard(recipe(accent, [WHIP]), Window(20, 20), 50)
    assert at_50.first == at_25.first
    assert np.abs(at_50.samples - at_25.samples).max() < 1e-3
    other = heard(recipe({**accent, "seed": 6}, [WHIP]))
    if name != "hit":
        assert np.abs(other.samples - at_25.samples).max() > 0.01


def test_fades_are_those_of_afade_exp():
    # afade goes from -100 dB in its whole length: the last 60 % of it are ours.
    ours, whole = fade_in(6000), 10000
    ones = np.ones((whole, 2), np.float32)
    theirs, _ = through(f"afade=t=in:ss=0:ns={whole}:curve=exp", ones)
    assert np.allclose(ours[1:], theirs[-6000:, 0][1:], rtol=0.01)
    assert ours[0] == 0
    falls = heard(recipe({"sound": "riser", "end": 2, "fade_out": 1.0})).samples
    assert peak_db(falls[-len(falls) // 20 :]) < -19 - 54


def test_levels_are_those_of_ebur128():
    generator = np.random.default_rng(1)
    noise = (0.1 * generator.standard_normal((SAMPLES_PER_SECOND * 2, 2))).astype(np.float32)
    noise[: SAMPLES_PER_SECOND // 2] *= 0.2
    t = np.arange(len(noise)) / SAMPLES_PER_SECOND
    # Near a quarter of the sampling rate the peaks lie between samples.
    edge = np.minimum(1, 10 * np.minimum(t, t[-1] - t))
    wave = 0.5 * edge * np.sin(2 * np.pi * 11999 * t + 0.7)
    tone = np.stack([wave] * 2, axis=1).astype(np.float32)
    _, facts = through("ebur128=metadata=1:peak=true", noise)
    assert momentary_loudness(noise) == pytest.approx(facts["lavfi.r128.M"], abs=LOUDNESS_LU)
    _, facts = through("ebur128=metadata=1:peak=true", tone)
    theirs = 20 * np.log10(facts["lavfi.r128.true_peaks_ch0"])
    assert true_peak_db(tone) == pytest.approx(theirs, abs=0.2)


@pytest.mark.parametrize("name", ["whoosh", "rattle", "riser"])
def test_level_and_brightness_follow_the_movement(name):
    sound = heard(recipe({"sound": name, "follow": "whip", "fade_in": 0, "fade_out": 0}, [WHIP]))
    mono = sound.samples.mean(axis=1)
    hop = SAMPLES_PER_SECOND // 50
    blocks = mono[: len(mono) // hop * hop].reshape(-1, hop)
    level = np.sqrt((blocks**2).mean(axis=1))
    # A travel of steepness s: the speed is that of cubic-bezier(s, 0, 1 - s, 1).
    p = np.linspace(0, 1, 20001)
    x = 3 * (1 - p) ** 2 * p * 0.8 + 3 * (1 - p) * p**2 * 0.2 + p**3
    y = 3 * (1 - p) * p**2 + p**3
    centres = (np.arange(len(level)) + 0.5) / len(level)
    speed = np.gradient(np.interp(centres, x, y), centres)
    assert np.corrcoef(level, speed)[0, 1] > 0.9
    if name == "whoosh":
        spectrum = np.abs(np.fft.rfft(blocks, axis=1))
        centroid = (spectrum * np.arange(spectrum.shape[1])).sum(axis=1) / spectrum.sum(axis=1)
        middle = len(level) // 2
        assert centroid[middle - 1 : middle + 1].mean() > 1.5 * centroid[: middle // 2].mean()


def test_a_sideways_movement_is_heard_to_travel_and_a_flipped_one_the_other_way():
    def balance(made: Recipe) -> tuple[float, float]:
        power = (heard(made).samples.astype(np.float64) ** 2).reshape(2, -1, 2).sum(axis=1)
        share = (power[:, 1] - power[:, 0]) / power.sum(axis=1)
        return share[0], share[1]

    made = recipe({"sound": "whoosh", "follow": "whip"}, [WHIP])
    first, last = balance(made)
    assert first < -0.15 < 0.15 < last
    first, last = balance(flip(made, "horizontal"))
    assert first > 0.15 > -0.15 > last
    assert np.abs(balance(turn(made))).max() < 0.1
    pushed = recipe({"sound": "whoosh", "follow": "mix"}, mix={"kind": "push", "from": "left"})
    assert balance(pushed)[0] < balance(pushed)[1]


def test_strength_changes_the_level_and_stays_in_range():
    made = recipe({"sound": "hit", "gain_db": -19.0})
    assert with_strength(made, 2.0).accent.gain_db == pytest.approx(-12.98, abs=0.01)
    assert with_strength(made, 0.0).accent.gain_db == -60
    assert with_strength(made, 8.0).accent.gain_db <= 12


@settings(max_examples=25)
@given(
    st.sampled_from(SOUNDS),
    st.floats(-3, 0),
    st.floats(0, 1),
    st.floats(0.01, 3),
    st.booleans(),
    st.floats(0, 1),
    st.floats(0, 1),
)
def test_any_accent_is_finite_and_never_louder_than_its_gain(
    name, start, at, length, stretch, one, two
):
    end = start + length
    peak = start + at * (end - start)
    accent = {"sound": name, "start": start, "peak": peak, "end": end, "stretch": stretch}
    sound = heard(recipe({**accent, "fade_in": one, "fade_out": two}), Window(3, 4), 25)
    assert np.isfinite(sound.samples).all()
    assert peak_db(sound.samples) <= -19 + 0.01


def tone(hertz: float, length_s: float, loud_at_s: float) -> Sound:
    t = np.arange(round(length_s * SAMPLES_PER_SECOND)) / SAMPLES_PER_SECOND
    level = 0.3 + 0.5 * np.exp(-(((t - loud_at_s) / 0.05) ** 2))
    return np.stack([level * np.sin(2 * np.pi * hertz * t)] * 2, axis=1).astype(np.float32)


@pytest.mark.parametrize("factor", [0.6, 0.8, 1.25, 1.8])
def test_a_sound_of_ones_own_is_stretched_with_its_pitch_and_its_loudest_moment_at_the_peak(factor):
    own = tone(440.0, 1.0, 0.4)
    # A window of 1 s · factor, whose loudest moment lies at 40 %.
    accent = {"sound": {"clip": "own.wav"}, "peak": 0, "fade_in": 0, "fade_out": 0}
    window = Window(round(400 * factor), round(600 * factor))
    sound = heard(recipe(accent), window, 1000, own=lambda _: own)
    assert len(sound.samples) / SAMPLES_PER_SECOND == pytest.approx(factor, abs=LENGTH_S)
    assert abs(loudest(sound)) <= 1
    middle = sound.samples[len(sound.samples) // 10 : -len(sound.samples) // 10, 0]
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle)), 1 << 19))
    found = spectrum.argmax() * SAMPLES_PER_SECOND / (1 << 19)
    assert abs(1200 * np.log2(found / 440.0)) < PITCH_CENTS
    kept = heard(recipe({**accent, "stretch": False}), window, 1000, own=lambda _: own)
    assert len(kept.samples) == len(own)
    assert abs(loudest(kept)) <= 1


def test_mixing_in_parts_is_mixing_at_once():
    generator = np.random.default_rng(2)
    whole = generator.standard_normal((1000, 2)).astype(np.float32)
    laid = [
        PlacedSound(first, generator.standard_normal((300, 2)).astype(np.float32))
        for first in (-100, 250, 420, 900, 2000)
    ]
    wanted = whole.astype(np.float64)
    for each in laid:
        for n, sample in enumerate(each.samples):
            if 0 <= each.first + n < 1000:
                wanted[each.first + n] += sample
    parts = [whole[a:b] for a, b in ((0, 333), (333, 334), (334, 1000))]
    found = np.concatenate(list(mixed(parts, 0, laid)))
    assert np.allclose(found, wanted, atol=1e-6)


@pytest.mark.parametrize(
    ("accent", "message"),
    [
        ({"sound": "boom"}, "use one of hit, rattle, riser, whoosh"),
        ({"sound": "hit", "follow": "whip"}, "does not move the picture"),
        ({"sound": "hit", "start": 0.5}, "must follow each other"),
        ({"sound": "hit", "gain_db": float("nan")}, "gain_db"),
        ({"sound": "hit", "loud": 1}, "accent.loud"),
    ],
)
def test_wrong_accents_are_refused_by_name(accent, message):
    with pytest.raises(RecipeError) as refused:
        recipe(accent)
    assert message in str(refused.value.problems)


def test_a_silent_sound_is_refused_and_documents_keep_their_accent():
    made = recipe({"sound": {"clip": "quiet.wav"}})
    with pytest.raises(InvalidValue, match=r"quiet\.wav' is silent"):
        heard(made, own=lambda _: np.zeros((100, 2), np.float32))
    assert recipe_from_json(recipe_to_json(made)) == made
    assert "accent" not in recipe_to_json(recipe_from_json({"format": 2}))
