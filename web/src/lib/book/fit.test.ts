import { beforeEach, describe, expect, it } from 'vitest';
import type { BookRecipe, Fit } from '$lib/api/client';
import { CutFit } from './fit.svelte';

const recipe = (key: string) =>
	({ key, name: key, before: 5, after: 5, recipe: { name: key } }) as unknown as BookRecipe;
const [left, right, soft] = [recipe('whip-left'), recipe('whip-right'), recipe('soft')] as [
	BookRecipe,
	BookRecipe,
	BookRecipe
];
const of = (key: string, points: number, more: object = {}) => ({
	key,
	points,
	reasons: [`${key} scores ${points}`],
	recipe: null,
	before: 6,
	after: 6,
	...more
});

let found: Fit | null;
let fit: CutFit;
beforeEach(() => {
	const centred = { recipe: { name: 'soft', centred: true } };
	measured([of('whip-right', 3), of('soft', 1, centred), of('whip-left', -2)]);
	fit.on = true;
});

function measured(recipes: object[]) {
	found = { recipes } as unknown as Fit;
	fit = new CutFit(() => found);
}

describe('fit', () => {
	it('sorts recipes by their best direction, and chooses it', () => {
		expect(fit.sorted([[soft], [left, right]])).toEqual([[left, right], [soft]]);
		expect(fit.best([left, right])).toBe(right);
		expect(fit.reasons(left)).toEqual(['whip-left scores -2']);
	});

	it('says a reason once for the recipes that it weighs most for, the best first', () => {
		const hard = recipe('hard');
		const why = ['The camera stands still', 'Spare frames are missing'];
		const recipes = [
			of('soft', 2, { reasons: [why[0]] }),
			of('whip-left', 1, { reasons: why }),
			of('hard', 0, { reasons: [] }),
			of('whip-right', -4, { reasons: [why[1]] })
		];
		measured(recipes);
		fit.on = true;
		expect(fit.groups([[right], [hard], [left], [soft]])).toEqual([
			{ reason: why[0], recipes: [[soft], [left]] },
			{ reason: 'Nothing speaks for or against these', recipes: [[hard]] },
			{ reason: why[1], recipes: [[right]] }
		]);
	});

	it('sets direction, window and centre where that is asked for, and says so', () => {
		expect(fit.fitted([soft])).toMatchObject({ before: 6, after: 6, recipe: { centred: true } });
		expect(fit.changes([soft])).toBe('6 | 6 frames, centre on the weight of the pictures');
		expect(fit.fitted([left, right]).recipe).toEqual({ name: 'whip-right' });
		expect(fit.changes([left, right])).toBe('direction whip right, 6 | 6 frames');
	});

	it('is off at first, and leaves the book as it is', () => {
		fit.on = false;
		expect(new CutFit(() => found).on).toBe(false);
		expect(fit.sorted([[soft], [left, right]])).toEqual([[soft], [left, right]]);
		expect(fit.fitted([soft])).toBe(soft);
		expect(fit.changes([soft])).toBe('');
		expect(fit.reasons(soft)).toEqual([]);
	});
});
