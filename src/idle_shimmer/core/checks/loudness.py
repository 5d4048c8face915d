"""Loudness: the true peak of the mixed sound around the window, and the accent against the rest.

Source: EBU R 128 (true peak at most -1 dBTP) and ITU-R BS.1770-4 for both measures (from memory).
"""

from dataclasses import replace

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Fix, Status, set_field
from idle_shimmer.core.sound.accent import LOWEST_GAIN_DB
from idle_shimmer.core.sound.heard_around import HeardAround
from idle_shimmer.core.sound.levels import (
    SILENCE_DB,
    gain_of_db,
    momentary_loudness,
    true_peak_db,
)

HIGHEST_DBTP = -1.0
FULL_SCALE_DBTP = 0.0
_STEP_DB = 0.1


class Loudness(Check):
    """The mixed sound has a true peak of at most -1 dBTP."""

    id = "loudness"
    title = "Loudness"
    order = 120
    on_frames = True

    def run(self, context: CheckContext) -> Finding:
        """Return the true peak around the window; the message compares the accent with the rest."""
        heard = None if context.sound is None else context.sound()
        if heard is None:
            return self.ok(SILENCE_DB, "dBTP", "There is no sound around the cut.")
        peak = true_peak_db(heard.mixed())
        compared = _compared(heard)
        beside = "" if compared is None else f"; the accent {compared}"
        said = f"The sound around the cut peaks at {peak:.1f} dBTP{beside}."
        if peak <= HIGHEST_DBTP:
            return replace(self.ok(peak, "dBTP", said), detail=compared)
        fixes = _lower_the_accent(context, heard)
        advice = "" if fixes else " Lower the clips or the music."
        text = f"{said} At most {HIGHEST_DBTP:g} dBTP keep every player from clipping.{advice}"
        status: Status = "failed" if fixes and peak > FULL_SCALE_DBTP else "warning"
        found = self.found(status, peak, "dBTP", text, None, fixes)
        return replace(found, detail=compared)


def _compared(heard: HeardAround) -> str | None:
    """Return how loud the accent is beside the rest, as the end of a sentence; None without one."""
    if heard.accent is None:
        return None
    accent = momentary_loudness(heard.accent.samples)
    others = momentary_loudness(heard.others.samples)
    if others <= SILENCE_DB:
        return f"reaches {accent:.1f} LUFS"
    apart = accent - others
    place = "below" if apart < 0 else "above"
    return f"is {abs(apart):.0f} LU {place} the rest"


def _lower_the_accent(context: CheckContext, heard: HeardAround) -> list[Fix]:
    """Return the fix by the highest level of the accent that keeps to the limit, if there is one."""
    accent = context.recipe.accent
    if accent is None or true_peak_db(heard.others.samples) > HIGHEST_DBTP:
        return []
    steps = int((accent.gain_db - LOWEST_GAIN_DB) / _STEP_DB)
    low, high = 1, steps
    while low < high:
        step = (low + high) // 2
        if true_peak_db(heard.mixed(gain_of_db(-step * _STEP_DB))) <= HIGHEST_DBTP:
            high = step
        else:
            low = step + 1
    level = round(accent.gain_db - high * _STEP_DB, 1)
    return [Fix(f"Lower the accent to {level:g} dB", (set_field("/accent/gain_db", level),))]
