// The dials of the whole recipe: they adjust it as it was before they were touched.
import { api, request } from '$lib/api/client';
import type { Easing, Recipe } from '$lib/recipe/recipe';
import { toast } from '$lib/ui/toast.svelte';
import type { TransitionDocument } from '../transition.svelte';

export type Flip = 'horizontal' | 'vertical';
/** A quarter turn, counter-clockwise or clockwise. */
export type Turn = 90 | 270;
export const USUAL_SNAP = 0.5;

type Adjustment = {
	strength: number;
	snap?: number | null;
	flip?: Flip;
	turn?: Turn;
	easing?: Easing;
};

/** The recipe with an adjustment. */
async function adjusted(recipe: Recipe, adjustment: Adjustment): Promise<Recipe> {
	// The server validates the recipe; its type there is a union of every filter.
	const body = { recipe: recipe as never, ...adjustment };
	const made = await request(api.POST('/api/adjust', { body: { turn: 0, ...body } }));
	if (made.staying_upright?.length)
		toast.info(`Could not be turned and stays as it is: ${made.staying_upright.join(', ')}`);
	return made.recipe as Recipe;
}

type Window = { before: number; after: number };

/** A window of `total` frames that is divided as another one. */
async function divided(window: Window, duration: number): Promise<Window> {
	const recipe = { name: 'Window', window } as never;
	const body = { recipe, strength: 1, turn: 0 as const, duration };
	const made = (await request(api.POST('/api/adjust', { body }))).recipe as { window: Window };
	return made.window;
}

function sameWindow(one: Window | null, other: Window): boolean {
	return one?.before === other.before && one.after === other.after;
}

export class Dials {
	#strength = $state(1);
	#snap = $state<number | null>(null);
	#base: Recipe | null = null;
	/** The strength that the base already has, and that of the last result. */
	#baseStrength = 1;
	#applied = 1;
	#made = $state.raw<Recipe | null>(null);
	#busy = $state(false);
	#wanted: string | null = null;
	/** The window before the duration was dialled, and what the dial last made of it. */
	#undivided: Window | null = null;
	#divided: Window | null = null;
	/** The duration that is asked for next. */
	#total: number | null = null;
	#isDividing = false;

	constructor(readonly transition: TransitionDocument) {}

	/** The strength since the dials were first touched; 1 after any other change. */
	get strength(): number {
		return this.#isCurrent ? this.#strength : 1;
	}

	get snap(): number {
		return (this.#isCurrent ? this.#snap : null) ?? USUAL_SNAP;
	}

	setStrength(strength: number) {
		this.#touch();
		this.#strength = strength;
		return this.#adjust(`Strength ${Math.round(strength * 100)} %`);
	}

	setSnap(snap: number) {
		this.#touch();
		this.#snap = snap;
		return this.#adjust(`Snap ${Math.round(snap * 100)} %`);
	}

	flip(axis: Flip) {
		const label = axis === 'horizontal' ? 'Flip horizontally' : 'Flip vertically';
		return this.transition.reshape(label, (recipe) =>
			adjusted(recipe, { strength: 1, flip: axis })
		);
	}

	turn(turn: Turn) {
		const label = turn === 90 ? 'Turn 90° left' : 'Turn 90° right';
		return this.transition.reshape(label, (recipe) => adjusted(recipe, { strength: 1, turn }));
	}

	/** Put one easing on every curve. */
	ease(easing: Easing) {
		return this.transition.reshape('One easing on every curve', (recipe) =>
			adjusted(recipe, { strength: 1, easing })
		);
	}

	/** A window of `total` frames, divided as the window was before the dial was touched. */
	async setDuration(total: number) {
		const now = this.#window;
		if (!this.#isDividing && !sameWindow(this.#divided, now)) this.#undivided = now;
		this.#total = total;
		if (this.#isDividing) return;
		this.#isDividing = true;
		try {
			while (this.#total !== null) {
				const wanted: number = this.#total;
				this.#total = null;
				const made = await divided(this.#undivided ?? now, wanted);
				this.transition.setWindow(made.before, made.after);
				this.#divided = this.#window;
			}
		} catch (error) {
			this.#total = null;
			toast.error(error);
		} finally {
			this.#isDividing = false;
		}
	}

	get #window(): Window {
		return { before: this.transition.before, after: this.transition.after };
	}

	setShutter(shutter: number) {
		this.transition.change(`Shutter ${shutter}°`, (recipe) => ({ ...recipe, shutter }));
	}

	get #isCurrent(): boolean {
		return this.#busy || (this.#made !== null && this.transition.recipe === this.#made);
	}

	/** Any other change makes the dials start anew, on what it made. */
	#touch() {
		if (this.#isCurrent) return;
		this.#base = this.transition.recipe;
		this.#strength = this.#baseStrength = this.#applied = 1;
		this.#snap = null;
	}

	/** One request is on its way at a time; the newest position of the dials waits for it. */
	async #adjust(label: string) {
		this.#wanted = label;
		if (this.#busy) return;
		this.#busy = true;
		try {
			while (this.#wanted !== null) {
				const step: string = this.#wanted;
				this.#wanted = null;
				const strength = this.#strength;
				this.#made = await this.transition.reshape(step, (recipe) =>
					this.#turned(recipe, strength)
				);
				this.#applied = strength;
			}
		} finally {
			this.#busy = false;
		}
	}

	#turned(recipe: Recipe, strength: number): Promise<Recipe> {
		// Something else was changed meanwhile: the base goes on from there.
		if (recipe !== this.#base && recipe !== this.#made) {
			this.#base = recipe;
			this.#baseStrength = this.#applied || 1;
		}
		const factor = strength / this.#baseStrength;
		return adjusted(this.#base ?? recipe, { strength: factor, snap: this.#snap });
	}
}
