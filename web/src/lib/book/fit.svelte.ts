// What suits a cut: the recipes of the book sorted by fit, each with its reasons. A recipe is set for the
// cut where that is asked for.
import type { BookRecipe, Fit } from '$lib/api/client';
import { Remembered } from '$lib/ui/remembered.svelte';

const NEUTRAL = 'Nothing speaks for or against these';

type RecipeFit = Fit['recipes'][number];

export class CutFit {
	#on = new Remembered<boolean>('idle-shimmer-book-sorted', false);
	#of = $derived(new Map(this.found?.recipes.map((each) => [each.key, each])));

	constructor(readonly measured: () => Fit | null) {}

	/** What was measured; null until then. */
	get found(): Fit | null {
		return this.measured();
	}

	/** Whether recipes are sorted by fit. */
	get on() {
		return this.#on.value;
	}

	set on(on: boolean) {
		this.#on.value = on;
	}

	#for(entry: BookRecipe): RecipeFit | undefined {
		return this.on ? this.#of.get(entry.key) : undefined;
	}

	/** Why a recipe suits the cut or does not, most important first. */
	reasons(entry: BookRecipe): string[] {
		return this.#for(entry)?.reasons ?? [];
	}

	/** The recipe in its best direction, with its centre and its window as they suit the cut. */
	fitted(directions: BookRecipe[]): BookRecipe {
		const entry = this.best(directions);
		const fit = this.#for(entry);
		if (!fit) return entry;
		const { before, after, recipe } = fit;
		return { ...entry, before, after, recipe: recipe ?? entry.recipe };
	}

	/** What fitting a recipe changes, in words; empty where it changes nothing. */
	changes(directions: BookRecipe[]): string {
		const [stated, made] = [directions[0], this.fitted(directions)];
		if (!stated) return '';
		const parts = [
			made.key === stated.key ? '' : `direction ${(made.direction ?? made.name).replace('-', ' ')}`,
			made.before === stated.before && made.after === stated.after
				? ''
				: `${made.before} | ${made.after} frames`,
			this.#for(made)?.recipe ? 'centre on the weight of the pictures' : ''
		];
		return parts.filter(Boolean).join(', ');
	}

	/** The direction of one recipe that suits best: the first where they are equal. */
	best(directions: BookRecipe[]): BookRecipe {
		return directions.reduce((best, each) =>
			this.#points(each) > this.#points(best) ? each : best
		);
	}

	/** Recipes, with their directions together, best first; equals keep their order. */
	sorted(families: BookRecipe[][]): BookRecipe[][] {
		const points = (directions: BookRecipe[]) => this.#points(this.best(directions));
		return families.toSorted((one, other) => points(other) - points(one));
	}

	/** Recipes best first, together where one reason weighs most for them: it is said once. */
	groups(families: BookRecipe[][]): { reason: string; recipes: BookRecipe[][] }[] {
		const found = new Map<string, BookRecipe[][]>();
		for (const directions of this.sorted(families)) {
			const [reason = NEUTRAL] = this.reasons(this.best(directions));
			found.set(reason, [...(found.get(reason) ?? []), directions]);
		}
		return [...found].map(([reason, recipes]) => ({ reason, recipes }));
	}

	#points(entry: BookRecipe): number {
		return this.#for(entry)?.points ?? 0;
	}
}
