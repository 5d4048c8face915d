import { describe, expect, it } from 'vitest';
import { saysSomething, strokesOn, withBox, withLine, withoutFrame } from './strokes';

describe('strokes', () => {
	it('are kept by frame, in order, with the size of each line', () => {
		let list = withLine([], 9, 'keep', [[0.1, 0.2]], 0.05);
		list = withLine(list, 3, 'remove', [[0.5, 0.5]], 0.02);
		list = withLine(list, 9, 'keep', [[0.3, 0.3]], 0.1);
		expect(list.map((each) => each.frame)).toEqual([3, 9]);
		expect(strokesOn(list, 9).keep_sizes).toEqual([0.05, 0.1]);
		expect(strokesOn(list, 9).keep).toHaveLength(2);
		expect(withoutFrame(list, 9).map((each) => each.frame)).toEqual([3]);
	});

	it('give lines that came without a size the usual one', () => {
		const from = [{ frame: 1, keep: [[[0.1, 0.1]]], remove: [] }] as never;
		expect(strokesOn(withLine(from, 1, 'keep', [[0.2, 0.2]], 0.06), 1).keep_sizes).toEqual([
			0.02, 0.06
		]);
	});

	it('hold a box between any two corners, and none where it is removed', () => {
		const corners: [[number, number], [number, number]] = [
			[0.8, 0.9],
			[0.2, 0.1]
		];
		const list = withBox([], 4, corners);
		expect(strokesOn(list, 4).box).toEqual([0.2, 0.1, 0.6, 0.8]);
		expect(saysSomething(list)).toBe(true);
		expect(withBox(list, 4, null)).toEqual([]);
		expect(saysSomething(withLine([], 4, 'remove', [[0, 0]], 0.1))).toBe(false);
	});
});
