import { describe, expect, it } from 'vitest';
import { outOfSight } from './lanesInSight.svelte';

const LANES = [
	{ top: 0, bottom: 40 },
	{ top: 40, bottom: 80 },
	{ top: 80, bottom: 280 },
	{ top: 280, bottom: 320 }
];

describe('lanes out of sight', () => {
	it('are none where all fit', () => {
		expect(outOfSight(LANES, 0, 320)).toEqual({ above: 0, below: 0 });
	});
	it('are counted at both ends, also where only a part of them is hidden', () => {
		expect(outOfSight(LANES, 60, 260)).toEqual({ above: 2, below: 2 });
	});
	it('are not counted for a few pixels', () => {
		expect(outOfSight(LANES, 8, 312)).toEqual({ above: 0, below: 0 });
	});
});
