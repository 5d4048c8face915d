import { expect, it } from 'vitest';
import { faster, speedText, type Direction } from './shuttle';

function pressed(...directions: Direction[]): number {
	return directions.reduce<number>(faster, 0);
}

it('plays twice as fast at each further press, up to eight times', () => {
	expect([pressed(1), pressed(1, 1), pressed(1, 1, 1, 1, 1)]).toEqual([1, 2, 8]);
	expect([pressed(-1), pressed(-1, -1)]).toEqual([-1, -2]);
});

it('turns round at the usual speed', () => {
	expect(pressed(1, 1, 1, -1)).toBe(-1);
	expect(pressed(-1, -1, 1)).toBe(1);
});

it('names the speed where it is unusual', () => {
	expect([1, 2, -1, -4].map(speedText)).toEqual(['', '2×', '1× backward', '4× backward']);
});
