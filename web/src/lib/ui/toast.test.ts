import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { toast } from './toast.svelte';

const texts = () => toast.list.map(({ text }) => text);

beforeEach(() => {
	vi.useFakeTimers();
	toast.list = [];
});
afterEach(() => vi.useRealTimers());

it('goes by itself, but stays where something can be taken back', () => {
	toast.info('Saved.');
	toast.info('The edit is deleted.', { label: 'Undo', run: () => {} });
	vi.advanceTimersByTime(8000);
	expect(texts()).toEqual(['The edit is deleted.']);
	vi.advanceTimersByTime(3_600_000);
	expect(texts()).toEqual(['The edit is deleted.']);
});

it('stays until it is closed where something went wrong', () => {
	toast.error(new Error('The disk is full.'));
	vi.advanceTimersByTime(3_600_000);
	expect(texts()).toEqual(['The disk is full.']);
	toast.close(toast.list[0]?.id ?? 0);
	expect(texts()).toEqual([]);
});

it('is shown once however often it happens', () => {
	for (let n = 0; n < 5; n += 1) toast.error('The server does not answer.');
	expect(texts()).toEqual(['The server does not answer.']);
});

it('keeps the newest of many', () => {
	for (const name of 'abcdef') toast.error(name);
	expect(texts()).toEqual(['c', 'd', 'e', 'f']);
});
