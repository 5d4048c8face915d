import { describe, expect, it } from 'vitest';
import { axisOf, frameAt, labelEvery, tOf, uOf } from '$lib/bench/strip/axis';

describe('the time axis', () => {
	it.each([
		[1, 1],
		[8, 8],
		[3, 12],
		[120, 7]
	])('stands the cut in the middle for %i | %i', (before, after) => {
		const axis = axisOf(before, after, 848);
		expect(axis.x(0)).toBe(424);
		expect(Math.min(axis.x(-before), 848 - axis.x(after))).toBeCloseTo(0);
		for (const t of [-before, -0.5, 0, 0.5, after]) expect(axis.t(axis.x(t))).toBeCloseTo(t);
	});

	it('finds the frame under a pixel and holds it inside the window', () => {
		const axis = axisOf(2, 4, 800);
		expect([0, 201, 399, 401, 799, 900].map((x) => frameAt(axis, x))).toEqual([
			-2, -2, -1, 0, 3, 3
		]);
	});

	it('counts envelope time apart on either side', () => {
		const axis = axisOf(4, 8, 800);
		expect([-4, -2, 0, 4, 8].map((t) => uOf(axis, t))).toEqual([-1, -0.5, 0, 0.5, 1]);
		expect([-1, -0.5, 0, 0.5, 1].map((u) => tOf(axis, u))).toEqual([-4, -2, 0, 4, 8]);
	});

	it('thins its labels out when frames are narrow', () => {
		expect(labelEvery(axisOf(8, 8, 800), 26)).toBe(1);
		expect(labelEvery(axisOf(70, 70, 800), 26)).toBe(5);
	});
});
