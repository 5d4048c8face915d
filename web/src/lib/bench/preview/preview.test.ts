import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Recipe } from '$lib/recipe/recipe';
import { Preview } from './preview.svelte';

type Asked = {
	id: number;
	shown: number;
	sources: number[];
	recipe?: Recipe;
	before?: number;
};

/** A socket whose server is written down by the test. */
class Socket {
	static all: Socket[] = [];
	readyState = 0;
	sent: Asked[] = [];
	closed = false;
	reconnects = 0;
	#listeners: Record<string, (event: never) => void> = {};

	constructor(readonly address: string) {
		Socket.all.push(this);
	}
	addEventListener(name: string, listener: (event: never) => void) {
		this.#listeners[name] = listener;
	}
	#tell(name: string, event: unknown) {
		this.#listeners[name]?.(event as never);
	}
	send(text: string) {
		this.sent.push(JSON.parse(text));
	}
	open() {
		this.readyState = 1;
		this.#tell('open', {});
	}
	lose(code = 1006) {
		this.readyState = 3;
		this.#tell('close', { code });
	}
	close() {
		this.closed = true;
	}
	reconnect() {
		this.reconnects += 1;
	}
	answer(facts: object) {
		this.#tell('message', { data: JSON.stringify(facts) });
	}
	async picture(head: { id: number; kind: string; offset: number }) {
		const text = new TextEncoder().encode(JSON.stringify(head));
		const data = new Uint8Array(4 + text.length + 3);
		new DataView(data.buffer).setUint32(0, text.length);
		data.set(text, 4);
		this.#tell('message', { data: data.buffer });
		await Promise.resolve();
		await Promise.resolve();
	}
}

vi.mock('partysocket', () => ({
	WebSocket: function (address: string) {
		return new Socket(address);
	}
}));

const closed: string[] = [];
let drawn = 0;
const state = (name: string) => ({
	before: 5,
	after: 5,
	recipe: { name, filters: [{ id: 'glow' }] } as Recipe,
	run_up: 2,
	framing: { outgoing: {}, incoming: {} } as never,
	subjects: [null, null] as [null, null]
});
const socket = () => Socket.all.at(-1) as Socket;
const refresh = () => vi.advanceTimersByTimeAsync(20);

