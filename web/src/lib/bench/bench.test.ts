import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Catalogue, Cut, Framing } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import { answered, refused } from '$lib/testing/answers';
import { Bench } from './bench.svelte';
import type { Preview } from './preview/preview.svelte';
import type { Recipe } from '$lib/recipe/recipe';
import { stepHistory } from './cutSteps';

/** A server with one cut: it refuses a save that does not know the newest version. */
class Server {
	cut = {
		id: 'one',
		number: 2,
		previous_id: 'before',
		next_id: null,
		edit_id: 'edit',
		rate: '25',
		version: 1,
		edit_version: 7,
		before: 10,
		after: 10,
		most_before: 30,
		most_after: 20,
		outgoing: { id: 'out', end_shown: 100, edit_frames: 100, framing: {} },
		incoming: { id: 'in', first_shown: 5, edit_frames: 75, framing: {} },
		recipe: { name: 'Harbour', filters: [{ id: 'roll', kind: 'roll' }] }
	} as unknown as Cut;
	saves: { version: number; label: string; recipe: Recipe; before: number }[] = [];
	undone: number[] = [];
	framings: { version: number; framing: Framing }[] = [];
	reachable = true;
	delayMs = 0;
	afterUndo: Partial<Cut> = {};
	refusesUndo = false;
	refuses = '';

	async put(body: Server['saves'][number]) {
		await this.#arrive();
		if (this.refuses) return refused(422, this.refuses);
		if (body.version !== this.cut.version) return refused(409, 'another window saved first');
		this.saves.push(body);
		this.cut = { ...this.cut, ...body, version: this.cut.version + 1 };
		return answered(this.cut);
	}

	async patch(version: number, { framing }: { framing: Framing }) {
		await this.#arrive();
		if (version !== this.cut.edit_version) return refused(409, 'the edit was changed');
		this.framings.push({ version, framing });
		this.cut = { ...this.cut, edit_version: version + 1 };
		return answered({ version: version + 1 });
	}

	async get() {
		await this.#arrive();
		return answered(this.cut);
	}

	async undo({ version }: { version: number }) {
		await this.#arrive();
		if (this.refusesUndo) return refused(409, 'another window saved first');
		this.undone.push(version);
		this.cut = { ...this.cut, ...this.afterUndo, version: version + 1 };
		return answered(this.cut);
	}

	/** What a second window does. */
	savedElsewhere(recipe: Partial<Recipe>) {
		const version = this.cut.version + 1;
		this.cut = { ...this.cut, version, recipe: { ...this.cut.recipe, ...recipe } };
	}

	async #arrive() {
		if (this.delayMs) await new Promise((done) => setTimeout(done, this.delayMs));
		if (!this.reachable) throw new TypeError('no connection');
	}
}

let server: Server;
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	api: {
		PUT: (_: string, { body }: { body: Server['saves'][number] }) => server.put(body),
		PATCH: (
			_: string,
			{ params, body }: { params: { query: { version: number } }; body: { framing: Framing } }
		) => server.patch(params.query.version, body),
		GET: (path: string) =>
			path.endsWith('/variants') ? Promise.resolve(answered([])) : server.get(),
		POST: (path: string, { body }: { body: { version: number } }) =>
			path.endsWith('/variants')
				? Promise.resolve(answered({ id: 'kept', name: 'A', recipe: body }))
				: server.undo(body)
	}
}));

let asked: { recipe: Recipe; shown: number; sources: number[] }[];
function opened(): Bench {
	asked = [];
	const preview = {
		show: ({ recipe }: { recipe: Recipe }, shown: number, sources: number[]) =>
			asked.push({ recipe, shown, sources }),
		showFrame: (shown: number, sources: number[]) =>
			asked.push({ recipe: bench.transition.recipe, shown, sources }),
		forgetSources: () => {},
		reopen: () => {}
	} as unknown as Preview;
	const bench: Bench = new Bench(server.cut, { filters: [] } as unknown as Catalogue, preview);
	return bench;
}
/** A bench whose framing was changed in another window as well. */
async function framedTwice(): Promise<Bench> {
	const bench = opened();
	const incoming = { ...server.cut.incoming, framing: { scale: 2 } as Framing };
	server.cut = { ...server.cut, edit_version: 9, incoming };
	bench.transition.framing.set('incoming', { scale: 1.5 } as Framing);
	await vi.runAllTimersAsync();
	expect(bench.transition.saver.state).toBe('conflict');
	return bench;
}
const named = (name: string) => (recipe: Recipe) => ({ ...recipe, name });

