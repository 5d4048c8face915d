import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { Refusal } from '$lib/api/client';
import { RETRY_AFTER_MS, Saver } from './saver.svelte';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** A server that keeps what it is sent, and fails as asked. */
function server() {
	const kept: string[] = [];
	const faults: (Error | null)[] = [];
	const send = (what: string) => ({
		key: what.split(':')[0] as string,
		send: async () => {
			await Promise.resolve();
			const fault = faults.shift();
			if (fault) throw fault;
			kept.push(what);
		}
	});
	return { kept, faults, send };
}

test('changes of one key are sent once, the newest; others in their order', async () => {
	const { kept, send } = server();
	const saver = new Saver();
	for (const what of ['name:a', 'trim:1', 'name:b', 'name:c']) saver.put(send(what), 300);
	expect(saver.state).toBe('saving');
	await vi.advanceTimersByTimeAsync(299);
	expect(kept).toEqual([]);
	await vi.advanceTimersByTimeAsync(1);
	expect(kept).toEqual(['name:c', 'trim:1']);
	expect([saver.state, saver.since]).toEqual(['saved', null]);
});

test('a failed change is kept and retried with growing waits until it succeeds', async () => {
	const { kept, faults, send } = server();
	const saver = new Saver();
	faults.push(
		...Array.from(
			{ length: RETRY_AFTER_MS.length + 2 },
			() => new Refusal('The server does not answer.', 0)
		)
	);
	saver.put(send('name:a'));
	await vi.advanceTimersByTimeAsync(0);
	expect([saver.state, saver.problem]).toEqual(['failed', 'The server does not answer.']);
	expect(saver.since).not.toBeNull();
	for (const wait of [...RETRY_AFTER_MS, RETRY_AFTER_MS.at(-1) as number]) {
		await vi.advanceTimersByTimeAsync(wait - 1);
		const left = faults.length;
		await vi.advanceTimersByTimeAsync(1);
		expect(faults.length).toBe(left - 1);
	}
	await vi.advanceTimersByTimeAsync(RETRY_AFTER_MS.at(-1) as number);
	expect(kept).toEqual(['name:a']);
	expect(saver.state).toBe('saved');
});

test('a change made while its older state is on its way is sent after it', async () => {
	const kept: string[] = [];
	let answer = () => {};
	const saver = new Saver();
	const put = (what: string) =>
		saver.put({
			key: 'name',
			send: () =>
				new Promise((resolve) => {
					answer = () => {
						kept.push(what);
						resolve();
					};
				})
		});
	put('a');
	await vi.advanceTimersByTimeAsync(0);
	put('b');
	answer();
	await vi.advanceTimersByTimeAsync(0);
	expect(saver.state).toBe('saving');
	answer();
	await vi.advanceTimersByTimeAsync(0);
	expect(kept).toEqual(['a', 'b']);
	expect(saver.state).toBe('saved');
});

test('what would discard a change waits until it is saved, and is not done where it cannot be', async () => {
	const { kept, faults, send } = server();
	const saver = new Saver();
	saver.put(send('name:a'), 1000);
	expect(await saver.afterSaving(async () => kept.slice())).toEqual(['name:a']);
	faults.push(new Refusal('No.', 503));
	saver.put(send('name:b'), 1000);
	const undo = vi.fn(async () => 'undone');
	expect(await saver.afterSaving(undo)).toBeNull();
	expect(undo).not.toHaveBeenCalled();
	await vi.advanceTimersByTimeAsync(RETRY_AFTER_MS[0] as number);
	expect(kept).toEqual(['name:a', 'name:b']);
});

test('a conflict stops until it is resolved; nothing that waits is lost', async () => {
	const { kept, faults, send } = server();
	const saver = new Saver();
	faults.push(new Refusal('Changed.', 409));
	saver.put(send('cut:mine'));
	await vi.advanceTimersByTimeAsync(0);
	expect(saver.state).toBe('conflict');
	saver.put(send('cut:mine too'));
	await vi.advanceTimersByTimeAsync(60_000);
	expect(kept).toEqual([]);
	saver.resolved(true);
	await vi.advanceTimersByTimeAsync(0);
	expect(kept).toEqual(['cut:mine too']);

	faults.push(new Refusal('Changed.', 409));
	saver.put(send('cut:again'));
	await vi.advanceTimersByTimeAsync(0);
	saver.resolved(false);
	await vi.advanceTimersByTimeAsync(0);
	expect(kept).toEqual(['cut:mine too']);
	expect(saver.state).toBe('saved');
});

test('a refused change is dropped by its owner, or stays unsaved without endless attempts', async () => {
	const { kept, faults, send } = server();
	const saver = new Saver();
	const refused = vi.fn();
	faults.push(new Refusal('Too long.', 422));
	saver.put({ ...send('trim:1'), refused });
	saver.put(send('name:a'));
	await vi.advanceTimersByTimeAsync(0);
	expect(refused).toHaveBeenCalledOnce();
	expect(kept).toEqual(['name:a']);

	faults.push(new Refusal('Too long.', 422));
	saver.put(send('name:b'));
	await vi.advanceTimersByTimeAsync(120_000);
	expect(saver.state).toBe('refused');
	saver.put(send('name:c'));
	await vi.advanceTimersByTimeAsync(0);
	expect(kept).toEqual(['name:a', 'name:c']);
	expect(saver.state).toBe('saved');
});

test('what the server does not accept waits for another state of it, or is taken back', async () => {
	const { kept, faults, send } = server();
	const saver = new Saver();
	const takeBack = vi.fn();
	faults.push(new Refusal('Radius: must be above 0', 422));
	saver.put({ ...send('recipe:a'), takeBack });
	await vi.advanceTimersByTimeAsync(60_000);
	expect([saver.state, saver.problem]).toEqual(['refused', 'Radius: must be above 0']);
	saver.put({ ...send('recipe:b'), takeBack });
	await vi.advanceTimersByTimeAsync(0);
	expect([saver.state, kept]).toEqual(['saved', ['recipe:b']]);
	faults.push(new Refusal('Radius: must be above 0', 422));
	saver.put({ ...send('recipe:c'), takeBack });
	saver.put(send('framing:d'));
	await vi.advanceTimersByTimeAsync(0);
	saver.takeBack();
	await vi.advanceTimersByTimeAsync(0);
	expect(takeBack).toHaveBeenCalledTimes(1);
	expect([saver.state, kept]).toEqual(['saved', ['recipe:b', 'framing:d']]);
});

test('one that is ended sends nothing more, not even what just failed', async () => {
	const { kept, faults, send } = server();
	const saver = new Saver();
	faults.push(new Refusal('The server does not answer.', 0));
	saver.put(send('recipe:a'));
	await vi.advanceTimersByTimeAsync(0);
	expect(saver.state).toBe('failed');
	saver.end();
	saver.put(send('recipe:b'));
	await saver.flush();
	await vi.advanceTimersByTimeAsync(60_000);
	expect(kept).toEqual([]);
});
