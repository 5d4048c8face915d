import { beforeEach, expect, it, vi } from 'vitest';
import type { Parameter } from '$lib/api/client';
import type { TransitionDocument } from '$lib/bench/transition.svelte';
import { swellTo, type Keyframes, type Recipe } from '$lib/recipe/recipe';
import { answered } from '$lib/testing/answers';
import { filterCurve } from './curveOwner';
import { FrameValues } from './frameValues.svelte';

type Asked = { offset: number; value: number | null; curve: { before: number; times: string } };
let asked: Asked[];
let letGo: (() => void)[];

vi.mock('$lib/api/client', async (original) => ({
	...(await original<object>()),
	api: {
		POST: async (_: string, { body }: { body: Asked }) => {
			asked.push(body);
			await new Promise<void>((done) => letGo.push(done));
			const at = (body.offset + 0.5) / body.curve.before;
			const keyframes = [
				{ at: -1, value: 0, easing: 'ease-in' },
				{ at, value: body.value ?? 7, easing: 'linear' }
			];
			return answered({ envelope: { kind: 'keyframes', keyframes } });
		}
	}
}));

const parameter = {
	name: 'radius',
	label: 'Radius',
	control: 'amount',
	unit: 'height',
	step: 0.01
} as unknown as Parameter;
const curve = filterCurve('blur', { kind: 'gaussian_blur', title: 'Gaussian blur' }, parameter);
const settled = () => new Promise((done) => setTimeout(done));

/** What a transition is to the values on its frames. */
class Transition {
	before = 5;
	after = 5;
	labels: string[] = [];
	recipe = {
		times: 'frames',
		filters: [{ id: 'blur', kind: 'gaussian_blur', radius: swellTo(3) }]
	} as unknown as Recipe;
	change(label: string, change: (recipe: Recipe) => Recipe) {
		this.recipe = change(this.recipe);
		this.labels.push(label);
	}
	async reshape(label: string, make: (recipe: Recipe) => Promise<Recipe>) {
		this.recipe = await make(this.recipe);
		this.labels.push(label);
		return this.recipe;
	}
	get keyframes() {
		return (curve.read(this.recipe) as Keyframes).keyframes;
	}
}

let transition: Transition;
let values: FrameValues;

beforeEach(() => {
	asked = [];
	letGo = [];
	transition = new Transition();
	values = new FrameValues(transition as unknown as TransitionDocument);
});

it('asks for a keyframe once; what is dragged on meanwhile is set in it', async () => {
	for (const value of [1, 2, 3]) void values.set(curve, -3, value);
	await settled();
	expect(asked.map(({ offset, value }) => [offset, value])).toEqual([[-3, 1]]);
	letGo.shift()?.();
	await settled();
	expect(asked).toHaveLength(1);
	expect(transition.keyframes.map(({ at, value }) => [at, value])).toEqual([
		[-1, 0],
		[-0.5, 3]
	]);
	expect(transition.labels).toEqual([
		'Gaussian blur radius at −3: 100 % h',
		'Gaussian blur radius at −3: 300 % h'
	]);
});

it('sets the keyframe of a frame without asking, and asks for other frames', async () => {
	void values.set(curve, -3, 1);
	await settled();
	letGo.shift()?.();
	await settled();
	void values.set(curve, -3, 9);
	expect(asked).toHaveLength(1);
	expect(values.keyframe(curve.read(transition.recipe) ?? 0, -3)).toBe(9);
	void values.set(curve, -2, 4);
	await settled();
	expect(asked).toHaveLength(2);
});

it('keeps what waits for one frame while another one is set', async () => {
	for (const value of [1, 2]) void values.set(curve, -3, value);
	void values.set(curve, -2, 5);
	for (let n = 0; n < 3; n += 1) {
		await settled();
		letGo.shift()?.();
	}
	await settled();
	expect(asked.map(({ offset, value }) => [offset, value])).toEqual([
		[-3, 1],
		[-2, 5]
	]);
	expect(transition.labels).toContain('Gaussian blur radius at −3: 200 % h');
});

it('adds a keyframe that changes no frame, once', async () => {
	void values.set(curve, -3, null);
	await settled();
	letGo.shift()?.();
	await settled();
	expect(transition.keyframes[1]?.value).toBe(7);
	await values.set(curve, -3, null);
	expect(asked).toHaveLength(1);
});
