import { expect, it } from 'vitest';
import { swellTo, type Swell } from '$lib/recipe/recipe';
import { placedEnvelope } from '$lib/recipe/times';
import { peakOf, peakOn } from './peakFrames';

const WINDOW = { before: 4, after: 8 };

it('a peak is put on the last frame, the first or both', () => {
	for (const peak of ['last', 'both', 'first'] as const) {
		const made = peakOn(swellTo(1), peak);
		expect(peakOf(placedEnvelope(made, WINDOW) as Swell, WINDOW)).toBe(peak);
	}
	expect(peakOf(swellTo(1), WINDOW)).toBe('both');
	expect(peakOf({ ...swellTo(1), full_from: -0.5, full_to: -0.5 }, WINDOW)).toBe('elsewhere');
});
