import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { Bench } from './bench.svelte';
import { Player } from './player.svelte';

const REFRESH_MS = 1000 / 60;
let now = 0;
let next: ((at: number) => void) | undefined;

function standIn(rate: number) {
	const shown: number[] = [];
	const bench = {
		rate,
		speed: 1,
		playing: false,
		shown: 0,
		firstShown: -8,
		lastShown: 7,
		sound: { play: () => Promise.resolve(), stop: () => {}, toggle: () => true },
		show(offset: number) {
			bench.shown = offset;
			shown.push(offset);
		}
	};
	return { bench: bench as unknown as Bench, shown };
}

function refreshes(count: number) {
	for (let n = 0; n < count; n += 1) {
		now += REFRESH_MS;
		next?.(now);
	}
}

beforeEach(() => {
	now = 5000;
	vi.stubGlobal('performance', { now: () => now });
	vi.stubGlobal('requestAnimationFrame', (run: (at: number) => void) => ((next = run), 1));
	vi.stubGlobal('cancelAnimationFrame', () => (next = undefined));
});
afterEach(() => vi.unstubAllGlobals());

it.each([24, 25, 30000 / 1001, 60])('shows every frame at %d a second, round and round', (rate) => {
	const { bench, shown } = standIn(rate);
	new Player(bench).toggle();
	const seconds = 4;
	refreshes(60 * seconds);
	const steps = shown.slice(1).map((each, n) => (each - (shown[n] ?? 0) + 16) % 16);
	expect(new Set(steps)).toEqual(new Set(rate === 60 ? [1] : [0, 1]));
	const passed = steps.reduce((sum, step) => sum + step, 0);
	expect(Math.abs(passed - rate * seconds)).toBeLessThanOrEqual(1);
	expect(Math.min(...shown)).toBe(-8);
	expect(Math.max(...shown)).toBe(7);
});

it('goes on from the shown frame when the speed changes, and keeps to the clock', () => {
	const { bench, shown } = standIn(25);
	const player = new Player(bench);
	player.toggle();
	refreshes(12);
	expect(bench.shown).toBe(5);
	player.setSpeed(0.25);
	expect(bench.shown).toBe(5);
	refreshes(60);
	// A quarter of 25 frames later.
	expect(bench.shown).toBe(((5 + 8 + 6) % 16) - 8);
	expect(shown.length).toBeGreaterThan(60);
});

it('catches up after a refresh that came late', () => {
	const { bench } = standIn(25);
	new Player(bench).toggle();
	now += 200;
	refreshes(1);
	expect(bench.shown).toBe(5);
});

it('stops where it is', () => {
	const { bench } = standIn(25);
	const player = new Player(bench);
	player.toggle();
	refreshes(6);
	const { shown } = bench;
	player.toggle();
	refreshes(30);
	expect(bench.playing).toBe(false);
	expect(bench.shown).toBe(shown);
});
