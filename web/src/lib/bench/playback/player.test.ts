import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { View } from '../view.svelte';
import type { LoopSound } from '$lib/sound/loopSound.svelte';
import { Player } from './player.svelte';

const REFRESH_MS = 1000 / 60;
let now = 0;
let next: ((at: number) => void) | undefined;

function standIn(rate: number) {
	const shown: number[] = [];
	const plays: number[] = [];
	const view = {
		transition: { rate },
		shown: 0,
		firstShown: -8,
		lastShown: 7,
		show(offset: number) {
			view.shown = offset;
			shown.push(offset);
		}
	};
	const sound = {
		play: (before: number) => (plays.push(before), Promise.resolve()),
		stop: () => plays.push(0),
		forget: () => plays.push(-1),
		toggle: () => true
	};
	const player = new Player(view as unknown as View, sound as unknown as LoopSound);
	return { player, view, shown, plays };
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
	const { player, shown } = standIn(rate);
	player.toggle();
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
	const { player, view, shown } = standIn(25);
	player.toggle();
	refreshes(12);
	expect(view.shown).toBe(5);
	player.setSpeed(0.25);
	expect(view.shown).toBe(5);
	refreshes(60);
	// A quarter of 25 frames later.
	expect(view.shown).toBe(((5 + 8 + 6) % 16) - 8);
	expect(shown.length).toBeGreaterThan(60);
});

it('shows every frame backward as well', () => {
	const { player, shown } = standIn(25);
	player.shuttle(-1);
	refreshes(60);
	const steps = shown.slice(1).map((each, n) => ((shown[n] ?? 0) - each + 16) % 16);
	expect(new Set(steps)).toEqual(new Set([0, 1]));
});

it('plays backward, faster at each press, without sound, and forward again with it', () => {
	const { player, view, plays } = standIn(25);
	player.shuttle(-1);
	refreshes(12);
	expect(view.shown).toBe(-5);
	player.shuttle(-1);
	refreshes(6);
	// 5 frames in a fifth of a second twice as fast, and round past the first frame.
	expect(view.shown).toBe(-5 - 5 + 16);
	expect(plays).toEqual([0, 0]);
	player.shuttle(1);
	expect([player.times, plays.at(-1)]).toEqual([1, 8]);
	player.stop();
	expect(player.times).toBe(0);
});

it('catches up after a refresh that came late', () => {
	const { player, view } = standIn(25);
	player.toggle();
	now += 200;
	refreshes(1);
	expect(view.shown).toBe(5);
});

it('stops where it is', () => {
	const { player, view } = standIn(25);
	player.toggle();
	refreshes(6);
	const { shown } = view;
	player.toggle();
	refreshes(30);
	expect(player.playing).toBe(false);
	expect(view.shown).toBe(shown);
});

it('starts the sound anew where the window or the clips change while it plays', () => {
	const { player, view, plays } = standIn(25);
	player.toggle();
	expect(plays).toEqual([8]);
	player.follow('state');
	expect(plays).toEqual([8]);
	view.firstShown = -10;
	player.follow('state');
	expect(plays).toEqual([8, 10]);
	player.follow('clips');
	expect(plays).toEqual([8, 10, -1, 10]);
});
