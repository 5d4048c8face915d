// Operations on a curve: add, move and delete keyframes; mirror one side to the other.
import { reversed } from '$lib/recipe/easing';
import {
	mainValue,
	movesOf,
	withMainValue,
	type Envelope,
	type Keyframe,
	type Keyframes,
	type Value
} from '$lib/recipe/recipe';

// The server refuses two keyframes at one time: neighbours keep this distance.
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
		: withNewKeyframe(keyframes, Number(at.toFixed(4)), value);
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

/** The outgoing side's curve, mirrored at the cut to the incoming side. */
export function mirrored(envelope: Envelope): Envelope {
	if (typeof envelope !== 'object' || Array.isArray(envelope)) return envelope;
	if (envelope.kind === 'swell') {
		return {
			...envelope,
			full_from: Math.min(envelope.full_from, 0),
			full_to: Math.max(-envelope.full_from, 0),
			end: Math.min(1, -envelope.start),
			fall: reversed(envelope.rise)
		};
	}
	return envelope.kind === 'keyframes' ? mirroredKeyframes(envelope) : envelope;
}

/** Whether the curve can be mirrored: a travel does not return, and a follow has no curve of its own. */
export function canMirror(envelope: Envelope): boolean {
	return ['swell', 'keyframes'].includes(movesOf(envelope));
}

function mirroredKeyframes(keyframes: Keyframes): Keyframes {
	const outgoing = keyframes.keyframes.filter((each) => each.at <= 0);
	if (!outgoing.length) return keyframes;
	const incoming = outgoing
		.map((each, n) => ({
			at: -each.at || 0,
			value: each.value,
			// Backwards, the segment to this keyframe has the easing of the keyframe before it.
			easing: reversed(outgoing[n - 1]?.easing ?? 'linear')
		}))
		.reverse();
	const last = outgoing[outgoing.length - 1];
	if (last && last.at > -APART_U) {
		const joined = { ...last, easing: incoming[0]?.easing ?? 'linear' };
		return { ...keyframes, keyframes: [...outgoing.slice(0, -1), joined, ...incoming.slice(1)] };
	}
	return { ...keyframes, keyframes: [...outgoing, ...incoming] };
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
