import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Preview } from './preview.svelte';
import type { Recipe } from './recipe';

type Asked = {
	id: number;
	shown: number;
	sources: number[];
	recipe?: Recipe;
	before?: number;
};

/** A socket whose server is written down by the test. */
class Socket {
	static readonly OPEN = 1;
	static all: Socket[] = [];
	readyState = 0;
	sent: Asked[] = [];
	onopen = () => {};
	onclose = () => {};
	onmessage: (message: { data: ArrayBuffer | string }) => void = () => {};

	constructor(readonly address: string) {
		Socket.all.push(this);
	}
	send(text: string) {
		this.sent.push(JSON.parse(text));
	}
	open() {
		this.readyState = Socket.OPEN;
		this.onopen();
	}
	close() {
		this.readyState = 3;
		this.onclose();
	}
	answer(facts: object) {
		this.onmessage({ data: JSON.stringify(facts) });
	}
	async picture(head: { id: number; kind: string; offset: number }) {
		const text = new TextEncoder().encode(JSON.stringify(head));
		const data = new Uint8Array(4 + text.length + 3);
		new DataView(data.buffer).setUint32(0, text.length);
		data.set(text, 4);
		this.onmessage({ data: data.buffer });
		await Promise.resolve();
		await Promise.resolve();
	}
}

const closed: string[] = [];
let drawn = 0;
const state = (name: string) => ({
	before: 5,
	after: 5,
	recipe: { name } as Recipe,
	run_up: 2,
	framing: { outgoing: {}, incoming: {} } as never
});
const socket = () => Socket.all.at(-1) as Socket;
const refresh = () => vi.advanceTimersByTimeAsync(20);

beforeEach(() => {
	vi.useFakeTimers();
	Socket.all = [];
	closed.length = drawn = 0;
	vi.stubGlobal('WebSocket', Socket);
	vi.stubGlobal('location', { protocol: 'http:', host: 'here' });
	vi.stubGlobal('requestAnimationFrame', (run: () => void) => setTimeout(run, 16));
	vi.stubGlobal('cancelAnimationFrame', clearTimeout);
	vi.stubGlobal('createImageBitmap', () => {
		const name = `picture ${++drawn}`;
		return Promise.resolve({ name, close: () => closed.push(name) });
	});
});
afterEach(() => {
	vi.useRealTimers();
	vi.unstubAllGlobals();
});

function connected(): Preview {
	const preview = new Preview('a-cut');
	preview.show(state('first'), 0, []);
	socket().open();
	return preview;
}

describe('asking', () => {
	it('sends the first state as soon as there is a connection', async () => {
		connected();
		await refresh();
		expect(socket().address).toBe('ws://here/api/cuts/a-cut/preview');
		expect(socket().sent.map(({ id, recipe }) => [id, recipe?.name])).toEqual([[1, 'first']]);
	});

	it('does not wait for the page to be drawn where the connection is there already', () => {
		const preview = new Preview('a-cut');
		socket().open();
		preview.show(state('first'), 0, []);
		expect(socket().sent.map(({ id }) => id)).toEqual([1]);
	});

	it('joins what changes within one refresh, and sends the last', async () => {
		const preview = connected();
		await refresh();
		for (const name of ['a', 'b', 'c']) preview.show(state(name), 1, []);
		await refresh();
		const [, ...later] = socket().sent;
		expect(later.map(({ id, recipe, shown }) => [id, recipe?.name, shown])).toEqual([[4, 'c', 1]]);
	});

	it('sends only the frame when nothing else changed', async () => {
		const preview = connected();
		await refresh();
		preview.showFrame(3, []);
		preview.showFrame(3, []);
		await refresh();
		expect(socket().sent.slice(1)).toEqual([{ id: 1, shown: 3, sources: [] }]);
	});

	it('asks for an original frame once, until the framing changes', async () => {
		const preview = connected();
		await refresh();
		await socket().picture({ id: 1, kind: 'source', offset: 2 });
		preview.showFrame(2, [2]);
		await refresh();
		expect(socket().sent.at(-1)?.sources).toEqual([]);
		preview.forgetSources();
		expect(closed).toEqual(['picture 1']);
		preview.showFrame(3, [2, 3]);
		await refresh();
		expect(socket().sent.at(-1)?.sources).toEqual([2, 3]);
	});
});

describe('what arrives', () => {
	it('never replaces a newer picture by an older one', async () => {
		const preview = connected();
		await socket().picture({ id: 2, kind: 'frame', offset: 0 });
		await socket().picture({ id: 1, kind: 'frame', offset: 0 });
		expect(preview.pictures.frame.get(0)).toMatchObject({ id: 2, image: { name: 'picture 1' } });
		expect(closed).toEqual(['picture 2']);
		await socket().picture({ id: 3, kind: 'frame', offset: 0 });
		expect(preview.pictures.frame.get(0)).toMatchObject({ id: 3 });
		expect(closed).toEqual(['picture 2', 'picture 1']);
	});

	it('is fresh only while nothing newer was asked for', async () => {
		const preview = connected();
		await socket().picture({ id: 1, kind: 'frame', offset: 0 });
		expect(preview.isFresh(0)).toBe(true);
		preview.show(state('second'), 0, []);
		expect(preview.isFresh(0)).toBe(false);
	});

	it('shows a problem until the next answer', () => {
		const preview = connected();
		const problems = [
			{ field: 'filters[0].radius', message: 'must be at least 0' },
			{ field: null, message: 'no such clip' }
		];
		socket().answer({ id: 1, kind: 'problem', problems });
		expect(preview.problem).toBe('Radius: must be at least 0 · No such clip.');
		socket().answer({ id: 1, kind: 'changes', changes: [0, 1] });
		expect(preview.problem).toBe('');
		expect(preview.changes).toEqual([0, 1]);
	});

	it('keeps what slow checks found while quick ones arrive', () => {
		const preview = connected();
		const found = (id: string, status: string) => ({ id, status });
		const whole = [found('rest', 'ok'), found('flashes', 'warning')];
		socket().answer({ id: 1, kind: 'checks', checks: whole, pending: [] });
		socket().answer({
			id: 2,
			kind: 'checks',
			checks: [found('rest', 'failed')],
			pending: ['flashes']
		});
		expect(preview.findings.map(({ id, status }) => [id, status])).toEqual([
			['rest', 'failed'],
			['flashes', 'warning']
		]);
		expect(preview.pending).toEqual(['flashes']);
	});
});

describe('the connection', () => {
	it('comes back after a while, and asks again for what was shown', async () => {
		const preview = connected();
		await refresh();
		const lost = socket();
		lost.close();
		expect(preview.connected).toBe(false);
		await vi.advanceTimersByTimeAsync(1100);
		expect(socket()).not.toBe(lost);
		socket().open();
		await refresh();
		expect(preview.connected).toBe(true);
		expect(socket().sent.at(-1)).toMatchObject({ before: 5, recipe: { name: 'first' } });
	});

	it('comes back at once where the cut itself has moved', async () => {
		const preview = connected();
		const first = socket();
		preview.reopen();
		await vi.advanceTimersByTimeAsync(1);
		expect(socket()).not.toBe(first);
	});

	it('stays away once it was closed, and every picture is let go', async () => {
		const preview = connected();
		await socket().picture({ id: 1, kind: 'thumb', offset: 0 });
		preview.close();
		await vi.advanceTimersByTimeAsync(5000);
		expect(Socket.all.length).toBe(1);
		expect(closed).toEqual(['picture 1']);
	});
});
