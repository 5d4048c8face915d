// The time axis of the bench: the cut always stands in the middle; the longer side fills its half.

export type Axis = {
	before: number;
	after: number;
	/** Width in pixels. */
	width: number;
	/** Width of one frame in pixels. */
	cell: number;
	/** Pixels from the left of a time in frames from the cut. */
	x: (t: number) => number;
	/** Time in frames from the cut at pixels from the left. */
	t: (x: number) => number;
};

export function axisOf(before: number, after: number, width: number): Axis {
	const middle = width / 2;
	const cell = middle / Math.max(before, after);
	return {
		before,
		after,
		width,
		cell,
		x: (t) => middle + t * cell,
		t: (x) => (x - middle) / cell
	};
}

/** The frame under a pixel, held inside the window. */
export function frameAt(axis: Axis, x: number): number {
	return Math.min(Math.max(Math.floor(axis.t(x)), -axis.before), axis.after - 1);
}

export { tOf, uOf } from '$lib/recipe/times';

/** Every how many frames a label fits when it needs `room` pixels. */
export function labelEvery(axis: Axis, room: number): number {
	return [1, 2, 5, 10, 20, 50, 100].find((every) => every * axis.cell >= room) ?? 200;
}
