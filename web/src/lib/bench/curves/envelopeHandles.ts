// The handles on a curve: where each one is, and the curve after it has moved.
import { clamped } from '$lib/ui/numbers';
import { easingOf, pointsOf, type Points } from '$lib/recipe/easing';
import { withKeyframe, withoutKeyframe } from '$lib/recipe/envelopes';
import type { Easing, Envelope, Keyframes, Swell, Travel, Value } from '$lib/recipe/recipe';

/** A place on a curve: envelope time −1…1, and value. */
export type Place = { u: number; value: number };
export type Handle = Place & {
	id: string;
	label: string;
	/** A diamond carries a value, a square a time, a dot bends an easing. */
	shape: 'diamond' | 'square' | 'dot';
	/** Directions in which it moves. */
	moves: 'value' | 'time' | 'both';
	/** What a time keeps to: the middle of a frame, where its value is seen, or a border between two. */
	keeps: 'frames' | 'borders';
	/** For a dot, where its easing begins or ends: they are joined by a line. */
	anchor?: Place;
	moved: (to: Place) => Envelope;
	removed?: () => Envelope;
};

const LEAST_SPAN_U = 0.02;
const MOST_OVERSHOOT = 3;

export function handlesOf(envelope: Envelope | undefined, rest: number): Handle[] {
	if (!envelope || typeof envelope !== 'object' || Array.isArray(envelope)) return [];
	if (envelope.kind === 'swell') return swellHandles(envelope, rest);
	if (envelope.kind === 'travel') return travelHandles(envelope, rest);
	return envelope.kind === 'keyframes' ? keyframeHandles(envelope) : [];
}

function single(value: Value | undefined, otherwise = 0): number {
	return value === undefined ? otherwise : Array.isArray(value) ? value[0] : value;
}

function swellHandles(swell: Swell, rest: number): Handle[] {
	const peak = single(swell.peak);
	const { start, full_from, full_to, end } = swell;
	const at = (id: 'start' | 'full_from' | 'full_to' | 'end', low: number, high: number) =>
		(({ u }: Place) => ({ ...swell, [id]: clamped(u, low, high) })) as Handle['moved'];
	const square = (
		id: 'start' | 'full_from' | 'full_to' | 'end',
		label: string,
		value: number,
		low: number,
		high: number
	): Handle => ({
		id,
		label,
		shape: 'square',
		moves: 'time',
		keeps: id.startsWith('full') ? 'frames' : 'borders',
		u: swell[id],
		value,
		moved: at(id, low, high)
	});
	return [
		...dots(
			'rise',
			swell.rise,
			{ u: start, value: rest },
			{ u: full_from, value: peak },
			(rise) => ({
				...swell,
				rise
			})
		),
		...dots('fall', swell.fall, { u: full_to, value: peak }, { u: end, value: rest }, (fall) => ({
			...swell,
			fall
		})),
		square('start', 'Start', rest, -1, full_from - LEAST_SPAN_U),
		square('full_from', 'Plateau from', peak, start + LEAST_SPAN_U, full_to),
		square('full_to', 'Plateau to', peak, full_from, end - LEAST_SPAN_U),
		square('end', 'End', rest, full_to + LEAST_SPAN_U, 1),
		{
			id: 'peak',
			label: 'Peak',
			shape: 'diamond',
			moves: 'value',
			keeps: 'frames',
			u: (full_from + full_to) / 2,
			value: peak,
			moved: ({ value }) => ({ ...swell, peak: value })
		}
	];
}

function travelHandles(travel: Travel, rest: number): Handle[] {
	const from = single(travel.from, rest);
	const [start, end] = [
		{ u: travel.start, value: from },
		{ u: travel.end, value: from + single(travel.amount) }
	];
	return [
		...dots('easing', travel.easing, start, end, (easing) => ({ ...travel, easing })),
		{
			id: 'start',
			label: 'Start',
			shape: 'square',
			moves: 'time',
			keeps: 'borders',
			...start,
			moved: ({ u }) => ({ ...travel, start: clamped(u, -1, travel.end - LEAST_SPAN_U) })
		},
		{
			id: 'end',
			label: 'End',
			shape: 'square',
			moves: 'time',
			keeps: 'borders',
			u: travel.end,
			value: from,
			moved: ({ u }) => ({ ...travel, end: clamped(u, travel.start + LEAST_SPAN_U, 1) })
		},
		{
			id: 'amount',
			label: 'Amount',
			shape: 'diamond',
			moves: 'value',
			keeps: 'borders',
			...end,
			moved: ({ value }) => ({ ...travel, amount: value - from })
		}
	];
}

function keyframeHandles(keyframes: Keyframes): Handle[] {
	const bends = keyframes.keyframes.flatMap((keyframe, n) => {
		const next = keyframes.keyframes[n + 1];
		if (!next) return [];
		const [from, to] = [
			{ u: keyframe.at, value: single(keyframe.value) },
			{ u: next.at, value: single(next.value) }
		];
		return dots(`keyframe-${n + 1}`, keyframe.easing, from, to, (easing) =>
			withKeyframe(keyframes, n, { easing })
		);
	});
	const diamonds = keyframes.keyframes.map((keyframe, n): Handle => ({
		id: `keyframe-${n + 1}`,
		label: `Keyframe ${n + 1} of ${keyframes.keyframes.length}`,
		shape: 'diamond',
		moves: 'both',
		keeps: 'frames',
		u: keyframe.at,
		value: single(keyframe.value),
		moved: ({ u, value }) => withKeyframe(keyframes, n, { at: u, value }),
		removed: () => withoutKeyframe(keyframes, n)
	}));
	return [...bends, ...diamonds];
}

/** The two control points of a segment's easing; none for steps and level segments. */
function dots(
	id: string,
	easing: Easing,
	from: Place,
	to: Place,
	changed: (easing: Easing) => Envelope
): Handle[] {
	const points = pointsOf(easing);
	const [span, height] = [to.u - from.u, to.value - from.value];
	if (!points || span < LEAST_SPAN_U || height === 0) return [];
	return ([0, 1] as const).map((which) => ({
		id: `${id}-bend-${which + 1}`,
		label: `Control point ${which + 1} of ${id.replace('-', ' ')}`,
		shape: 'dot',
		moves: 'both',
		keeps: 'borders',
		u: from.u + points[(2 * which) as 0 | 2] * span,
		value: from.value + points[(2 * which + 1) as 1 | 3] * height,
		anchor: which ? to : from,
		moved: ({ u, value }) => {
			const next: Points = [...points];
			next[(2 * which) as 0 | 2] = clamped((u - from.u) / span, 0, 1);
			next[(2 * which + 1) as 1 | 3] = clamped(
				(value - from.value) / height,
				-MOST_OVERSHOOT,
				1 + MOST_OVERSHOOT
			);
			return changed(easingOf(next));
		}
	}));
}
