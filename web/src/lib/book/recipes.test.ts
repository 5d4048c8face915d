import { beforeEach, describe, expect, it, vi } from 'vitest';
import { api, request, type Book, type BookRecipe } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import { answered, refused } from '$lib/testing/answers';
import { RecipeBook } from './recipes.svelte';

/** A server that keeps recipes by name, and refuses one that is there unless it may overwrite. */
class Shelf {
	own: BookRecipe[] = [];
	built_in = [
		{ key: 'whip', name: 'Whip left', notes: 'A fast pan.', tags: ['fast'] },
		{
			key: 'whip-up',
			name: 'Whip up',
			notes: 'A fast pan.',
			tags: ['fast'],
			family: 'whip',
			direction: 'up'
		},
		{ key: 'soft', name: 'Soft focus', notes: 'Out of focus and back.', tags: ['soft'] }
	] as unknown as BookRecipe[];

	post({ recipe, overwrite }: { recipe: { name: string }; overwrite: boolean }) {
		const there = this.own.find(({ name }) => name === recipe.name);
		if (there && !overwrite) return refused(409, `“${recipe.name}” is kept already`);
		this.own = this.own.filter((each) => each !== there);
		const entry = { id: recipe.name, key: recipe.name, notes: '', tags: [], recipe, ...recipe };
		this.own.push(entry as unknown as BookRecipe);
		return answered(entry);
	}
}

let shelf: Shelf;
vi.mock('$lib/api/client', async (original) => ({
	...(await original<object>()),
	api: {
		GET: async () => answered({ own: [...shelf.own], built_in: shelf.built_in }),
		POST: async (_: string, { body }: { body: Parameters<Shelf['post']>[0] }) => shelf.post(body),
		PUT: async (
			_: string,
			{ params, body }: { params: { path: { recipe_id: string } }; body: { recipe: BookRecipe } }
		) => {
			const entry = shelf.own.find(({ id }) => id === params.path.recipe_id);
			return answered(Object.assign(entry ?? {}, { name: body.recipe.name }));
		},
		DELETE: async (_: string, { params }: { params: { path: { recipe_id: string } } }) => {
			shelf.own = shelf.own.filter(({ id }) => id !== params.path.recipe_id);
			return answered(null);
		}
	}
}));

let book: RecipeBook;
beforeEach(async () => {
	shelf = new Shelf();
	toast.list = [];
	let whole: Book | null = null;
	const read = async () => {
		whole = await request(api.GET('/api/recipes'));
	};
	book = new RecipeBook(() => whole, read);
	await read();
});

const names = (entries: BookRecipe[]) => entries.map(({ name }) => name);
const messages = () => toast.list.map(({ text }) => text).join(' ');

describe('the recipe book', () => {
	it('is searched by name, use and feel together', () => {
		expect(book.found.builtIn.map(names)).toEqual([['Whip left', 'Whip up'], ['Soft focus']]);
		book.sought = ' FOCUS ';
		expect(book.found.builtIn.map(names)).toEqual([['Soft focus']]);
		book.feel = 'fast';
		expect(book.found.builtIn).toEqual([]);
		book.sought = 'pan';
		expect(book.found.builtIn.map(names)).toEqual([['Whip left', 'Whip up']]);
	});
	it('keeps a recipe, renames it, takes it out and puts it back', async () => {
		expect(await book.save({ name: 'Quay' })).toBe(true);
		const [kept] = book.found.own;
		if (!kept) throw new Error('not kept');
		await book.rename(kept, '  Long quay ');
		expect(names(book.found.own)).toEqual(['Long quay']);
		await book.remove(kept);
		expect(book.found.own).toEqual([]);
		toast.list.at(-1)?.action?.run();
		await vi.waitFor(() => expect(names(book.found.own)).toEqual(['Quay']));
	});
	it('asks before it overwrites', async () => {
		await book.save({ name: 'Quay', notes: 'one' });
		expect(await book.save({ name: 'Quay', notes: 'two' })).toBe(false);
		expect(shelf.own[0]?.notes).toBe('one');
		toast.list.at(-1)?.action?.run();
		await vi.waitFor(() => expect(shelf.own[0]?.notes).toBe('two'));
	});
	it('imports what can be read and names the file that cannot', async () => {
		await book.importFiles([
			new File(['no json'], 'notes.txt'),
			new File([JSON.stringify({ name: 'From a file' })], 'fine.json')
		]);
		expect(messages()).toContain('notes.txt is not a recipe');
		expect(names(book.found.own)).toEqual(['From a file']);
	});
});
