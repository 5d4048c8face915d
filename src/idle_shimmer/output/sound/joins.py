"""Where the sound of one clip meets that of the next: a hard cut with short fades, or a crossfade."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.crossfade import Fade, with_fades
from idle_shimmer.core.sound.samples import sample_at
from idle_shimmer.media.sound.played_sound import HeardClip, ReadParts, Stretch, heard_sound


@dataclass(frozen=True)
class Join:
    """The sound at a cut. A crossfade of ``frames`` lies half before the cut and half after it.

    ``cut_frame`` is the cut's frame in the edit, at ``rate``; ``outgoing_end`` and ``incoming_first`` are
    the source frames that meet there. During the crossfade each clip goes on at normal speed beyond the
    cut, as far as its file has sound.
    """

    outgoing: HeardClip
    incoming: HeardClip
    frames: int
    cut_frame: int
    rate: Fraction
    outgoing_end: int
    incoming_first: int

    @property
    def is_hard(self) -> bool:
        """Whether one clip ends where the next begins."""
        return self.frames == 0

    @property
    def _before(self) -> int:
        return self.frames // 2

    @property
    def _after(self) -> int:
        return self.frames - self._before

    def fall(self) -> list[Fade]:
        """Return the fade of the outgoing clip, if there is one."""
        return [] if self.is_hard else [Fade(*self._span(), "fall")]

    def rise(self) -> list[Fade]:
        """Return the fade of the incoming clip, if there is one."""
        return [] if self.is_hard else [Fade(*self._span(), "rise")]

    def beyond(self, read: ReadParts) -> list[PlacedSound]:
        """Return what is heard of each clip beyond the cut, faded."""
        if self.is_hard:
            return []
        cut = self.cut_frame
        tail = Stretch(cut, cut + self._after, self.outgoing_end, self.rate)
        lead = Stretch(cut - self._before, cut, self.incoming_first - self._before, self.rate)
        return [
            self._placed(self.outgoing, tail, self.fall(), read),
            self._placed(self.incoming, lead, self.rise(), read),
        ]

    def _span(self) -> tuple[int, int]:
        first, end = self.cut_frame - self._before, self.cut_frame + self._after
        return sample_at(first, self.rate), sample_at(end, self.rate)

    def _placed(
        self, clip: HeardClip, stretch: Stretch, fades: list[Fade], read: ReadParts
    ) -> PlacedSound:
        first = sample_at(stretch.first, self.rate)
        parts = with_fades(heard_sound(clip, [stretch], read), first, fades)
        return PlacedSound(first, np.concatenate([np.zeros((0, 2), np.float32), *parts]))
