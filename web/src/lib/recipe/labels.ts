// The label of a change in the history: "Peak of blur length 4 % h → 6 % h".
import type { Parameter } from '$lib/api/client';
import {
	ANIMATIONS,
	hasCurve,
	mainName,
	movesOf,
	type Easing,
	type Envelope
} from '$lib/recipe/recipe';
import { capitalised } from '$lib/ui/numbers';
import { valueText } from '$lib/recipe/units';

const TIMES: Record<string, string> = {
	start: 'start',
	end: 'end',
	full_from: 'plateau',
	full_to: 'plateau'
};
const EASINGS = ['rise', 'fall', 'easing'];

/** `owner` is the filter's title; `was` is undefined where there was nothing. */
export function changeLabel(
	owner: string,
	parameter: Parameter,
	was: Envelope | undefined,
	next: Envelope
): string {
	const label = labelOf(
		`${owner.toLowerCase()} ${parameter.label.toLowerCase()}`,
		parameter,
		was,
		next
	);
	return capitalised(label);
}

function labelOf(
	what: string,
	parameter: Parameter,
	was: Envelope | undefined,
	next: Envelope
): string {
	const text = valueText(parameter, next);
	if (was === undefined || !hasCurve(parameter)) return `${what} ${text}`;
	const moves = movesOf(next);
	if (moves !== movesOf(was)) return `${what}: ${ANIMATIONS[moves].toLowerCase()}`;
	const change = `${valueText(parameter, was)} → ${text}`;
	if (typeof next !== 'object' || Array.isArray(next)) return `${what} ${change}`;
	if (next.kind === 'keyframes') return keyframesLabel(what, was as typeof next, next);
	const part = firstChange(was as typeof next, next);
	if (part && part in TIMES) return `${TIMES[part]} of ${what}`;
	if (part && EASINGS.includes(part)) {
		const easing = (next as unknown as Record<string, Easing>)[part];
		return `${part} of ${what}: ${easing === undefined ? '' : easingText(easing)}`;
	}
	if (part === 'filter' && next.kind === 'follow') return `${what} follows ${next.filter}`;
	return `${mainName(moves)} of ${what} ${change}`;
}

function firstChange(was: object, next: object): string | undefined {
	const [before, after] = [was as Record<string, unknown>, next as Record<string, unknown>];
	return Object.keys(after).find(
		(name) => JSON.stringify(before[name]) !== JSON.stringify(after[name])
	);
}

function keyframesLabel(
	what: string,
	was: { keyframes: { at: number; value: unknown; easing: Easing }[] },
	next: { keyframes: { at: number; value: unknown; easing: Easing }[] }
): string {
	const more = next.keyframes.length - was.keyframes.length;
	if (more) return `${more > 0 ? 'add' : 'delete'} keyframe of ${what}`;
	const place = next.keyframes.findIndex(
		(keyframe, n) => JSON.stringify(keyframe) !== JSON.stringify(was.keyframes[n])
	);
	const keyframe = next.keyframes[place];
	if (!keyframe) return `keyframes of ${what}`;
	const eased = JSON.stringify(keyframe.easing) !== JSON.stringify(was.keyframes[place]?.easing);
	return `keyframe ${place + 1} of ${what}${eased ? `: ${easingText(keyframe.easing)}` : ''}`;
}

/** An easing as text. */
export function easingText(easing: Easing): string {
	return typeof easing === 'string'
		? easing.replace('cubic-bezier', 'curve ')
		: `steepness ${easing.steepness}`;
}
