import { beforeEach, expect, it, vi } from 'vitest';
import type { Clip } from '$lib/api/client';
import { Uploads } from './uploads.svelte';

type Sending = {
	name: string;
	rate: string;
	progress: (share: number) => void;
	finish: () => void;
	fail: (message: string) => void;
	cancelled: boolean;
};
const sendings: Sending[] = [];

vi.mock('$lib/api/upload', () => ({
	upload: (batch: { name: string; rate: string }, progress: (share: number) => void) => {
		const sending = { name: batch.name, rate: batch.rate, progress, cancelled: false } as Sending;
		const done = new Promise<Clip>((resolve, reject) => {
			sending.finish = () => resolve({ name: batch.name } as Clip);
			sending.fail = (message) => reject(new Error(message));
		});
		sendings.push(sending);
		return {
			done,
			cancel: () => {
				sending.cancelled = true;
				sending.fail('stopped');
			}
		};
	}
}));

const file = (name: string) => new File([new Uint8Array(10)], name);
const settled = () => new Promise((done) => setTimeout(done));
beforeEach(() => {
	sendings.length = 0;
});

it('sends one file after another, and hands over each as it is ready', async () => {
	const uploads = new Uploads();
	const arrived: string[] = [];
	const all = uploads.add([file('quay.mp4'), file('sail.mov')], ({ name }) => arrived.push(name));
	await settled();
	expect(sendings.map(({ name }) => name)).toEqual(['quay.mp4']);
	sendings[0]?.progress(0.5);
	expect(uploads.list.map(({ state, share }) => [state, share])).toEqual([
		['sending', 0.5],
		['waiting', 0]
	]);
	sendings[0]?.progress(1);
	expect(uploads.list[0]?.state).toBe('reading');
	sendings[0]?.finish();
	await settled();
	expect(arrived).toEqual(['quay.mp4']);
	expect(uploads.busy).toBe(true);
	sendings[1]?.finish();
	await all;
	expect(uploads.busy).toBe(false);
	expect(uploads.clips.map(({ name }) => name)).toEqual(['quay.mp4', 'sail.mov']);
});

it('says why one file failed and goes on with the next', async () => {
	const uploads = new Uploads();
	const all = uploads.add([file('notes.txt'), file('sail.mov')]);
	await settled();
	sendings[0]?.fail('notes.txt is no video');
	await settled();
	sendings[1]?.finish();
	await all;
	expect(uploads.list.map(({ state, message }) => [state, message])).toEqual([
		['failed', 'notes.txt is no video'],
		['done', '']
	]);
	expect(uploads.clips.length).toBe(1);
});

it('stops a file that is taken off the list, and hands it over no more', async () => {
	const uploads = new Uploads();
	const arrived: string[] = [];
	const all = uploads.add([file('quay.mp4'), file('sail.mov')], ({ name }) => arrived.push(name));
	await settled();
	const [first] = uploads.list;
	uploads.remove(first?.id ?? 0);
	await settled();
	expect(sendings[0]?.cancelled).toBe(true);
	sendings[1]?.finish();
	await all;
	expect(arrived).toEqual(['sail.mov']);
	expect(uploads.list.map(({ name }) => name)).toEqual(['sail.mov']);
});

it('takes numbered pictures as one, with what is missing and the rate of that moment', async () => {
	const uploads = new Uploads();
	let rate = '24';
	const numbers = [1, 2, 4];
	void uploads.add(
		numbers.map((n) => file(`lantern_${String(n).padStart(4, '0')}.png`)),
		undefined,
		() => rate
	);
	rate = '30';
	await settled();
	expect(sendings.length).toBe(1);
	expect(sendings[0]?.rate).toBe('30');
	expect(uploads.list[0]?.note).toContain('PNG sequence of 3 pictures; missing: ');
	expect(uploads.list[0]?.note).toContain('3');
	expect(uploads.list[0]?.bytes).toBe(30);
});
