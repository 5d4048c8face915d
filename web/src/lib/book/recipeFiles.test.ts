import { expect, it } from 'vitest';
import { isRecipeFile, readRecipe } from './recipeFiles';

it('reads a recipe, and says which file is none', async () => {
	const file = (text: string) => new File([text], 'quay.json');
	expect(await readRecipe(file('{"name": "Quay"}'))).toEqual({ name: 'Quay' });
	for (const text of ['[1]', 'null', '"Quay"', '{'])
		await expect(readRecipe(file(text))).rejects.toThrow('quay.json is not a recipe');
});

it('tells recipes from clips', () => {
	expect(['a.json', 'b.JSON', 'c.mp4'].map((name) => isRecipeFile(new File([], name)))).toEqual([
		true,
		true,
		false
	]);
});
