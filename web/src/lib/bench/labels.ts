// What a change to a parameter is called in the history: "peak of blur length 4 % h → 6 % h".
import type { Parameter } from '$lib/api/client';
import { hasCurve, mainName, movesOf, type Easing, type Envelope } from './recipe';
import { valueText } from './units';

const TIMES: Record<string, string> = {
	start: 'start',
	end: 'end',
	full_from: 'plateau',
	full_to: 'plateau'
};
const EASINGS = ['rise', 'fall', 'shape'];

/** `owner` is the pass's title; `was` is undefined where there was nothing. */
export function changeLabel(
	owner: string,
	parameter: Parameter,
	was: Envelope | undefined,
	next: Envelope
): string {
	const what = `${owner.toLowerCase()} ${parameter.label.toLowerCase()}`;
	const told = valueText(parameter, next);
	if (was === undefined || !hasCurve(parameter)) return `${what} ${told}`;
	const moves = movesOf(next);
	if (moves !== movesOf(was)) return moves === 'hold' ? `${what} held` : `${what} moves: ${moves}`;
	const change = `${valueText(parameter, was)} → ${told}`;
	if (typeof next !== 'object' || Array.isArray(next)) return `${what} ${change}`;
	if (next.kind === 'keys') return keysLabel(what, was as typeof next, next);
	const part = firstChange(was as typeof next, next);
	if (part && part in TIMES) return `${TIMES[part]} of ${what}`;
	if (part && EASINGS.includes(part)) {
		const easing = (next as unknown as Record<string, Easing>)[part];
		return `${part} of ${what}: ${easing === undefined ? '' : easingText(easing)}`;
	}
	if (part === 'pass' && next.kind === 'follow') return `${what} follows ${next.pass}`;
	return `${mainName(moves)} of ${what} ${change}`;
}

function firstChange(was: object, next: object): string | undefined {
	const [before, after] = [was as Record<string, unknown>, next as Record<string, unknown>];
	return Object.keys(after).find(
		(name) => JSON.stringify(before[name]) !== JSON.stringify(after[name])
	);
}

function keysLabel(
	what: string,
	was: { keys: { at: number; value: unknown; ease: Easing }[] },
	next: { keys: { at: number; value: unknown; ease: Easing }[] }
): string {
	const more = next.keys.length - was.keys.length;
	if (more) return more > 0 ? `new key of ${what}` : `key of ${what} taken out`;
	const place = next.keys.findIndex(
		(key, n) => JSON.stringify(key) !== JSON.stringify(was.keys[n])
	);
	const key = next.keys[place];
	if (!key) return `keys of ${what}`;
	const eased = JSON.stringify(key.ease) !== JSON.stringify(was.keys[place]?.ease);
	return `key ${place + 1} of ${what}${eased ? `: ${easingText(key.ease)}` : ''}`;
}

/** An easing as text. */
export function easingText(easing: Easing): string {
	return typeof easing === 'string'
		? easing.replace('cubic-bezier', 'curve ')
		: `steepness ${easing.steepness}`;
}
