import { beforeEach, expect, it, vi } from 'vitest';
import type { Recipe } from '$lib/recipe/recipe';
import { answered } from '$lib/testing/answers';
import type { TransitionDocument } from '../transition.svelte';
import { Dials } from './dials.svelte';

type Window = { before: number; after: number };
type Asked = {
	recipe: Recipe & { peak: number; window?: Window };
	strength: number;
	snap?: number;
	flip?: string;
	duration?: number;
};
let asked: Asked[];
/** Answers wait until they are let go. */
let letGo: (() => void)[];

vi.mock('$lib/api/client', async (original) => ({
	...(await original<object>()),
	api: {
		POST: async (_: string, { body }: { body: Asked }) => {
			asked.push(body);
			await new Promise<void>((done) => letGo.push(done));
			const { window } = body.recipe;
			if (window && body.duration) {
				const before = Math.round((body.duration * window.before) / (window.before + window.after));
				return answered({ recipe: { window: { before, after: body.duration - before } } });
			}
			const peak = body.recipe.peak * body.strength * (body.flip ? -1 : 1);
			return answered({ recipe: { ...body.recipe, peak } });
		}
	}
}));

/** What a transition is to its dials: reshapes run one after another, as the real one's. */
class Transition {
	recipe = { name: 'Quay', peak: 10 } as unknown as Recipe & { peak: number };
	labels: string[] = [];
	before = 6;
	after = 12;
	setWindow(before: number, after: number) {
		Object.assign(this, { before, after });
	}
	#queue: Promise<unknown> = Promise.resolve();
	reshape(label: string, make: (recipe: Recipe) => Promise<Recipe>) {
		const done = this.#queue.then(async () => {
			const made = (await make(this.recipe)) as Transition['recipe'];
			this.recipe = made;
			this.labels.push(label);
			return made;
		});
		this.#queue = done;
		return done;
	}
}

let transition: Transition;
let dials: Dials;
const settled = () => new Promise((done) => setTimeout(done));
async function answer() {
	letGo.shift()?.();
	await settled();
}

beforeEach(() => {
	asked = [];
	letGo = [];
	transition = new Transition();
	dials = new Dials(transition as unknown as TransitionDocument);
});

it('asks one position at a time; the newest follows, always from where they were first touched', async () => {
	for (const strength of [1.1, 1.2, 1.3, 1.4]) void dials.setStrength(strength);
	await settled();
	expect(asked.map(({ strength }) => strength)).toEqual([1.1]);
	expect(dials.strength).toBe(1.4);
	await answer();
	expect(asked.map(({ strength }) => strength)).toEqual([1.1, 1.4]);
	await answer();
	expect(transition.recipe.peak).toBeCloseTo(14);
	void dials.setStrength(2);
	await settled();
	expect(asked.at(-1)?.recipe.peak).toBe(10);
});

it('start anew after any other change', async () => {
	void dials.setStrength(2);
	await settled();
	await answer();
	transition.recipe = { ...transition.recipe, peak: 5 };
	expect(dials.strength).toBe(1);
	void dials.setStrength(2);
	await settled();
	await answer();
	expect(transition.recipe.peak).toBe(10);
});

it('do not take back a flip that comes while one of them is on its way', async () => {
	void dials.setStrength(2);
	await settled();
	void dials.flip('horizontal');
	void dials.setStrength(3);
	await answer();
	await answer();
	await answer();
	expect(transition.recipe.peak).toBeCloseTo(-30);
	expect(transition.labels.at(-1)).toBe('Strength 300 %');
});

it('divide a duration as the window was before the dial was touched, and come back to it', async () => {
	const dialled = async (total: number) => {
		void dials.setDuration(total);
		await settled();
		await answer();
		return [transition.before, transition.after];
	};
	expect(await dialled(2)).toEqual([1, 1]);
	expect(await dialled(18)).toEqual([6, 12]);
	expect(asked.map(({ recipe }) => recipe.window)).toEqual([
		{ before: 6, after: 12 },
		{ before: 6, after: 12 }
	]);
	transition.setWindow(5, 5);
	expect(await dialled(8)).toEqual([4, 4]);
});

it('ask for the newest duration only, once the one before is there', async () => {
	for (const total of [10, 12, 14, 24]) void dials.setDuration(total);
	await settled();
	await answer();
	await answer();
	expect(asked.map(({ duration }) => duration)).toEqual([10, 24]);
	expect([transition.before, transition.after]).toEqual([8, 16]);
});
