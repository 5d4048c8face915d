// Several keyframes at once: moved, stretched in time, deleted, copied and pasted. Times of keyframes are u;
// `places` are the numbers of the picked ones, in order.
import { reversed } from './easing';
import type { Easing, Keyframe, Keyframes, Value } from './recipe';
import { clamped, rounded } from '$lib/ui/numbers';
import { tOf, uOf, type Window } from './times';

/** A keyframe that was copied: frames after the first of them. */
export type CopiedKeyframe = { frames: number; value: Value; easing: Easing };
export type Limits = { low: number; high: number };

/** Neighbours stay so far apart, in frames. */
const APART = 0.01;

/** The picked keyframes later by so many frames and higher by a value; they pass none that is not picked. */
export function movedTogether(
	keyframes: Keyframes,
	places: number[],
	by: { frames: number; value: number },
	window: Window,
	limits: Limits
): Keyframes {
	const times = keyframes.keyframes.map(({ at }) => tOf(window, at));
	const picked = new Set(places);
	let [low, high] = [-Infinity, Infinity];
	for (const place of places) {
		const t = times[place] ?? 0;
		const [before, after] = [times[place - 1], times[place + 1]];
		const floor = before === undefined ? -window.before : before + APART;
		const ceiling = after === undefined ? window.after : after - APART;
		if (!picked.has(place - 1)) low = Math.max(low, floor - t);
		if (!picked.has(place + 1)) high = Math.min(high, ceiling - t);
	}
	const frames = clamped(by.frames, Math.min(0, low), Math.max(0, high));
	return changed(keyframes, places, (each, place) => ({
		...each,
		at: uOf(window, (times[place] ?? 0) + frames),
		value: raised(each.value, by.value, limits)
	}));
}

/** The picked keyframes `factor` times as far from a time; unchanged where they would pass others. */
export function stretchedFrom(
	keyframes: Keyframes,
	places: number[],
	about: number,
	factor: number,
	window: Window
): Keyframes {
	const made = changed(keyframes, places, (each) => {
		const t = about + (tOf(window, each.at) - about) * factor;
		return { ...each, at: uOf(window, clamped(t, -window.before, window.after)) };
	});
	const times = made.keyframes.map(({ at }) => at);
	const inOrder = times.every((at, n) => n === 0 || at >= (times[n - 1] ?? -1));
	return inOrder ? made : keyframes;
}

/** The keyframes without the picked ones; the last one stays. */
export function withoutPicked(keyframes: Keyframes, places: number[]): Keyframes {
	const left = keyframes.keyframes.filter((_, place) => !places.includes(place));
	return { ...keyframes, keyframes: left.length ? left : keyframes.keyframes.slice(0, 1) };
}

/** The picked keyframes, to be pasted elsewhere. */
export function copiedKeyframes(
	keyframes: Keyframes,
	places: number[],
	window: Window
): CopiedKeyframe[] {
	const picked = keyframes.keyframes.filter((_, place) => places.includes(place));
	const first = tOf(window, picked[0]?.at ?? 0);
	return picked.map(({ at, value, easing }) => ({
		frames: tOf(window, at) - first,
		value,
		easing
	}));
}

/** Copied keyframes from a time on, in place of those between their ends; mirrored, the last comes first. */
export function withPasted(
	keyframes: Keyframes,
	copied: CopiedKeyframe[],
	from: number,
	mirrored: boolean,
	window: Window,
	{ low, high }: Limits
): Keyframes {
	const listed = mirrored ? backwards(copied) : copied;
	const length = listed.at(-1)?.frames ?? 0;
	const inside = (t: number) => t > from - APART && t < from + length + APART;
	const pasted = listed.map(({ frames, value, easing }): Keyframe => ({
		at: uOf(window, clamped(from + frames, -window.before, window.after)),
		value: raised(value, 0, { low, high }),
		easing
	}));
	const kept = keyframes.keyframes.filter(({ at }) => !inside(tOf(window, at)));
	const merged = [...kept, ...pasted].toSorted((one, other) => one.at - other.at);
	return { ...keyframes, keyframes: merged };
}

function backwards(copied: CopiedKeyframe[]): CopiedKeyframe[] {
	const length = copied.at(-1)?.frames ?? 0;
	return copied
		.map(({ frames, value }, n) => ({
			frames: length - frames,
			value,
			// The stretch to a keyframe has the easing of the one before it.
			easing: reversed(copied[n - 1]?.easing ?? 'linear')
		}))
		.reverse();
}

function changed(
	keyframes: Keyframes,
	places: number[],
	change: (keyframe: Keyframe, place: number) => Keyframe
): Keyframes {
	return {
		...keyframes,
		keyframes: keyframes.keyframes.map((each, place) =>
			places.includes(place) ? change(each, place) : each
		)
	};
}

function raised(value: Value, by: number, { low, high }: Limits): Value {
	if (Array.isArray(value)) return value;
	return clamped(rounded(value + by, 1e-6), low, high);
}
