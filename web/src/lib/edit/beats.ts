// Beats on the film, by the frames that the server gives, and the tempo of taps.

/** As many of the beats inside 0…frames as can be drawn: every nth where there are more than `most`. */
export function beatsIn(beats: number[], frames: number, most = 400): number[] {
	const inside = beats.filter((at) => at >= 0 && at <= frames);
	const nth = Math.max(1, Math.ceil(inside.length / most));
	return inside.filter((_, n) => n % nth === 0);
}

/** How many frames later the nearest beat lies; negative for earlier, null without beats. */
export function toNearestBeat(beats: number[], frame: number): number | null {
	let best: number | null = null;
	for (const at of beats)
		if (best === null || Math.abs(at - frame) < Math.abs(best)) best = at - frame;
	return best;
}

/** Beats per minute from the moments (ms) at which a key was tapped; null before the second. */
export function tapped(moments: number[]): number | null {
	const [first, last] = [moments[0], moments[moments.length - 1]];
	if (first === undefined || last === undefined || moments.length < 2) return null;
	return Number((((moments.length - 1) / (last - first)) * 60_000).toFixed(1));
}
