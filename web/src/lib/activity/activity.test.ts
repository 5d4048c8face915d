import { expect, it } from 'vitest';
import { progressText, timeLeft } from './activity';

const render = {
	started_at: '2026-08-01T20:00:00Z',
	total_frames: 900,
	done_frames: 300,
	is_joining: false
};
const later = Date.parse('2026-08-01T20:01:00Z');
type Render = Parameters<typeof progressText>[0];

it('tells frames and the time left while frames are rendered', () => {
	const running = render as Render;
	expect(progressText(running)).toBe('300 of 900 frames');
	expect(timeLeft(running, later)).toBe('about 2 min left');
});

it('tells frames joined, without a time left by frames rendered', () => {
	const joining = { ...render, is_joining: true } as Render;
	expect(progressText(joining)).toBe('Joining: 300 of 900 frames');
	expect(timeLeft(joining, later)).toBe('');
});

it('tells that only the file is left', () => {
	const last = { ...render, done_frames: 900 } as Render;
	expect(progressText(last)).toBe('Finishing the file…');
	expect(timeLeft(last, later)).toBe('');
});
