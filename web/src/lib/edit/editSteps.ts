// What is done to several cuts of an edit at once by the server, each in one step of its history.
import { api, request, type BookRecipe, type Cut, type CutSummary } from '$lib/api/client';
import type { DroppedRecipe } from '$lib/book/recipeFiles';
import { counted } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';
import { toNearestBeat } from './beats';
import { cutName } from './editChanges';
import type { EditDocument } from './editDocument.svelte';

/** What every second cut gets: the recipe as it is, flipped, or turned by degrees counter-clockwise. */
export type Alternate = '' | 'horizontal' | 'vertical' | '90' | '180' | '270';

function alternating(alternate: Alternate) {
	if (alternate === 'horizontal' || alternate === 'vertical') return { flip_alternate: alternate };
	return { turn_alternate: alternate ? (Number(alternate) as 90 | 180 | 270) : null };
}

/** The selected cuts, or all where none is, that are not on a beat. */
export function offBeat({ edit, beatFrames, selection, starts }: EditDocument): CutSummary[] {
	const { ids } = selection;
	return edit.cuts.filter(
		({ id }, n) =>
			toNearestBeat(beatFrames, starts[n + 1] ?? 0) && (!ids.length || ids.includes(id))
	);
}

/** Move cuts to their nearest beats, in one step of the history. */
export async function snapToBeats(editDocument: EditDocument) {
	await editDocument.saved(async () => {
		const params = editDocument.path({ version: editDocument.base.version });
		const cuts = offBeat(editDocument).map(({ id }) => id);
		const asked = api.POST('/api/edits/{edit_id}/cuts/to-beats', { params, body: { cuts } });
		const { edit, stayed } = await request(asked);
		editDocument.take(edit);
		const moved = counted(cuts.length - stayed.length, 'cut');
		toast.info([`Moved ${moved} to the nearest beat.`, ...stayed].join(' '));
	});
}

/** Return to the edit as it was after a step of its history; 0 is before all of them. */
export function goToStep(editDocument: EditDocument, number: number): Promise<void> {
	return editDocument.saved(async () => {
		const { path, query } = editDocument.path({ version: editDocument.base.version });
		const params = { path: { ...path, number }, query };
		const asked = api.POST('/api/edits/{edit_id}/history/{number}', { params });
		editDocument.take(await request(asked));
	});
}

/** Trim the clips so that cuts lie on every nth beat, in one step of the history. */
export async function cutEvery(editDocument: EditDocument, every: number) {
	await editDocument.saved(async () => {
		const params = editDocument.path({ version: editDocument.base.version });
		const asked = api.POST('/api/edits/{edit_id}/cuts/on-beats', { params, body: { every } });
		const { edit, stayed } = await request(asked);
		editDocument.take(edit);
		toast.info([`Cut every ${counted(every, 'beat')}.`, ...stayed].join(' '));
	});
}

/** Apply a recipe to the chosen cuts, in one step that can be undone. */
export function applyRecipe(editDocument: EditDocument, entry: BookRecipe, alternate: Alternate) {
	// The server validates the recipe; its type there is a union of every filter.
	const recipe = { ...entry.recipe, name: entry.name } as never;
	const window = { before: entry.before, after: entry.after, rate: editDocument.edit.rate };
	return apply(editDocument, entry.name, recipe, window, alternate);
}

/** Apply a recipe from a file to a cut; where that is selected, to every selected one. */
export function applyDropped(editDocument: EditDocument, recipe: DroppedRecipe, cutId: string) {
	const { ids } = editDocument.selection;
	const name = recipe.name ?? 'Untitled';
	const window = recipe.window ?? null;
	return apply(
		editDocument,
		name,
		recipe as never,
		window,
		'',
		ids.includes(cutId) ? ids : [cutId]
	);
}

/** Copy the transition of a cut, with its window, to the chosen cuts. */
export async function copyFrom(
	editDocument: EditDocument,
	cut: CutSummary,
	alternate: Alternate = ''
) {
	const asked = api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: cut.id } } });
	try {
		const { before, after, recipe } = await request<Cut>(asked);
		await apply(
			editDocument,
			cutName(cut),
			recipe as never,
			{ before, after, rate: editDocument.edit.rate },
			alternate
		);
	} catch (error) {
		toast.error(error);
	}
}

async function apply(
	editDocument: EditDocument,
	name: string,
	recipe: never,
	window: DroppedRecipe['window'],
	alternate: Alternate,
	ids: readonly string[] = editDocument.selection.ids
) {
	await editDocument.saved(async () => {
		const cuts = editDocument.base.cuts
			.filter((cut) => ids.includes(cut.id))
			.map((cut) => ({ cut: cut.id, version: cut.version }));
		const params = editDocument.path({ version: editDocument.base.version });
		const body = { cuts, recipe, window, ...alternating(alternate) };
		editDocument.take(await request(api.POST('/api/edits/{edit_id}/apply', { params, body })));
		const label = editDocument.base.undo_label;
		toast.info(`Applied “${name}” to ${counted(cuts.length, 'cut')}`, {
			label: 'Undo',
			run: () => {
				if (editDocument.base.undo_label === label) void editDocument.undo();
				else toast.info('The edit was changed since. Undo steps back through its history.');
			}
		});
	});
}
