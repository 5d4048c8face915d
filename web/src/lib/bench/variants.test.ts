import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Variant } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import { answered, refused } from '$lib/testing/answers';
import type { Recipe } from '$lib/recipe/recipe';
import type { TransitionDocument } from './transition.svelte';
import type { View } from './view.svelte';
import { Variants } from './variants.svelte';

type Shown = { before: number; after: number; run_up: number };
const previews: { state?: Shown; looked: number[]; closed: boolean }[] = [];

vi.mock('./preview/preview.svelte', () => ({
	Preview: class {
		looked: number[] = [];
		closed = false;
		state?: Shown;
		constructor() {
			previews.push(this);
		}
		show(state: Shown, shown: number) {
			this.state = state;
			this.looked.push(shown);
		}
		showFrame(shown: number) {
			this.looked.push(shown);
		}
		close() {
			this.closed = true;
		}
	}
}));

const FOUR = 4;
let kept: Variant[];
vi.mock('$lib/api/client', async (original) => ({
	...(await original<object>()),
	api: {
		GET: async () => answered([...kept]),
		POST: async (_: string, { body }: { body: Omit<Variant, 'id' | 'name'> }) => {
			if (kept.length === FOUR) return refused(422, 'Four variants are pinned. Unpin one first.');
			const made = { ...body, id: `${kept.length}`, name: 'ABCD'[kept.length] } as Variant;
			kept.push(made);
			return answered(made);
		},
		DELETE: async (_: string, { params }: { params: { path: { variant_id: string } } }) => {
			kept = kept.filter(({ id }) => id !== params.path.variant_id);
			return answered(null);
		}
	}
}));

/** What the transition and the view are to its variants. */
function standIns(before: number, after: number, runUp: number) {
	const recipe = { name: 'Harbour', filters: [{ id: 'roll' }] } as unknown as Recipe;
	const transition = {
		cut: { id: 'cut' },
		before,
		after,
		recipe,
		framing: { now: {} },
		labels: [] as string[],
		setWindow(one: number, other: number) {
			Object.assign(this, { before: one, after: other });
		},
		change(label: string, change: (recipe: Recipe) => Recipe) {
			this.labels.push(label);
			this.recipe = change(this.recipe);
		}
	};
	const view = {
		shown: -1,
		selected: 'mix',
		get firstShown() {
			return -transition.before - runUp;
		},
		get lastShown() {
			return transition.after + runUp - 1;
		},
		select(id: string) {
			this.selected = id;
		}
	};
	return { transition, view };
}

let made: ReturnType<typeof standIns>;
let variants: Variants;
beforeEach(() => {
	kept = [];
	previews.length = 0;
	toast.list = [];
	made = standIns(10, 8, 12);
	variants = new Variants(
		made.transition as unknown as TransitionDocument,
		made.view as unknown as View
	);
});

async function pinned(): Promise<Variant> {
	expect(await variants.pin()).toBe(true);
	return variants.pinned.at(-1) as Variant;
}

describe('variants', () => {
	it('are pinned as the transition is, and the fifth is refused in words', async () => {
		for (let n = 0; n < FOUR; n += 1) await pinned();
		expect(variants.pinned.map(({ name }) => name)).toEqual(['A', 'B', 'C', 'D']);
		expect(await variants.pin()).toBe(false);
		expect(toast.list[0]?.text).toContain('Unpin one');
		expect(variants.pinned).toHaveLength(FOUR);
	});
	it('play over the same frames as the transition beside them', async () => {
		const one = await pinned();
		made.transition.setWindow(4, 20);
		variants.show(one);
		const { state } = previews[0] ?? {};
		// From 16 frames ahead of the cut to 32 after it, though the variant is 10 | 8.
		expect(state).toMatchObject({ before: 10, after: 8, run_up: 24 });
		expect(previews[0]?.looked).toEqual([-1]);
	});
	it('close the preview of the one that was shown before', async () => {
		const [one, other] = [await pinned(), await pinned()];
		variants.show(one);
		variants.show(other);
		expect(previews.map(({ closed }) => closed)).toEqual([true, false]);
		await variants.unpin(other);
		expect(previews[1]?.closed).toBe(true);
		expect(variants.beside).toBeNull();
		expect(variants.pinned).toEqual([one]);
	});
	it('are worked on with their window, and stay pinned', async () => {
		const one = await pinned();
		made.transition.setWindow(3, 3);
		made.transition.change('emptied', (recipe) => ({ ...recipe, filters: [] }));
		variants.take(one);
		expect(made.transition).toMatchObject({ before: 10, after: 8 });
		expect(made.view.selected).toBe('roll');
		expect(made.transition.labels.at(-1)).toBe('Use variant A');
		expect(variants.pinned).toEqual([one]);
	});
});
