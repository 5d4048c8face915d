import { describe, expect, it } from 'vitest';
import { accentOf, fadeEnd, USUAL_ACCENT, withFadeEnd, withKnownAccent, withTime } from './accent';
import type { Recipe } from './recipe';

const recipe = (accent: object | null) =>
	({
		filters: [{ id: 'roll', kind: 'roll', side: 'across', enabled: true }],
		accent
	}) as unknown as Recipe;

describe('an accent', () => {
	it('takes the usual value for what is left out', () => {
		expect(accentOf(recipe({ sound: 'hit' }))).toEqual({ ...USUAL_ACCENT, sound: 'hit' });
		expect(accentOf(recipe(null))).toBeNull();
	});
	it('keeps start, peak and end in order', () => {
		expect(withTime(USUAL_ACCENT, 'start', 0.7).start).toBe(0);
		expect(withTime(USUAL_ACCENT, 'peak', -4).peak).toBe(-1);
		expect(withTime(USUAL_ACCENT, 'end', -3).end).toBe(0.0);
		expect(withTime({ ...USUAL_ACCENT, start: 0 }, 'end', -3).end).toBe(0.02);
	});
	it('fades over shares of its halves', () => {
		expect(fadeEnd(USUAL_ACCENT, 'fade_in')).toBe(-0.5);
		expect(withFadeEnd(USUAL_ACCENT, 'fade_in', -0.25).fade_in).toBe(0.75);
		expect(withFadeEnd(USUAL_ACCENT, 'fade_out', 0.9).fade_out).toBe(0.1);
		expect(withFadeEnd({ ...USUAL_ACCENT, peak: 1 }, 'fade_out', 0.9).fade_out).toBe(0);
	});
	it('follows only what is there', () => {
		const kept = recipe({ sound: 'whoosh', follow: 'roll' });
		expect(withKnownAccent(kept)).toBe(kept);
		expect(accentOf(withKnownAccent(recipe({ follow: 'gone' })))?.follow).toBeNull();
		const mixed = recipe({ follow: 'mix' });
		expect(withKnownAccent(mixed)).toBe(mixed);
	});
});