beforeEach(() => {
	vi.useFakeTimers();
	server = new Server();
	toast.list = [];
});
afterEach(() => vi.useRealTimers());

describe('saving', () => {
	it('waits for the last of many changes, and shows each at once', async () => {
		const bench = opened();
		for (const name of ['a', 'ab', 'abc']) {
			bench.transition.change(`name it ${name}`, named(name));
			expect(asked.at(-1)?.recipe.name).toBe(name);
			await vi.advanceTimersByTimeAsync(100);
		}
		expect(server.saves).toEqual([]);
		expect(bench.transition.saver.state).toBe('saving');
		await vi.runAllTimersAsync();
		expect(server.saves.map(({ version, label }) => [version, label])).toEqual([
			[1, 'name it abc']
		]);
		expect(bench.transition.saver.state).toBe('saved');
	});

	it('keeps a change that is made while the one before is on its way', async () => {
		server.delayMs = 500;
		const bench = opened();
		bench.transition.change('first', named('first'));
		await vi.advanceTimersByTimeAsync(400);
		bench.transition.change('second', named('second'));
		await vi.runAllTimersAsync();
		expect(server.saves.map(({ version, label }) => [version, label])).toEqual([
			[1, 'first'],
			[2, 'second']
		]);
		expect(server.cut.recipe.name).toBe('second');
		expect(bench.transition.saver.state).toBe('saved');
	});

	it('keeps trying while the server is away, and loses nothing', async () => {
		const bench = opened();
		server.reachable = false;
		bench.transition.change('first', named('first'));
		await vi.advanceTimersByTimeAsync(1000);
		expect(bench.transition.saver.state).toBe('failed');
		expect(bench.transition.saver.problem).toContain('does not answer');
		bench.transition.setWindow(12, 10);
		await vi.advanceTimersByTimeAsync(3000);
		server.reachable = true;
		await vi.runAllTimersAsync();
		expect(server.saves).toHaveLength(1);
		expect(server.saves.at(-1)).toMatchObject({ before: 12, recipe: { name: 'first' } });
		expect(bench.transition.saver.state).toBe('saved');
	});

	it('is not followed by an undo where it fails', async () => {
		const bench = opened();
		server.reachable = false;
		bench.transition.change('first', named('first'));
		await Promise.all([stepHistory(bench.transition, 'undo'), vi.advanceTimersByTimeAsync(500)]);
		expect(server.undone).toEqual([]);
		expect(bench.transition.recipe.name).toBe('first');
		expect(toast.list.at(-1)?.text).toContain('unsaved changes');
	});

	it('comes before an undo that is asked for meanwhile', async () => {
		const bench = opened();
		bench.transition.change('first', named('first'));
		await Promise.all([stepHistory(bench.transition, 'undo'), vi.runAllTimersAsync()]);
		expect(server.saves.length).toBe(1);
		expect(server.undone).toEqual([2]);
		expect(bench.transition.saver.state).toBe('saved');
	});
});

