// Recipes from files. The server validates them.

/** A recipe as its file has it; the server knows every field. */
export type DroppedRecipe = {
	name?: string;
	window?: { before: number; after: number; rate?: string | null } | null;
};

export function isRecipeFile(file: File): boolean {
	return /\.json$/i.test(file.name);
}

/** The recipe in a file; throws an error that says which file is none. */
export async function readRecipe(file: File): Promise<DroppedRecipe> {
	try {
		const found: unknown = JSON.parse(await file.text());
		if (typeof found === 'object' && found && !Array.isArray(found)) return found;
	} catch {
		// Said below.
	}
	throw new Error(`${file.name} is not a recipe. Choose a JSON file.`);
}
