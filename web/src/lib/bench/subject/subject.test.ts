import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { Strokes, SubjectFacts } from '$lib/api/client';
import type { TransitionDocument } from '$lib/bench/transition.svelte';
import { Saver } from '$lib/saving/saver.svelte';
import { answered, refused } from '$lib/testing/answers';
import { Subject } from './subject.svelte';

const stroke = (frame: number): Strokes => ({ frame, keep: [[[0.4, 0.4]]] }) as unknown as Strokes;

/** A server that keeps the strokes of one clip. */
const server = vi.hoisted(() => {
	const state = {
		strokes: [] as unknown[],
		version: 1,
		/** What answers wait for. */
		slowly: Promise.resolve<void>(undefined)
	};
	return {
		state,
		facts: () => ({ strokes: state.strokes, version: `v${state.version}`, matte: null }),
		/** Another window saves. */
		draws: (strokes: unknown[]) => {
			state.strokes = strokes;
			state.version += 1;
		}
	};
});

vi.mock('$lib/api/client', async (original) => ({
	...(await original<object>()),
	api: {
		GET: async () => {
			const facts = server.facts();
			await server.state.slowly;
			return answered(facts);
		},
		PUT: (_: string, { body }: { body: { strokes: Strokes[]; version: string } }) => {
			if (body.version !== server.facts().version) return refused(409, 'marked elsewhere');
			server.draws(body.strokes);
			return answered(server.facts());
		}
	}
}));

let saver: Saver;
let subject: Subject;
const storage = new Map<string, string>();
vi.stubGlobal('localStorage', {
	getItem: (key: string) => storage.get(key) ?? null,
	setItem: (key: string, text: string) => storage.set(key, text)
});
const opened = async () => {
	const transition = { cut: { id: 'cut', incoming: { id: 'placed' } }, saver };
	const made = new Subject(transition as unknown as TransitionDocument, 'incoming', () => {});
	await made.load(false);
	return made;
};

beforeEach(async () => {
	vi.useFakeTimers();
	server.draws([]);
	saver = new Saver();
	storage.clear();
	subject = await opened();
});
afterEach(() => {
	subject.close();
	saver.close();
	vi.useRealTimers();
});

const stored = () => server.facts() as unknown as SubjectFacts;

it('saves one stroke after another, each over what it saw', async () => {
	for (const frame of [3, 4]) {
		subject.draw([...subject.strokes, stroke(frame)]);
		await vi.runAllTimersAsync();
	}
	expect(saver.state).toBe('saved');
	expect(stored().strokes).toEqual([stroke(3), stroke(4)]);
});

it('never saves over the strokes of another window until that is chosen', async () => {
	server.draws([stroke(9)]);
	subject.draw([stroke(3)]);
	await vi.runAllTimersAsync();
	expect(saver.state).toBe('conflict');
	expect(stored().strokes).toEqual([stroke(9)]);
	await subject.resolve('mine');
	saver.resolved(true);
	await vi.runAllTimersAsync();
	expect(stored().strokes).toEqual([stroke(3)]);
});

it('shows the strokes of another window, and undo brings these back', async () => {
	server.draws([stroke(9)]);
	subject.draw([stroke(3)]);
	await vi.runAllTimersAsync();
	await subject.resolve('theirs');
	saver.resolved(false);
	await vi.runAllTimersAsync();
	expect(subject.strokes).toEqual([stroke(9)]);
	expect(saver.state).toBe('saved');
	subject.undo();
	await vi.runAllTimersAsync();
	expect(stored().strokes).toEqual([stroke(3)]);
});

it('takes no strokes from an answer of before they were saved', async () => {
	let answer = () => {};
	server.state.slowly = new Promise((done) => (answer = done));
	subject.draw([stroke(3)]);
	const asked = subject.load(false);
	await vi.runAllTimersAsync();
	expect(saver.state).toBe('saved');
	answer();
	await asked;
	server.state.slowly = Promise.resolve();
	expect(subject.strokes).toEqual([stroke(3)]);
	subject.draw([...subject.strokes, stroke(4)]);
	await vi.runAllTimersAsync();
	expect(stored().strokes).toEqual([stroke(3), stroke(4)]);
});

it('asks again where an answer is older than what was drawn since', async () => {
	let answer = () => {};
	server.state.slowly = new Promise((done) => (answer = done));
	const asked = subject.ask();
	subject.draw([stroke(3)]);
	answer();
	await asked;
	server.state.slowly = Promise.resolve();
	expect(subject.asks).toBe(true);
	expect(subject.strokes).toEqual([stroke(3)]);
	await vi.runAllTimersAsync();
	expect(await subject.ask()).toBe(false);
	expect(subject.strokes).toEqual([stroke(3)]);
});

it('undoes strokes across a reload, as long as no other window has drawn since', async () => {
	for (const frame of [3, 4]) {
		subject.draw([...subject.strokes, stroke(frame)]);
		await vi.runAllTimersAsync();
	}
	const reloaded = await opened();
	expect(reloaded.canUndo).toBe(true);
	reloaded.undo();
	await vi.runAllTimersAsync();
	expect(stored().strokes).toEqual([stroke(3)]);
	const again = await opened();
	again.redo();
	await vi.runAllTimersAsync();
	expect(stored().strokes).toEqual([stroke(3), stroke(4)]);
	server.draws([stroke(9)]);
	expect((await opened()).canUndo).toBe(false);
});
