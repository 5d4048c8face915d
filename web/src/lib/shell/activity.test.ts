import { expect, it } from 'vitest';
import { framesText, progressText, timeLeft } from './activity';

const render = {
	started_at: '2026-08-01T20:00:00Z',
	total_frames: 900,
	done_frames: 300,
	is_joining: false
};
const later = Date.parse('2026-08-01T20:01:00Z');
type Render = Parameters<typeof framesText>[0];

it('tells frames and the time left while frames are rendered', () => {
	const running = render as Render;
	expect(framesText(running)).toBe('300 of 900 frames');
	expect(timeLeft(running, later)).toBe('about 2 min left');
});

it('tells frames joined, without a time left by frames rendered', () => {
	const joining = { ...render, is_joining: true } as Render;
	expect(framesText(joining)).toBe('Joining: 300 of 900 frames');
	expect(timeLeft(joining, later)).toBe('');
});

it('tells that only the file is left', () => {
	const last = { ...render, done_frames: 900 } as Render;
	expect(framesText(last)).toBe('Finishing the file…');
	expect(timeLeft(last, later)).toBe('');
});

it('puts frames, time left and workers into one line', () => {
	const shared = { ...render, is_joining: true, workers: 3, cancel_asked: false } as Render;
	expect(progressText(shared)).toBe('Joining: 300 of 900 frames, 3 workers');
	const cancelled = { ...render, workers: 1, cancel_asked: true } as Render;
	expect(progressText(cancelled)).toBe('300 of 900 frames, cancelling…');
});
