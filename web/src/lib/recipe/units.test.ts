import { describe, expect, it } from 'vitest';
import type { Parameter } from '$lib/api/client';
import { swellTo, travelBy } from '$lib/recipe/recipe';
import { inPixels, valueText } from '$lib/recipe/units';

const parameter = (unit: Parameter['unit'], step = 0.01, name = 'length') =>
	({ name, unit, step, control: 'amount' }) as Parameter;

describe('values as text', () => {
	it('have the unit that an editor reads', () => {
		expect(valueText(parameter('height'), 0.06)).toBe('6 % h');
		expect(valueText(parameter('height'), swellTo(0.343))).toBe('34.3 % h');
		expect(valueText(parameter('deg', 1), 30)).toBe('30°');
		expect(valueText(parameter('ratio'), 1.5)).toBe('150 %');
	});
	it('are singular where they are one', () => {
		expect(valueText(parameter('frames', 1), 1)).toBe('1 frame');
		expect(valueText(parameter('turns'), -1)).toBe('-1 turn');
		expect(valueText(parameter('stops', 0.1), 2)).toBe('2 stops');
	});
	it('have a sign where the picture travels', () => {
		expect(valueText(parameter('frames', 1), travelBy(2))).toBe('+2 frames');
		expect(valueText(parameter('frames', 1), travelBy(-4))).toBe('-4 frames');
	});
	it('name points, switches and follows', () => {
		expect(valueText(parameter('none'), [0.254, 0.5])).toBe('0.25, 0.5');
		expect(valueText(parameter('none'), true)).toBe('on');
		expect(valueText(parameter('height'), { kind: 'follow', filter: 'roll', shutter: 180 })).toBe(
			'follows, 180°'
		);
	});
	it('are given in pixels of the edit where they are lengths', () => {
		expect(inPixels(parameter('height'), 0.25, 1280, 720)).toBe('180 px');
		expect(inPixels(parameter('frames', 1, 'x'), 1, 1280, 720)).toBe('1280 px');
		expect(inPixels(parameter('frames', 1, 'y'), 1, 1280, 720)).toBe('720 px');
		expect(inPixels(parameter('deg'), 30, 1280, 720)).toBe('');
	});
});
