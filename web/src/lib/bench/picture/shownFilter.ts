// A filter as the shown frame has it: what has keyframes is the value there, and is set there.
import type { FilterKind } from '$lib/api/client';
import type { Bench } from '$lib/bench/bench.svelte';
import { filterCurve } from '$lib/bench/curves/curveOwner';
import { movesOf, type Envelope, type Filter } from '$lib/recipe/recipe';
import { placedSpot, type Placement } from './handles/box';
import type { Changes, Size, Spot } from './handles/handle';

function isKeyframed(filter: Filter, parameter: FilterKind['parameters'][number]): boolean {
	return (
		parameter.control !== 'point' && movesOf(filter[parameter.name] as Envelope) === 'keyframes'
	);
}

/** The filter with the value of the shown frame in place of each number that has keyframes. */
export function atShownFrame(bench: Bench, filter: Filter, kind: FilterKind): Filter {
	const made = { ...filter };
	for (const parameter of kind.parameters.filter((each) => isKeyframed(filter, each))) {
		const keyframe = bench.values.keyframe(filter[parameter.name] as Envelope, bench.view.shown);
		const curve = bench.preview.curves.find(
			(each) => each.filter_id === filter.id && each.parameter === parameter.name
		);
		const shown = curve?.values[bench.view.shown + bench.transition.before];
		made[parameter.name] = keyframe ?? shown ?? parameter.rest ?? 0;
	}
	return made;
}

const PLACEMENT = ['scale', 'stretch_x', 'stretch_y', 'shift_x', 'shift_y', 'turns'] as const;

/** Where a filter places the picture at the shown frame, and its middle in every frame; null where it does not. */
export function placementNow(
	bench: Bench,
	filter: Filter,
	kind: FilterKind,
	centre: readonly [number, number],
	size: Size
): { at: Placement; path: Spot[] } | null {
	const parameters = PLACEMENT.map((name) => kind.parameters.find((each) => each.name === name));
	if (parameters.some((each) => each === undefined)) return null;
	const n = bench.view.shown + bench.transition.before;
	const columns = PLACEMENT.map(
		(name) =>
			bench.preview.curves.find((each) => each.filter_id === filter.id && each.parameter === name)
				?.values ?? []
	);
	const placementAt = (values: (number | undefined)[]): Placement => ({
		...(Object.fromEntries(
			PLACEMENT.map((name, place) => [name, values[place] ?? parameters[place]?.rest ?? 0])
		) as Omit<Placement, 'centre'>),
		centre
	});
	const at = placementAt(
		PLACEMENT.map((name, place) => {
			const envelope = filter[name] as Envelope;
			if (typeof envelope === 'number') return envelope;
			const keyframe = bench.values.keyframe(envelope, bench.view.shown);
			return typeof keyframe === 'number' ? keyframe : columns[place]?.[n];
		})
	);
	const moves = (['shift_x', 'shift_y'] as const).some(
		(name) => movesOf(filter[name] as Envelope) !== 'hold'
	);
	const frames = moves ? (columns[0] ?? []) : [];
	const path = frames.map((_, frame) =>
		placedSpot(placementAt(columns.map((column) => column[frame])), size, 0.5, 0.5)
	);
	return { at, path };
}

/** Set on the shown frame what has keyframes, or everything; return the other changes. */
export function setOnFrame(
	bench: Bench,
	filter: Filter,
	kind: FilterKind,
	changes: Changes,
	everything = false
): Changes {
	const others: Changes = {};
	for (const [name, next] of Object.entries(changes)) {
		const parameter = kind.parameters.find((each) => each.name === name);
		if (!parameter || typeof next !== 'number') {
			others[name] = next;
		} else if (everything || isKeyframed(filter, parameter)) {
			const curve = filterCurve(filter.id, kind, parameter);
			void bench.values.set(curve, bench.view.shown, next);
		} else {
			others[name] = next;
		}
	}
	return others;
}
