import { expect, it } from 'vitest';
import type { Filter, Keyframes } from '$lib/recipe/recipe';
import type { Bench } from './bench.svelte';
import { movingPoint } from './points';

/** A bench that shows a frame of a window of 5 | 5, before the server has sent any curve. */
function benchAt(shown: number): Bench {
	return {
		preview: { curves: [] },
		transition: { before: 5, after: 5 },
		view: { shown }
	} as unknown as Bench;
}

function filter(centre: unknown): Filter {
	return { region: { kind: 'box', centre, size: [0.5, 0.5] } } as unknown as Filter;
}

it('adds a keyframe to an animated point, though its path is not there yet', () => {
	const keyframes = [{ at: 0.1, value: [0.6, 0.5], easing: 'linear' }];
	const moving = movingPoint(
		benchAt(-5),
		filter({ kind: 'keyframes', keyframes }),
		'region.centre'
	);
	const made = moving?.with([0.2, 0.5]) as Keyframes;
	expect(made.keyframes.map(({ value }) => value)).toEqual([
		[0.2, 0.5],
		[0.6, 0.5]
	]);
});

it('is none where the point stands still', () => {
	expect(movingPoint(benchAt(0), filter([0.5, 0.5]), 'region.centre')).toBeUndefined();
});