describe('a step of the history', () => {
	async function undoing(bench: Bench, meanwhile: () => void) {
		server.delayMs = 800;
		const undone = stepHistory(bench.transition, 'undo');
		await vi.advanceTimersByTimeAsync(300);
		meanwhile();
		await vi.runAllTimersAsync();
		await undone;
		expect(bench.transition.saver.state).toBe('saved');
	}
	const shuttered = (recipe: Recipe) => ({ ...recipe, shutter: 180 });

	it('keeps what is changed before its answer, on the state that it brings back', async () => {
		const bench = opened();
		server.afterUndo = { recipe: { name: 'before', filters: [] }, before: 4 };
		await undoing(bench, () => {
			bench.transition.change('Shutter 180°', shuttered);
			bench.transition.setWindow(10, 14);
			bench.transition.framing.set('incoming', { scale: 1.5 } as Framing);
		});
		expect(bench.transition.recipe).toMatchObject({ name: 'before', shutter: 180 });
		expect(server.saves.at(-1)).toMatchObject({
			version: 2,
			before: 10,
			after: 14,
			recipe: { name: 'before', shutter: 180 }
		});
		expect(bench.transition.framing.now.incoming).toEqual({ scale: 1.5 });
		expect(server.framings.at(-1)?.framing).toEqual({ scale: 1.5 });
	});

	it('is followed by a reshape that is asked for before its answer', async () => {
		const bench = opened();
		server.afterUndo = { recipe: { name: 'before', filters: [] } };
		await undoing(bench, () => {
			void bench.transition.reshape('Flip', async (recipe) => ({
				...recipe,
				name: `${recipe.name}!`
			}));
		});
		expect(bench.transition.recipe.name).toBe('before!');
		expect(server.cut.recipe.name).toBe('before!');
	});

	it('keeps what is changed meanwhile where another window was faster', async () => {
		const bench = opened();
		server.savedElsewhere({ name: 'theirs' });
		server.refusesUndo = true;
		await undoing(bench, () => bench.transition.change('Shutter 180°', shuttered));
		expect(server.cut.recipe).toMatchObject({ name: 'theirs', shutter: 180 });
	});
});

describe('a state that the server does not accept', () => {
	it('is taken back by undo, and the window with it', async () => {
		const bench = opened();
		bench.transition.change('Shutter 90°', (recipe) => ({ ...recipe, shutter: 90 }));
		await vi.runAllTimersAsync();
		server.refuses = 'radius must be above 0';
		bench.transition.change('Radius 0', named('radius 0'));
		bench.transition.setWindow(4, 4);
		await vi.runAllTimersAsync();
		expect(bench.transition.saver.state).toBe('refused');
		expect(bench.transition.saver.problem).toContain('Radius must be above 0');
		await stepHistory(bench.transition, 'undo');
		await vi.runAllTimersAsync();
		expect(bench.transition.recipe).toMatchObject({ name: 'Harbour', shutter: 90 });
		expect(bench.transition.before).toBe(10);
		expect(bench.transition.saver.state).toBe('saved');
		expect(server.undone).toEqual([]);
	});
});

describe('framing', () => {
	it('is saved with the version of the edit, and kept until that succeeds', async () => {
		const bench = opened();
		server.reachable = false;
		bench.transition.framing.set('incoming', { scale: 1.5 } as Framing);
		await vi.advanceTimersByTimeAsync(1000);
		expect(bench.transition.saver.state).toBe('failed');
		server.reachable = true;
		await vi.runAllTimersAsync();
		expect(server.framings).toEqual([{ version: 7, framing: { scale: 1.5 } }]);
		expect(bench.transition.saver.state).toBe('saved');
	});

	it('is no conflict where the edit was changed elsewhere, but not this framing', async () => {
		const bench = opened();
		server.cut = { ...server.cut, edit_version: 9 };
		bench.transition.framing.set('incoming', { scale: 1.5 } as Framing);
		await vi.runAllTimersAsync();
		expect(server.framings).toEqual([{ version: 9, framing: { scale: 1.5 } }]);
	});

	it('asks where both windows changed it', async () => {
		await framedTwice();
		expect(server.framings).toEqual([]);
	});
});

