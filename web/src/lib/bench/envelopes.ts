// Operations on a curve: keys added, moved, taken out; one side mirrored to the other.
import { reversed } from './easing';
import {
	mainValue,
	movesOf,
	withMainValue,
	type Envelope,
	type Key,
	type Keys,
	type Value
} from './recipe';

// Two keys at one time are refused by the server: neighbours keep this far apart.
const APART_U = 0.001;

/** A key moved in time, held between its neighbours, and in value. */
export function withKey(keys: Keys, place: number, change: Partial<Key>): Keys {
	const [before, after] = [keys.keys[place - 1], keys.keys[place + 1]];
	const low = before ? before.at + APART_U : -1;
	const high = after ? after.at - APART_U : 1;
	const moved = keys.keys.map((each, n) => {
		if (n !== place) return each;
		const next = { ...each, ...change };
		return { ...next, at: Math.min(Math.max(next.at, low), high) };
	});
	return { ...keys, keys: moved };
}

/** A new key at `at`; the segment that it divides keeps its easing on both parts. */
export function withNewKey(keys: Keys, at: number, value: Value): Keys {
	const place = keys.keys.findIndex((each) => each.at > at);
	const where = place < 0 ? keys.keys.length : place;
	const close = [keys.keys[where - 1], keys.keys[where]];
	if (close.some((each) => each && Math.abs(each.at - at) < APART_U)) return keys;
	const ease = keys.keys[where - 1]?.ease ?? 'linear';
	return { ...keys, keys: keys.keys.toSpliced(where, 0, { at, value, ease }) };
}

/** Without a key; the last one stays. */
export function withoutKey(keys: Keys, place: number): Keys {
	return keys.keys.length > 1 ? { ...keys, keys: keys.keys.toSpliced(place, 1) } : keys;
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
	return envelope.kind === 'keys' ? mirroredKeys(envelope) : envelope;
}

/** Whether mirroring means something for this curve: travels go on, and follow what they follow. */
export function canMirror(envelope: Envelope): boolean {
	return ['swell', 'keys'].includes(movesOf(envelope));
}

function mirroredKeys(keys: Keys): Keys {
	const outgoing = keys.keys.filter((each) => each.at <= 0);
	if (!outgoing.length) return keys;
	const incoming = outgoing
		.map((each, n) => ({
			at: -each.at || 0,
			value: each.value,
			// Going back, the way to this key is eased by the key ahead of it.
			ease: reversed(outgoing[n - 1]?.ease ?? 'linear')
		}))
		.reverse();
	const last = outgoing[outgoing.length - 1];
	if (last && last.at > -APART_U) {
		const joined = { ...last, ease: incoming[0]?.ease ?? 'linear' };
		return { ...keys, keys: [...outgoing.slice(0, -1), joined, ...incoming.slice(1)] };
	}
	return { ...keys, keys: [...outgoing, ...incoming] };
}

/** A copied curve's shape with the size that the curve there had: units differ between lanes. */
export function reshapedLike(copied: Envelope, there: Envelope): Envelope {
	return movesOf(copied) === 'follow' ? copied : withMainValue(copied, mainValue(there));
}

/** How fast a curve moves at each of its times, in value per frame. */
export function speeds(times: number[], line: number[]): number[] {
	return line.map((value, n) => {
		const [from, to] = [Math.max(0, n - 1), Math.min(line.length - 1, n + 1)];
		const span = (times[to] ?? 0) - (times[from] ?? 0);
		return span > 1e-4 ? ((line[to] ?? value) - (line[from] ?? value)) / span : 0;
	});
}
