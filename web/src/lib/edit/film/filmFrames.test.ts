import { describe, expect, it, vi } from 'vitest';
import { api } from '$lib/api/client';
import { answered } from '$lib/testing/answers';
import { FilmFrames, filesIn, stepFor } from './filmFrames';

type Asked = { params: { query: { first: number; count: number; step: number } } };

describe('film frames', () => {
	it('are taken apart by their lengths', () => {
		const data = new Uint8Array([0, 0, 0, 2, 7, 8, 0, 0, 0, 1, 9]);
		expect(filesIn(data.buffer).map((file) => file.size)).toEqual([2, 1]);
		expect(filesIn(new ArrayBuffer(0))).toEqual([]);
	});
	it('are left out where they take longer than they are shown', () => {
		expect(stepFor(0, 25)).toBe(1);
		expect(stepFor(0.02, 25)).toBe(1);
		expect(stepFor(0.1, 25)).toBe(3);
	});
	it('are left out where they are played faster', () => {
		expect(stepFor(0.02, 25, 2)).toBe(2);
		expect(stepFor(0, 25, 4)).toBe(4);
	});
	it.each([
		[1, ['40 15 1', '55 15 1', '70 15 1']],
		[2, ['40 15 2', '70 15 2']],
		[-1, ['26 15 1', '11 15 1', '0 11 1']],
		[-2, ['12 15 2', '0 6 2']]
	])('are asked for in the direction of playing, %d times as fast', async (times, expected) => {
		const asked: string[] = [];
		vi.spyOn(api, 'GET').mockImplementation(((_: string, options: Asked) => {
			const { first, count, step } = options.params.query;
			asked.push(`${first} ${count} ${step}`);
			return answered(new ArrayBuffer(0));
		}) as never);
		const frames = new FilmFrames('edit', 25, 100);
		frames.begin(40, times);
		for (let n = 0; n < 4; n += 1) await frames.loadAfter(40);
		expect(asked).toEqual(expected);
	});
});
