import { describe, expect, it } from 'vitest';
import { filesIn, stepFor } from './filmFrames';

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
});
