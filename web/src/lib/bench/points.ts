// Points of filters that are animated: where they lie in the shown frame, and their path.
import { uOf } from '$lib/bench/strip/axis';
import { withValueAt } from '$lib/recipe/envelopes';
import { mainValue, movesOf, type Envelope, type Filter } from '$lib/recipe/recipe';
import type { Bench } from './bench.svelte';

export type Point = [number, number];

/** Where a point lies in the shown frame, in 0…1 of the frame. */
export function pointAt(bench: Bench, filter: Filter, name: string): Point {
	const path = pathOf(bench, filter, name);
	const shown = path[bench.view.shown + bench.transition.before];
	if (shown) return shown;
	const value = mainValue(filter[name] as Envelope);
	return Array.isArray(value) ? value : [0.5, 0.5];
}

/** Where an animated point lies in every frame of the window; empty where it stands still. */
export function pathOf(bench: Bench, filter: Filter, name: string): Point[] {
	if (movesOf(filter[name] as Envelope) === 'hold') return [];
	const [x, y] = ['x', 'y'].map((part) =>
		bench.preview.curves.find(
			(each) => each.filter_id === filter.id && each.parameter === `${name}.${part}`
		)
	);
	return (x?.values ?? []).map((right, n) => [right, y?.values[n] ?? 0.5]);
}

/** A point's envelope after it was set in the shown frame: its keyframe there, or all of it. */
export function withPoint(bench: Bench, envelope: Envelope, point: Point): Envelope {
	const { before, after } = bench.transition;
	const u = (t: number) => uOf({ before, after }, t);
	const now = bench.view.shown + 0.5;
	const at = Math.min(1, Math.max(-1, u(now)));
	return withValueAt(envelope, at, point, Math.abs(u(now + 0.5) - u(now)));
}
