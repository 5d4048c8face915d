// On which of the two frames beside the cut a swell peaks.
import type { Swell } from '$lib/recipe/recipe';
import type { Time, Window } from '$lib/recipe/times';

export type Peak = 'last' | 'both' | 'first' | 'elsewhere';

export const PEAKS: { value: Peak; name: string }[] = [
	{ value: 'last', name: '−1' },
	{ value: 'both', name: '−1 and 0' },
	{ value: 'first', name: '0' },
	{ value: 'elsewhere', name: 'Elsewhere' }
];

const SAME_FRAMES = 1e-6;
const TIMES: Record<Exclude<Peak, 'elsewhere'>, [number, number]> = {
	last: [-0.5, -0.5],
	both: [-0.5, 0.5],
	first: [0.5, 0.5]
};

/** Where a swell peaks, its times as u. */
export function peakOf(swell: Swell, { before, after }: Window): Peak {
	const frames = [swell.full_from, swell.full_to].map((u) => u * (u < 0 ? before : after));
	if (frames.every((t) => t === 0)) return 'both';
	const found = Object.entries(TIMES).find(([, times]) =>
		times.every((t, n) => Math.abs(t - (frames[n] ?? 0)) < SAME_FRAMES)
	);
	return (found?.[0] as Peak | undefined) ?? 'elsewhere';
}

/** The swell, as it is stated, with its peak on frames beside the cut. */
export function peakOn(swell: Swell, peak: Peak): Swell {
	if (peak === 'elsewhere') return swell;
	const [from, to] = TIMES[peak].map((frames): Time => ({ frames }));
	// A recipe states times as u or as frames; the bench shows them as u.
	return { ...swell, full_from: from as number, full_to: to as number };
}
