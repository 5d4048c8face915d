// The beat grid of an edit: where beats lie, and which is nearest to a frame.

export type Beats = {
	perMinute: number;
	offsetS: number;
	rate: number;
	/** The beats one by one in seconds, where the tempo drifts. */
	timesS?: number[] | null;
};

/** Frames in one beat. */
export function framesABeat({ perMinute, rate }: Beats): number {
	return (60 / perMinute) * rate;
}

/** Every beat inside 0…frames, in frames; at most `most`, every nth where there are more. */
export function beatsIn(beats: Beats, frames: number, most = 400): number[] {
	const step = framesABeat(beats);
	const heard = beats.timesS;
	if (heard?.length) {
		const inside = heard.map((time) => time * beats.rate).filter((at) => at >= 0 && at <= frames);
		const nth = Math.max(1, Math.ceil(inside.length / most));
		return inside.filter((_, n) => n % nth === 0);
	}
	const first = Math.ceil((-beats.offsetS * beats.rate) / step - 1e-9);
	const count = Math.max(0, Math.floor((frames - beats.offsetS * beats.rate) / step) - first + 1);
	const every = Math.max(1, Math.ceil(count / most));
	return Array.from(
		{ length: Math.ceil(count / every) },
		(_, n) => beats.offsetS * beats.rate + (first + n * every) * step
	);
}

/** How many frames later the nearest beat lies; negative for earlier. */
export function toNearestBeat(beats: Beats, frame: number): number {
	const step = framesABeat(beats);
	const heard = nearestHeard(beats, frame);
	if (heard !== null) return Math.round(heard) - frame;
	const offset = beats.offsetS * beats.rate;
	return Math.round(offset + Math.round((frame - offset) / step) * step) - frame;
}

/** The nearest beat that was heard, in frames; null beyond the first and the last. */
function nearestHeard({ timesS, rate, perMinute }: Beats, frame: number): number | null {
	if (!timesS?.length) return null;
	const half = (30 / perMinute) * rate;
	const first = (timesS[0] ?? 0) * rate;
	const last = (timesS.at(-1) ?? 0) * rate;
	if (frame < first - half || frame > last + half) return null;
	let best = first;
	for (const time of timesS)
		if (Math.abs(time * rate - frame) < Math.abs(best - frame)) best = time * rate;
	return best;
}

/** Beats per minute from the moments (ms) at which a key was tapped; null before the second. */
export function tapped(moments: number[]): number | null {
	const [first, last] = [moments[0], moments[moments.length - 1]];
	if (first === undefined || last === undefined || moments.length < 2) return null;
	return Number((((moments.length - 1) / (last - first)) * 60_000).toFixed(1));
}
