import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { BookRecipe } from '$lib/api/client';
import { answered, refused } from '$lib/testing/answers';
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

let answer: () => unknown;
let asked = 0;
vi.mock('$lib/api/client', async (original) => ({
	...(await original<object>()),
	api: {
		GET: async () => {
			asked += 1;
			return answer();
		}
	}
}));

let fit: CutFit;
beforeEach(() => {
	asked = 0;
	const centred = { recipe: { name: 'soft', centred: true } };
	const recipes = [of('whip-right', 3), of('soft', 1, centred), of('whip-left', -2)];
	answer = () => answered({ recipes });
	fit = new CutFit();
	fit.on = true;
});

describe('fit', () => {
	it('sorts recipes by their best direction, and chooses it', async () => {
		await fit.load('cut', '1');
		expect(fit.sorted([[soft], [left, right]])).toEqual([[left, right], [soft]]);
		expect(fit.best([left, right])).toBe(right);
		expect(fit.reasons(left)).toEqual(['whip-left scores -2']);
	});

	it('says a reason once for the recipes that it weighs most for, the best first', async () => {
		const hard = recipe('hard');
		const why = ['The camera stands still', 'Spare frames are missing'];
		const recipes = [
			of('soft', 2, { reasons: [why[0]] }),
			of('whip-left', 1, { reasons: why }),
			of('hard', 0, { reasons: [] }),
			of('whip-right', -4, { reasons: [why[1]] })
		];
		answer = () => answered({ recipes });
		await fit.load('cut', '1');
		expect(fit.groups([[right], [hard], [left], [soft]])).toEqual([
			{ reason: why[0], recipes: [[soft], [left]] },
			{ reason: 'Nothing speaks for or against these', recipes: [[hard]] },
			{ reason: why[1], recipes: [[right]] }
		]);
	});

	it('sets direction, window and centre where that is asked for, and says so', async () => {
		await fit.load('cut', '1');
		expect(fit.fitted([soft])).toMatchObject({ before: 6, after: 6, recipe: { centred: true } });
		expect(fit.changes([soft])).toBe('6 | 6 frames, centre on the weight of the pictures');
		expect(fit.fitted([left, right]).recipe).toEqual({ name: 'whip-right' });
		expect(fit.changes([left, right])).toBe('direction whip right, 6 | 6 frames');
	});

	it('is off at first, and leaves the book as it is', async () => {
		fit.on = false;
		expect(new CutFit().on).toBe(false);
		await fit.load('cut', '1');
		expect(fit.sorted([[soft], [left, right]])).toEqual([[soft], [left, right]]);
		expect(fit.fitted([soft])).toBe(soft);
		expect(fit.changes([soft])).toBe('');
		expect(fit.reasons(soft)).toEqual([]);
	});

	it('measures a version of the frames once, and again after a failure', async () => {
		await fit.load('cut', '1');
		await fit.load('cut', '1');
		expect(asked).toBe(1);
		answer = () => refused(422, 'the clip is gone');
		await fit.load('cut', '2');
		expect(fit.problem).toContain('clip is gone');
		expect(fit.sorted([[soft], [left]])).toEqual([[soft], [left]]);
		await fit.load('cut', '2');
		expect(asked).toBe(3);
	});
});