beforeEach(() => {
	vi.useFakeTimers();
	Socket.all = [];
	closed.length = drawn = 0;
	vi.stubGlobal('WebSocket', { OPEN: 1 });
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

	it('has one state on its way; of those that come meanwhile the newest follows', async () => {
		const preview = connected();
		await refresh();
		for (const name of ['a', 'b', 'c']) {
			preview.show(state(name), 1, []);
			await refresh();
		}
		expect(socket().sent.map(({ id }) => id)).toEqual([1]);
		await socket().picture({ id: 1, kind: 'frame', offset: 0 });
		await refresh();
		expect(socket().sent.map(({ id, recipe }) => [id, recipe?.name])).toEqual([
			[1, 'first'],
			[4, 'c']
		]);
	});

	it('shows every finished picture of a drag, whatever its state', async () => {
		const preview = connected();
		await refresh();
		const shown: (number | undefined)[] = [];
		for (let n = 2; n < 60; n += 1) {
			preview.show(state(`drag ${n}`), 0, []);
			await refresh();
			// The server takes as long as three states.
			if (n % 3 === 0) {
				await socket().picture({ id: socket().sent.at(-1)?.id ?? 0, kind: 'frame', offset: 0 });
				shown.push(preview.pictures.frame.get(0)?.id);
			}
		}
		expect(new Set(shown).size).toBe(19);
		expect(shown).toEqual(shown.toSorted((a, b) => (a ?? 0) - (b ?? 0)));
	});

	it('waits for an answer no longer than a while', async () => {
		const preview = connected();
		await refresh();
		preview.show(state('second'), 0, []);
		await vi.advanceTimersByTimeAsync(3100);
		expect(socket().sent.map(({ id }) => id)).toEqual([1, 2]);
	});

	it('sends only the frame when nothing else changed', async () => {
		const preview = connected();
		await refresh();
		preview.showFrame(3, []);
		preview.showFrame(3, []);
		await refresh();
		expect(socket().sent.slice(1)).toEqual([
			{ id: 1, shown: 3, sources: [], area: null, sharp_frames: 0 }
		]);
	});

	it('asks for an original frame once, until the framing changes', async () => {
		const preview = connected();
		await refresh();
		await socket().picture({ id: 1, kind: 'frame', offset: 0 });
		await socket().picture({ id: 1, kind: 'source', offset: 2 });
		preview.showFrame(2, [2]);
		await refresh();
		expect(socket().sent.at(-1)?.sources).toEqual([]);
		preview.forgetSources();
		expect(closed).toEqual(['picture 2']);
		preview.show(state('framed'), 3, [2, 3]);
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

	it('is sharp until a newer state is shown by a quick picture', async () => {
		const preview = connected();
		await socket().picture({ id: 1, kind: 'frame', offset: 0 });
		expect(preview.sharp(0)).toBeUndefined();
		await socket().picture({ id: 1, kind: 'sharp', offset: 0 });
		expect(preview.sharp(0)).toMatchObject({ id: 1, image: { name: 'picture 2' } });
		await socket().picture({ id: 2, kind: 'frame', offset: 0 });
		expect(preview.sharp(0)).toBeUndefined();
		await socket().picture({ id: 2, kind: 'sharp', offset: 0 });
		expect(preview.sharp(0)).toMatchObject({ id: 2 });
		// Of the shown frame alone, unless the loop plays large: then of as many as there is room for.
		await socket().picture({ id: 2, kind: 'sharp', offset: 1 });
		expect(preview.sharp(1)).toBeUndefined();
		preview.showIn({ area: [1280, 720], sharp_frames: 2 });
		for (const offset of [2, -1, 1]) await socket().picture({ id: 2, kind: 'sharp', offset });
		const kept = [-1, 0, 1, 2].filter((offset) => preview.sharp(offset));
		expect(kept).toEqual([-1, 0]);
		preview.showIn({ area: [1280, 720], sharp_frames: 0 });
		expect(preview.pictures.sharp.size).toBe(1);
		expect(preview.sharp(0)).toMatchObject({ id: 2 });
	});

	it('is not taken where it is an original of the clips or framing before', async () => {
		const preview = connected();
		preview.forgetSources();
		preview.show(state('framed'), 0, [0]);
		await socket().picture({ id: 1, kind: 'source', offset: 0 });
		expect(preview.pictures.source.size).toBe(0);
		await socket().picture({ id: 2, kind: 'source', offset: 0 });
		expect(preview.pictures.source.size).toBe(1);
	});

	it('never replaces facts by older ones', () => {
		const preview = connected();
		socket().answer({ id: 3, kind: 'changes', changes: [0.3] });
		socket().answer({ id: 2, kind: 'changes', changes: [0.2] });
		expect(preview.changes).toEqual([0.3]);
	});

	it('shows a problem, and logs it, until the next curves', () => {
		const preview = connected();
		const logged = vi.spyOn(console, 'error').mockImplementation(() => {});
		const problems = [
			{ field: 'filters[0].radius', message: 'must be at least 0' },
			{ field: null, message: 'no such clip' }
		];
		socket().answer({ id: 1, kind: 'problem', problems });
		expect(preview.problem).toBe('Radius: must be at least 0 · No such clip.');
		expect(logged).toHaveBeenCalledOnce();
		socket().answer({
			id: 1,
			kind: 'curves',
			curves: [],
			shortages: [],
			spare_frames_used: { outgoing: 0, incoming: 0 },
			span_that_fits: null
		});
		expect(preview.problem).toBe('');
	});

	it('is asked for again where it cannot be shown', async () => {
		const preview = connected();
		await refresh();
		vi.spyOn(console, 'error').mockImplementation(() => {});
		vi.stubGlobal('createImageBitmap', () => Promise.reject(new Error('not a picture')));
		await socket().picture({ id: 1, kind: 'frame', offset: 0 });
		expect(preview.problem).toContain('cannot be shown');
		await refresh();
		expect(socket().sent.map(({ id }) => id)).toEqual([1, 1]);
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

	it('knows the filters of the recipe that was judged', async () => {
		const preview = connected();
		await refresh();
		const { id } = socket().sent.at(-1) as { id: number };
		preview.show(
			{ ...state('second'), recipe: { name: '', filters: [{ id: 'new' }] } } as never,
			0,
			[]
		);
		socket().answer({ id, kind: 'checks', checks: [{ id: 'rest' }], pending: [] });
		expect(preview.findings[0]?.filters).toEqual(['glow']);
	});
});

describe('the connection', () => {
	it('asks again for what was shown when it comes back', async () => {
		const preview = connected();
		await refresh();
		socket().lose();
		expect(preview.connected).toBe(false);
		preview.show(state('second'), 0, []);
		await refresh();
		socket().open();
		await refresh();
		expect(preview.connected).toBe(true);
		expect(socket().sent.map(({ id, recipe }) => [id, recipe?.name])).toEqual([
			[1, 'first'],
			[2, 'second']
		]);
	});

	it('opens the clips anew where the cut itself has moved', () => {
		connected().reopen();
		expect(socket().reconnects).toBe(1);
	});

	it('says that the cut was deleted, and stops asking', () => {
		const preview = connected();
		socket().lose(4404);
		expect(preview.gone).toBe(true);
		expect(socket().closed).toBe(true);
	});

	it('stays away once it was closed, and every picture is let go', async () => {
		const preview = connected();
		await socket().picture({ id: 1, kind: 'thumb', offset: 0 });
		preview.close();
		expect(socket().closed).toBe(true);
		expect(closed).toEqual(['picture 1']);
	});
});
