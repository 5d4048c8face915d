import { expect, test } from 'vitest';
import type { Clip } from '$lib/api/client';
import { pictureOf } from './frames';

const clip = (rate: string, frame_count: number, still = false) =>
	({ id: 'a', rate, frame_count, still }) as Clip;

test('at the edit’s own rate every frame is its picture', () => {
	const frames = Array.from({ length: 50 }, (_, n) => n);
	expect(frames.map((frame) => pictureOf(clip('25', 50), frame, 25))).toEqual(frames);
	const film = clip('24000/1001', 50);
	expect(frames.map((frame) => pictureOf(film, frame, 24000 / 1001))).toEqual(frames);
});

test('at another rate the picture at the middle of the frame is shown', () => {
	// 50 pictures a second in an edit at 25: frame k lasts from picture 2k to 2k + 2.
	expect([0, 1, 24].map((frame) => pictureOf(clip('50', 50), frame, 25))).toEqual([1, 3, 49]);
	// 24 a second in an edit at 30: four pictures last five frames.
	const shown = [0, 1, 2, 3, 4, 5].map((frame) => pictureOf(clip('24', 48), frame, 30));
	expect(shown).toEqual([0, 1, 2, 2, 3, 4]);
});

test('no frame is outside the clip, and a still has one picture', () => {
	expect(pictureOf(clip('25', 50), 60, 25)).toBe(49);
	expect(pictureOf(clip('25', 50), -3, 25)).toBe(0);
	expect(pictureOf(clip('25', 1, true), 90, 25)).toBe(0);
});
