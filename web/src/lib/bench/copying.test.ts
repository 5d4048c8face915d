import { beforeEach, describe, expect, it } from 'vitest';
import type { Catalogue } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import type { Bench } from '$lib/bench/bench.svelte';
import { clipboard } from '$lib/bench/clipboard.svelte';
import { copySelected, copyTransition, paste } from '$lib/bench/copying';
import type { Envelope, Filter, Recipe } from '$lib/recipe/recipe';

const amount = { control: 'amount', unit: 'height', rest: 0, low: 0, high: 1, step: 0.01 };
const catalogue = {
	filters: [
		{ kind: 'roll', title: 'Roll', parameters: [{ ...amount, name: 'x', label: 'X' }] },
		{
			kind: 'blur',
			title: 'Streak',
			parameters: [{ ...amount, name: 'length', label: 'Length' }]
		}
	]
} as unknown as Catalogue;
const filter = (id: string, kind: string, more: object = {}) =>
	({ id, kind, side: 'across', enabled: true, ...more }) as unknown as Filter;

/** As much of a bench as copying needs. */
function benchWith(filters: Filter[], selected: string) {
	const bench = {
		catalogue,
		labels: [] as string[],
		transition: {
			before: 8,
			after: 6,
			recipe: { name: 'Quay', filters } as Recipe,
			change(label: string, change: (recipe: Recipe) => Recipe) {
				bench.labels.push(label);
				bench.transition.recipe = change(bench.transition.recipe);
			},
			setWindow(before: number, after: number) {
				Object.assign(bench.transition, { before, after });
			}
		},
		view: { selected, select: (id: string) => (bench.view.selected = id) }
	};
	return bench;
}
const as = (bench: ReturnType<typeof benchWith>) => bench as unknown as Bench;
const ids = (bench: ReturnType<typeof benchWith>) =>
	bench.transition.recipe.filters.map(({ id }) => id);

beforeEach(() => {
	clipboard.copied = null;
	toast.list = [];
});

describe('a copied filter', () => {
	it('is put after the selected one, under a name that is free there', () => {
		const here = benchWith([filter('roll', 'roll'), filter('blur', 'blur')], 'roll');
		copySelected(as(here));
		paste(as(here));
		expect(ids(here)).toEqual(['roll', 'roll-2', 'blur']);
		expect(here.view.selected).toBe('roll-2');
		paste(as(here));
		expect(ids(here)).toEqual(['roll', 'roll-2', 'roll-3', 'blur']);
		expect(here.labels).toEqual(['Paste roll', 'Paste roll']);
	});

	it('rises and falls by itself where what it followed is missing', () => {
		const follows = { kind: 'follow', filter: 'roll', shutter: 180 };
		const source = benchWith(
			[filter('roll', 'roll'), filter('blur', 'blur', { length: follows })],
			'blur'
		);
		copySelected(as(source));
		const strange = benchWith([], 'mix');
		paste(as(strange));
		const kept = benchWith([filter('roll', 'roll')], 'mix');
		paste(as(kept));
		const lengthIn = (bench: typeof kept) =>
			bench.transition.recipe.filters.at(-1)?.length as Envelope;
		expect(lengthIn(strange)).toMatchObject({ kind: 'swell' });
		expect(lengthIn(kept)).toEqual(follows);
		// What was copied is not changed by where it was pasted.
		expect(source.transition.recipe.filters[1]?.length).toEqual(follows);
	});
});

describe('a copied transition', () => {
	it('brings its window, its filters and its name', () => {
		const source = benchWith([filter('roll', 'roll')], 'mix');
		copyTransition(as(source));
		const target = benchWith([filter('blur', 'blur')], 'blur');
		target.transition.setWindow(3, 3);
		paste(as(target));
		expect([target.transition.before, target.transition.after]).toEqual([8, 6]);
		expect(ids(target)).toEqual(['roll']);
		expect(target.view.selected).toBe('roll');
		expect(target.labels).toEqual(['Paste transition “Quay”']);
	});

	it('is what is copied while the mix is selected', () => {
		copySelected(as(benchWith([filter('roll', 'roll')], 'mix')));
		expect(clipboard.copied?.kind).toBe('transition');
	});
});

it('with nothing copied, or a curve, says what to do instead', () => {
	const bench = benchWith([filter('roll', 'roll')], 'roll');
	paste(as(bench));
	clipboard.put({ kind: 'curve', title: 'Roll X', envelope: 1 });
	paste(as(bench));
	expect(toast.list.map(({ text }) => text)).toEqual([
		expect.stringContaining('Ctrl C'),
		expect.stringContaining('Paste button of a curve')
	]);
	expect(bench.labels).toEqual([]);
});
