// Beats on the film, by the frames that the server gives, and the tempo of taps.

/** As many of the beats inside 0…frames as can be drawn: every nth where there are more than `most`. */
export function beatsIn(beats: number[], frames: number, most = 400): number[] {
	const inside = beats.filter((at) => at >= 0 && at <= frames);
	const nth = Math.max(1, Math.ceil(inside.length / most));
	return inside.filter((_, n) => n % nth === 0);
}

/** How many frames later the nearest beat lies, of ascending ones; negative for earlier, null without beats. */
export function toNearestBeat(beats: number[], frame: number): number | null {
	let [low, high] = [0, beats.length];
	while (low < high) {
		const middle = (low + high) >> 1;
		if ((beats[middle] ?? 0) < frame) low = middle + 1;
		else high = middle;
	}
	const before = (beats[low - 1] ?? -Infinity) - frame;
	const after = (beats[low] ?? Infinity) - frame;
	const nearest = -before <= after ? before : after;
	return Number.isFinite(nearest) ? nearest : null;
}

/** Beats per minute from the moments (ms) at which a key was tapped; null before the second. */
export function tapped(moments: number[]): number | null {
	const [first, last] = [moments[0], moments[moments.length - 1]];
	if (first === undefined || last === undefined || moments.length < 2) return null;
	return Number((((moments.length - 1) / (last - first)) * 60_000).toFixed(1));
}
