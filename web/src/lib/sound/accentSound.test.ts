import { describe, expect, it } from 'vitest';
import { waveformOf } from './accentSound.svelte';

describe('the waveform of an accent', () => {
	it('is drawn by its largest samples', () => {
		const samples = new Int16Array(44 / 2 + 8);
		samples.set([0, 100, -32767, 0, 0, 0, 16384, 0], 22);
		const found = waveformOf(samples.buffer, -24_000, 2);
		expect(found.firstS).toBe(-0.5);
		expect(found.peaks).toEqual([1, expect.closeTo(0.5, 3)]);
	});
});
