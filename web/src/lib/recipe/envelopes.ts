// Operations on a curve: add, move and delete keyframes; mirror one side to the other.
import {
	mainValue,
	movesOf,
	withMainValue,
	type Envelope,
	type Keyframe,
	type Keyframes,
	type Value
} from '$lib/recipe/recipe';

// A keyframe that is moved keeps this distance from its neighbours.
const APART_U = 0.001;

/** Change a keyframe; its time stays between those of its neighbours. */
export function withKeyframe(
	keyframes: Keyframes,
	place: number,
	change: Partial<Keyframe>
): Keyframes {
	const [before, after] = [keyframes.keyframes[place - 1], keyframes.keyframes[place + 1]];
	const low = before ? before.at + APART_U : -1;
	const high = after ? after.at - APART_U : 1;
	const moved = keyframes.keyframes.map((each, n) => {
		if (n !== place) return each;
		const next = { ...each, ...change };
		return { ...next, at: Math.min(Math.max(next.at, low), high) };
	});
	return { ...keyframes, keyframes: moved };
}

/** Add a keyframe at `at`; both parts of the divided segment keep its easing. */
export function withNewKeyframe(keyframes: Keyframes, at: number, value: Value): Keyframes {
	const place = keyframes.keyframes.findIndex((each) => each.at > at);
	const where = place < 0 ? keyframes.keyframes.length : place;
	const close = [keyframes.keyframes[where - 1], keyframes.keyframes[where]];
	if (close.some((each) => each && Math.abs(each.at - at) < APART_U)) return keyframes;
	const easing = keyframes.keyframes[where - 1]?.easing ?? 'linear';
	return {
		...keyframes,
		keyframes: keyframes.keyframes.toSpliced(where, 0, { at, value, easing })
	};
}

/** Set the value at a time: of the keyframe within `near` of it, or of a new one; or the constant. */
export function withValueAt(envelope: Envelope, at: number, value: Value, near: number): Envelope {
	if (movesOf(envelope) !== 'keyframes') return withMainValue(envelope, value);
	const keyframes = envelope as Keyframes;
	const nearest = keyframeNear(envelope, at, near);
	return nearest
		? withKeyframe(keyframes, keyframes.keyframes.indexOf(nearest), { value })
		: withNewKeyframe(keyframes, at, value);
}

/** The keyframe nearest to a time, if one lies within `near` of it. */
export function keyframeNear(envelope: Envelope, at: number, near: number): Keyframe | undefined {
	if (movesOf(envelope) !== 'keyframes') return undefined;
	const distance = (each: Keyframe) => Math.abs(each.at - at);
	const [nearest] = (envelope as Keyframes).keyframes.toSorted(
		(one, other) => distance(one) - distance(other)
	);
	return nearest && distance(nearest) <= near + 1e-9 ? nearest : undefined;
}

/** Delete a keyframe, unless it is the only one. */
export function withoutKeyframe(keyframes: Keyframes, place: number): Keyframes {
	return keyframes.keyframes.length > 1
		? { ...keyframes, keyframes: keyframes.keyframes.toSpliced(place, 1) }
		: keyframes;
}

/** Whether one side can be copied to the other: what is constant or follows has no curve of its own. */
export function canCopySide(envelope: Envelope): boolean {
	return ['swell', 'travel', 'keyframes'].includes(movesOf(envelope));
}

/** Whether a copied curve can replace another: one of points takes points. */
export function canPaste(copied: Envelope, there: Envelope): boolean {
	if (movesOf(copied) === 'follow' || movesOf(there) === 'follow') return true;
	return Array.isArray(mainValue(copied)) === Array.isArray(mainValue(there));
}

/** The copied curve with the main value of the one it replaces: units differ between lanes. */
export function fittedTo(copied: Envelope, there: Envelope): Envelope {
	const isPoint = Array.isArray(mainValue(copied));
	return movesOf(copied) === 'follow' || isPoint ? copied : withMainValue(copied, mainValue(there));
}

/** How fast a curve moves at each of its times, in value per frame. */
export function speeds(times: number[], line: number[]): number[] {
	return line.map((value, n) => {
		const [from, to] = [Math.max(0, n - 1), Math.min(line.length - 1, n + 1)];
		const span = (times[to] ?? 0) - (times[from] ?? 0);
		return span > 1e-4 ? ((line[to] ?? value) - (line[from] ?? value)) / span : 0;
	});
}

/** How fast values, one a frame, change at one of them: in value per frame. */
export function speedAt(values: number[], n: number): number {
	const [from, to] = [Math.max(0, n - 1), Math.min(values.length - 1, n + 1)];
	return to > from ? ((values[to] ?? 0) - (values[from] ?? 0)) / (to - from) : 0;
}
