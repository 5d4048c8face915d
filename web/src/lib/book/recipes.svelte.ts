// The recipe book: the built-in and the saved recipes, searched and filtered by feel.
import { api, Refusal, request, type Book, type BookRecipe } from '$lib/api/client';
import { capitalised } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';
import { readRecipe } from './recipeFiles';

/** The recipes of each family, the first of which is the one that the others are derived from. */
export function families(recipes: BookRecipe[]): BookRecipe[][] {
	const found = new Map<string, BookRecipe[]>();
	for (const each of recipes) {
		const key = each.family ?? each.key;
		found.set(key, [...(found.get(key) ?? []), each]);
	}
	return [...found.values()];
}

/** The name of the shelf for recipes without a feel. */
const OTHER = 'Subject and movement';

/** Recipes by the feel under which they stand, in the order of the book. */
export function shelves(recipes: BookRecipe[][]): { title: string; recipes: BookRecipe[][] }[] {
	const found = new Map<string, BookRecipe[][]>();
	for (const each of recipes) {
		const title = capitalised(each[0]?.feel ?? OTHER);
		found.set(title, [...(found.get(title) ?? []), each]);
	}
	return [...found].map(([title, recipes]) => ({ title, recipes }));
}

export class RecipeBook {
	sought = $state('');
	feel = $state('');

	constructor(
		readonly loaded: () => Book | null,
		/** Load it anew. */
		readonly reload: () => Promise<unknown>
	) {}

	/** The whole book; null until it is loaded. */
	get whole(): Book | null {
		return this.loaded();
	}

	/** Saved recipes, and the built-in ones with all directions of one recipe together. */
	get found(): { own: BookRecipe[]; builtIn: BookRecipe[][] } {
		const fits = (each: BookRecipe) =>
			(!this.feel || each.tags.includes(this.feel)) &&
			`${each.name} ${each.notes} ${each.tags.join(' ')}`
				.toLowerCase()
				.includes(this.sought.trim().toLowerCase());
		return {
			own: this.whole?.own.filter(fits) ?? [],
			builtIn: families(this.whole?.built_in ?? []).filter((each) => each.some(fits))
		};
	}

	clear() {
		this.sought = '';
		this.feel = '';
	}

	/** Save a recipe under its name; return whether that succeeded. */
	async save(recipe: unknown, overwrite = false): Promise<boolean> {
		try {
			const body = { recipe: recipe as never, overwrite };
			const saved = await request(api.POST('/api/recipes', { body }));
			toast.info(`Saved the recipe “${saved.name}”`);
			await this.reload();
			return true;
		} catch (error) {
			if (!overwrite && error instanceof Refusal && error.status === 409) {
				toast.error(error, {
					label: 'Replace',
					run: () => void this.save(recipe, true)
				});
			} else toast.error(error);
			return false;
		}
	}

	async rename(entry: BookRecipe, name: string) {
		if (!entry.id || !name.trim()) return;
		try {
			const path = { params: { path: { recipe_id: entry.id } } };
			const recipe = { ...entry.recipe, name: name.trim() } as never;
			await request(
				api.PUT('/api/recipes/{recipe_id}', { ...path, body: { recipe, overwrite: false } })
			);
			await this.reload();
		} catch (error) {
			toast.error(error);
		}
	}

	async remove(entry: BookRecipe) {
		if (!entry.id) return;
		try {
			const path = { params: { path: { recipe_id: entry.id } } };
			await request(api.DELETE('/api/recipes/{recipe_id}', path));
			toast.info(`Deleted the recipe “${entry.name}”`, {
				label: 'Undo',
				run: () => void this.save(entry.recipe)
			});
			await this.reload();
		} catch (error) {
			toast.error(error);
		}
	}

	async importFiles(files: Iterable<File>) {
		for (const file of files) {
			try {
				await this.save(await readRecipe(file));
			} catch (error) {
				toast.error(error);
			}
		}
	}
}
