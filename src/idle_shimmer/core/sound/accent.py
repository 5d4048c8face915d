"""The accent of a transition: a sound that is stretched to the window, faded, and laid at the cut."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Annotated

import numpy as np
from pydantic import (
    BaseModel,
    ConfigDict,
    Discriminator,
    Field,
    Tag,
    field_validator,
    model_validator,
)

import idle_shimmer.core.sound.sounds  # noqa: F401  (importing the package registers its members)
from idle_shimmer.core.animation.times import (
    FrameTime,
    Placing,
    in_order,
    kind_of_time,
    time_text,
    u_of,
)
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.core.sound.sounds.base import registered

# Times may lie outside the window, as far as this in envelope time.
FARTHEST_U = 20.0
_Plain = Annotated[float, Field(strict=True, ge=-FARTHEST_U, le=FARTHEST_U, allow_inf_nan=False)]
_Time = Annotated[
    Annotated[_Plain, Tag("u")] | Annotated[FrameTime, Tag("frames")], Discriminator(kind_of_time)
]
_Share = Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False)]
LOWEST_GAIN_DB, HIGHEST_GAIN_DB = -60.0, 12.0


# A sound of the user's is read up to this length.
LONGEST_SOUND_S = 600


def sample_at_u(u: float, window: Window, rate: Fraction) -> int:
    """Return the sample at an envelope time, counted from the cut's."""
    frames = u * (window.before if u < 0 else window.after)
    return round(frames * SAMPLES_PER_SECOND / float(rate))


class SoundClip(BaseModel):
    """A sound of the user's, by its id; on the command line a file beside the recipe."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    clip: Annotated[str, Field(min_length=1, max_length=300)]


class Accent(BaseModel):
    """A sound around the cut. Times are u, -1 the window's start, 0 the cut, 1 its end, or in frames.

    ``gain_db`` is its loudest sample in dBFS. ``fade_in`` and ``fade_out`` are shares of its halves, before
    and after ``peak``. Without ``stretch`` it keeps its own length, around ``peak``. ``follow`` is a moving
    filter's id, or "mix": loudness, brightness and place then go with that movement. ``brightness`` and
    ``body``, 0…1, are for synthesised sounds.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    sound: str | SoundClip
    gain_db: Annotated[
        float, Field(strict=True, ge=LOWEST_GAIN_DB, le=HIGHEST_GAIN_DB, allow_inf_nan=False)
    ] = -19.0
    start: _Time = -1.0
    peak: _Time = 0.0
    end: _Time = 1.0
    fade_in: _Share = 0.5
    fade_out: _Share = 0.5
    stretch: Annotated[bool, Field(strict=True)] = True
    follow: Annotated[str, Field(min_length=1, max_length=64)] | None = None
    seed: Annotated[int, Field(strict=True, ge=0, le=2**31 - 1)] = 0
    brightness: _Share = 0.5
    body: _Share = 0.5

    @field_validator("sound")
    @classmethod
    def _known_sound(cls, value: str | SoundClip) -> str | SoundClip:
        if isinstance(value, str) and value not in registered():
            names = ", ".join(registered())
            raise ValueError(
                f"there is no sound '{value}': use one of {names}, or {{\"clip\": …}} for one of your own"
            )
        return value

    @model_validator(mode="after")
    def _in_order(self) -> "Accent":
        if not in_order(self.start, self.peak, self.end) or self.start == self.end:
            raise ValueError(
                "start, peak and end must follow each other, not "
                + ", ".join(map(time_text, (self.start, self.peak, self.end)))
            )
        return self

    def placed(self, placing: Placing) -> "Accent":
        """Return the accent with its times as u; its peak wins where times in frames cross others."""
        start, peak, end = (
            placing.at(each, farthest=FARTHEST_U) for each in (self.start, self.peak, self.end)
        )
        times = {"start": min(start, peak), "peak": peak, "end": max(end, peak)}
        return self.model_copy(update=times)

    def span(self, window: Window, rate: Fraction) -> tuple[int, int]:
        """Return the samples in which it can be heard, counted from the cut's; the end is exclusive.

        Its times must have been placed in the window.
        """
        start, peak, end = (
            sample_at_u(u_of(each), window, rate) for each in (self.start, self.peak, self.end)
        )
        if self.stretch:
            return start, max(end, start + 1)
        before, after = float(LONGEST_SOUND_S), float(LONGEST_SOUND_S)
        if isinstance(self.sound, str):
            before, after = registered()[self.sound].natural_s
        return (
            peak - round(before * SAMPLES_PER_SECOND),
            peak + round(after * SAMPLES_PER_SECOND),
        )

    def with_strength(self, factor: float) -> "Accent":
        """Return the accent ``factor`` times as loud, inside its range."""
        change = 20 * np.log10(max(factor, 1e-6))
        gain_db = float(np.clip(self.gain_db + change, LOWEST_GAIN_DB, HIGHEST_GAIN_DB))
        return self.model_copy(update={"gain_db": round(gain_db, 3)})


def require_accent_length(name: str, length_s: float) -> None:
    """Raise InvalidValue for a sound of the user's that is too long for an accent."""
    if length_s > LONGEST_SOUND_S:
        raise InvalidValue(
            f"{name} lasts {length_s / 60:.0f} minutes, but an accent at most {LONGEST_SOUND_S // 60}: cut"
            " out what is to be heard, and choose that",
            field="accent.sound",
        )


# Returns a sound of the user's by its id.
SoundOf = Callable[[str], Sound]


@dataclass(frozen=True)
class PlacedSound:
    """Sound, float32 (samples, 2), whose first sample is number ``first``, counted from the cut's."""

    first: int
    samples: Sound

    @property
    def end(self) -> int:
        """The sample after its last one."""
        return self.first + len(self.samples)

    def part(self, start: int, stop: int) -> Sound:
        """Return its samples ``start`` … ``stop``, exclusive, counted as ``first`` is."""
        return self.samples[start - self.first : stop - self.first]

    def moved(self, by: int) -> "PlacedSound":
        """Return the sound ``by`` samples later."""
        return PlacedSound(self.first + by, self.samples)
