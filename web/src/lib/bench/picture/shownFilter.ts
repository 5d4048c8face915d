// A filter as the shown frame has it: what has keyframes is the value there, and is set there.
import type { FilterKind } from '$lib/api/client';
import type { Bench } from '$lib/bench/bench.svelte';
import { filterCurve } from '$lib/bench/curves/curveOwner';
import { movesOf, type Envelope, type Filter } from '$lib/recipe/recipe';
import type { Changes } from './handles/handle';

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

/** Set what has keyframes on the shown frame; return the other changes. */
export function setOnFrame(
	bench: Bench,
	filter: Filter,
	kind: FilterKind,
	changes: Changes
): Changes {
	const others: Changes = {};
	for (const [name, next] of Object.entries(changes)) {
		const parameter = kind.parameters.find((each) => each.name === name);
		if (parameter && isKeyframed(filter, parameter) && typeof next === 'number') {
			const curve = filterCurve(filter.id, kind, parameter);
			void bench.values.set(curve, bench.view.shown, next);
		} else {
			others[name] = next;
		}
	}
	return others;
}
