// Points of filters that are animated: where they lie in the shown frame, and their path.
import { uOf } from '$lib/bench/strip/axis';
import { keyframeNear, withValueAt } from '$lib/recipe/envelopes';
import { placedEnvelope, statedEnvelope } from '$lib/recipe/times';
import { mainValue, movesOf, type Envelope, type Filter } from '$lib/recipe/recipe';
import { shapeOf } from '$lib/recipe/region';
import type { Bench } from './bench.svelte';
import type { MovingPoint } from './picture/handles/handle';

export type Point = [number, number];

/** The envelope of a point: of a parameter, or of a filter's region where it is `region.centre` or `region.size`. */
export function pointOf(filter: Filter, name: string): Envelope {
	const part = /^region\.(centre|size)$/.exec(name)?.[1] as 'centre' | 'size' | undefined;
	return (part ? shapeOf(filter)?.[part] : (filter[name] as Envelope)) ?? [0.5, 0.5];
}

/** An animated point as a handle moves it; undefined where it stands still. */
export function movingPoint(bench: Bench, filter: Filter, name: string): MovingPoint | undefined {
	const envelope = pointOf(filter, name);
	// Its path comes from the server: until it is there, the point is animated all the same.
	if (movesOf(envelope) === 'hold') return undefined;
	return {
		path: pathOf(bench, filter, name),
		at: pointAt(bench, filter, name),
		with: (point) => withPoint(bench, envelope, point)
	};
}

/** Where a point lies in the shown frame, in 0…1 of the frame. */
export function pointAt(bench: Bench, filter: Filter, name: string): Point {
	const envelope = pointOf(filter, name);
	// The curves come from the server: a keyframe that is being moved is ahead of them.
	const keyframe = keyframeNear(placedEnvelope(envelope, bench.transition), ...shownTime(bench));
	if (keyframe) return keyframe.value as Point;
	const path = pathOf(bench, filter, name);
	const shown = path[bench.view.shown + bench.transition.before];
	if (shown) return shown;
	const value = mainValue(envelope);
	return Array.isArray(value) ? value : [0.5, 0.5];
}

/** Where an animated point lies in every frame of the window; empty where it stands still. */
export function pathOf(bench: Bench, filter: Filter, name: string): Point[] {
	if (movesOf(pointOf(filter, name)) === 'hold') return [];
	const [x, y] = ['x', 'y'].map((part) =>
		bench.preview.curves.find(
			(each) => each.filter_id === filter.id && each.parameter === `${name}.${part}`
		)
	);
	return (x?.values ?? []).map((right, n) => [right, y?.values[n] ?? 0.5]);
}

/** A point's envelope after it was set in the shown frame: its keyframe there, or all of it. */
export function withPoint(bench: Bench, envelope: Envelope, point: Point): Envelope {
	const [at, near] = shownTime(bench);
	const placed = placedEnvelope(envelope, bench.transition);
	return statedEnvelope(envelope, withValueAt(placed, at, point, near), bench.transition);
}

/** The envelope time of the shown frame, and how near to it a keyframe is that frame's. */
function shownTime({ transition, view }: Bench): [number, number] {
	const u = (t: number) => uOf({ before: transition.before, after: transition.after }, t);
	const now = view.shown + 0.5;
	return [Math.min(1, Math.max(-1, u(now))), Math.abs(u(now + 0.5) - u(now))];
}