describe('reshapes', () => {
	const flipped = (recipe: Recipe) =>
		new Promise<Recipe>((done) =>
			setTimeout(() => done({ ...recipe, name: `${recipe.name}!` }), 50)
		);

	it('are each made on the state that the one before left: two flips are two', async () => {
		const { transition } = opened();
		void transition.reshape('Flip', flipped);
		void transition.reshape('Flip', flipped);
		await vi.runAllTimersAsync();
		expect(transition.recipe.name).toBe('Harbour!!');
	});

	it('never overwrite what was changed while they were on their way', async () => {
		const { transition } = opened();
		const done = transition.reshape('Flip', flipped);
		await vi.advanceTimersByTimeAsync(10);
		transition.change('shutter', (recipe) => ({ ...recipe, shutter: 180 }));
		await vi.runAllTimersAsync();
		expect(transition.recipe).toMatchObject({ name: 'Harbour!', shutter: 180 });
		expect(await done).toBeNull();
	});

	it('are dropped where another state was loaded meanwhile', async () => {
		const { transition } = opened();
		void transition.reshape('Flip', flipped);
		server.cut = { ...server.cut, version: 5, recipe: { name: 'theirs', filters: [] } };
		await transition.resolve('theirs', async () => true);
		await vi.runAllTimersAsync();
		expect(transition.recipe.name).toBe('theirs');
	});
});

describe('a second window that saved first', () => {
	async function inConflict(): Promise<Bench> {
		const bench = opened();
		server.savedElsewhere({ name: 'theirs' });
		bench.transition.change('mine', named('mine'));
		await vi.runAllTimersAsync();
		expect(bench.transition.saver.state).toBe('conflict');
		expect(bench.transition.recipe.name).toBe('mine');
		return bench;
	}

	it('is kept under what is made here, when that is chosen', async () => {
		const bench = await inConflict();
		await bench.transition.resolve('mine', bench.variants.pin);
		await vi.runAllTimersAsync();
		expect(server.saves.at(-1)).toMatchObject({ version: 2, recipe: { name: 'mine' } });
		expect(bench.transition.saver.state).toBe('saved');
	});

	it('is taken, and what was made here stays as a variant', async () => {
		const bench = await inConflict();
		await bench.transition.resolve('theirs', bench.variants.pin);
		expect(bench.transition.recipe.name).toBe('theirs');
		expect(bench.variants.pinned.length).toBe(1);
		expect(server.saves).toEqual([]);
	});

	it('is taken with its framing, and the one that was made here can be brought back', async () => {
		const bench = await framedTwice();
		await bench.transition.resolve('theirs', bench.variants.pin);
		await vi.runAllTimersAsync();
		expect(bench.transition.framing.now.incoming).toEqual({ scale: 2 });
		expect(server.framings).toEqual([]);
		toast.list.find((each) => each.action?.label === 'Use mine')?.action?.run();
		await vi.runAllTimersAsync();
		expect(server.framings).toEqual([{ version: 9, framing: { scale: 1.5 } }]);
		expect(bench.transition.saver.state).toBe('saved');
	});
});

describe('the window', () => {
	it('ends where the clips and the neighbours end, and says which', () => {
		const bench = opened();
		bench.transition.setWindow(40, 25);
		expect([bench.transition.before, bench.transition.after]).toEqual([30, 20]);
		const [neighbour, clip] = toast.list;
		expect(neighbour?.text).toContain('cut 1');
		expect(neighbour?.action?.label).toBe('Open cut 1');
		expect(clip?.text).toContain('incoming clip has no more frames');
	});

	it('is at least one frame on each side, in whole frames, and keeps the shown one inside', () => {
		const bench = opened();
		bench.view.show(21);
		expect(bench.view.shown).toBe(21);
		bench.transition.setWindow(-3, 2.4);
		expect([bench.transition.before, bench.transition.after]).toEqual([1, 2]);
		expect(bench.view.shown).toBe(bench.view.lastShown);
		expect(bench.view.lastShown).toBe(13);
	});
});

describe('comparing', () => {
	it('asks for the original frames that it needs, while it needs them', () => {
		const bench = opened();
		bench.view.show(3);
		expect(asked.at(-1)?.sources).toEqual([]);
		bench.view.setCompare('split');
		expect(asked.at(-1)?.sources).toEqual([3]);
		bench.view.setCompare('cut difference');
		expect(asked.at(-1)?.sources).toEqual([-1, 0]);
		bench.view.hold(true);
		expect(bench.view.comparing).toBe('original');
		expect(asked.at(-1)?.sources).toEqual([3]);
		bench.view.hold(false);
		expect(bench.view.comparing).toBe('cut difference');
	});
});
