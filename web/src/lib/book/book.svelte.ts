// The recipe book: what is in it, what of it is looked for, and what the editor keeps.
import { api, need, type Book, type BookRecipe } from '$lib/api/client';
import { notices } from '$lib/ui/notices.svelte';

export const FEELS = ['soft', 'fast', 'bright', 'broken', 'turning', 'rolling', 'accent'];

export class RecipeBook {
	whole = $state.raw<Book | null>(null);
	sought = $state('');
	feel = $state('');

	get found(): { own: BookRecipe[]; builtIn: BookRecipe[] } {
		const fits = (each: BookRecipe) =>
			(!this.feel || each.tags.includes(this.feel)) &&
			`${each.name} ${each.notes} ${each.tags.join(' ')}`
				.toLowerCase()
				.includes(this.sought.trim().toLowerCase());
		return {
			own: this.whole?.own.filter(fits) ?? [],
			builtIn: this.whole?.built_in.filter(fits) ?? []
		};
	}

	async load() {
		try {
			this.whole = await need(api.GET('/api/recipes'));
		} catch (error) {
			notices.wrong(error);
		}
	}

	/** Keep a recipe under its name; whether that worked. */
	async keep(recipe: unknown, overwrite = false): Promise<boolean> {
		try {
			const body = { recipe: recipe as never, overwrite };
			const kept = await need(api.POST('/api/recipes', { body }));
			notices.tell(`“${kept.name}” is in the book.`);
			await this.load();
			return true;
		} catch (error) {
			if (!overwrite && error instanceof Error && error.message.includes('kept already')) {
				notices.wrong(error, {
					label: 'Overwrite it',
					run: () => void this.keep(recipe, true)
				});
			} else notices.wrong(error);
			return false;
		}
	}

	async rename(entry: BookRecipe, name: string) {
		if (!entry.id || !name.trim()) return;
		try {
			const path = { params: { path: { recipe_id: entry.id } } };
			const recipe = { ...entry.recipe, name: name.trim() } as never;
			await need(
				api.PUT('/api/recipes/{recipe_id}', { ...path, body: { recipe, overwrite: false } })
			);
			await this.load();
		} catch (error) {
			notices.wrong(error);
		}
	}

	async remove(entry: BookRecipe) {
		if (!entry.id) return;
		try {
			const path = { params: { path: { recipe_id: entry.id } } };
			await need(api.DELETE('/api/recipes/{recipe_id}', path));
			notices.tell(`“${entry.name}” was taken out of the book.`, {
				label: 'Put it back',
				run: () => void this.keep(entry.recipe)
			});
			await this.load();
		} catch (error) {
			notices.wrong(error);
		}
	}

	async importFiles(files: Iterable<File>) {
		for (const file of files) {
			try {
				await this.keep(JSON.parse(await file.text()));
			} catch {
				notices.wrong(new Error(`${file.name} is no recipe: give a JSON file.`));
			}
		}
	}
}
