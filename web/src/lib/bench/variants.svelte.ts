// The pinned variants of a transition, and the one that plays beside it.
import { api, request, type Variant } from '$lib/api/client';
import type { Recipe } from '$lib/recipe/recipe';
import { toast } from '$lib/ui/toast.svelte';
import { Preview } from './preview/preview.svelte';
import type { TransitionDocument } from './transition.svelte';
import type { View } from './view.svelte';

export const MOST_VARIANTS = 4;

export class Variants {
	pinned = $state.raw<Variant[]>([]);
	/** The variant that is shown beside the transition, with a preview of its own. */
	beside = $state.raw<{ variant: Variant; preview: Preview } | null>(null);

	constructor(
		readonly transition: TransitionDocument,
		readonly view: View
	) {}

	get #cutId(): string {
		return this.transition.cut.id;
	}

	/** Take those that are stored; return how many they are. */
	async read(): Promise<number> {
		const path = { params: { path: { cut_id: this.#cutId } } };
		this.pinned = await request(api.GET('/api/cuts/{cut_id}/variants', path));
		return this.pinned.length;
	}

	/** Pin the current transition; return whether that succeeded. */
	pin = async (): Promise<boolean> => {
		const { before, after, recipe } = this.transition;
		try {
			const path = { params: { path: { cut_id: this.#cutId } } };
			// The server validates the recipe; its type there is a union of every filter.
			const body = { before, after, recipe: recipe as never };
			const made = await request(api.POST('/api/cuts/{cut_id}/variants', { ...path, body }));
			this.pinned = [...this.pinned, made];
			return true;
		} catch (error) {
			toast.error(error);
			return false;
		}
	};

	async unpin(variant: Variant) {
		if (this.beside?.variant.id === variant.id) this.show(null);
		try {
			const path = { cut_id: this.#cutId, variant_id: variant.id };
			await request(api.DELETE('/api/cuts/{cut_id}/variants/{variant_id}', { params: { path } }));
			this.pinned = this.pinned.filter((each) => each.id !== variant.id);
		} catch (error) {
			toast.error(error);
		}
	}

	/** Continue with a variant; it stays pinned. */
	take(variant: Variant) {
		this.transition.setWindow(variant.before, variant.after);
		this.transition.change(`Use variant ${variant.name}`, () => variant.recipe as Recipe);
		this.view.select(this.transition.recipe.filters[0]?.id ?? 'mix');
		this.show(null);
	}

	/** Show a variant beside the transition, or none. */
	show(variant: Variant | null) {
		this.beside?.preview.close();
		this.beside = null;
		if (!variant) return;
		const preview = new Preview(this.#cutId);
		const { before, after } = variant;
		// Both play the same frames: the shorter one gets a longer run-up.
		const reach = Math.max(-this.view.firstShown - before, this.view.lastShown + 1 - after, 0);
		const recipe = variant.recipe as Recipe;
		const framing = this.transition.framing.now;
		const { subjects, shown } = this.view;
		preview.show({ before, after, recipe, run_up: reach, framing, subjects }, shown, []);
		this.beside = { variant, preview };
	}

	close() {
		this.show(null);
	}
}
