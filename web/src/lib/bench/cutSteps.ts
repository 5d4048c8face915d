// What is done to a cut by the server, once everything is saved: steps of its history, and of its clips.
import { api, request, type Cut } from '$lib/api/client';
import type { DroppedRecipe } from '$lib/book/recipeFiles';
import type { TransitionDocument } from './transition.svelte';

/** Undo or redo a step of the history; what the server does not accept is undone by taking it back. */
export async function stepHistory(
	transition: TransitionDocument,
	direction: 'undo' | 'redo'
): Promise<void> {
	if (direction === 'undo' && transition.saver.state === 'refused')
		return transition.saver.takeBack();
	return transition.loadFrom(() => {
		const path = {
			params: { path: { cut_id: transition.cut.id } },
			body: { version: transition.version }
		};
		return request(
			direction === 'undo'
				? api.POST('/api/cuts/{cut_id}/undo', path)
				: api.POST('/api/cuts/{cut_id}/redo', path)
		);
	});
}

/** Return to a step of the history. */
export function goToStep(transition: TransitionDocument, number: number): Promise<void> {
	return transition.loadFrom(() =>
		request(
			api.POST('/api/cuts/{cut_id}/history/{number}', {
				params: { path: { cut_id: transition.cut.id, number } },
				body: { version: transition.version }
			})
		)
	);
}

/** Move the cut later by frames: a rolling trim of its clips. */
export function moveCut(transition: TransitionDocument, by: number): Promise<void> {
	return changeClips(transition, ({ id, edit_id, edit_version }) =>
		request(
			api.POST('/api/edits/{edit_id}/cuts/move', {
				params: { path: { edit_id }, query: { version: edit_version } },
				body: { moves: [{ cut: id, by }] }
			})
		)
	);
}

/** Step the frames that meet at the cut; a clip that slips keeps its length. */
export function stepCutFrames(
	transition: TransitionDocument,
	step: { outgoing?: number; incoming?: number; slip: boolean }
): Promise<void> {
	return changeClips(transition, ({ id, edit_id, edit_version }) =>
		request(
			api.POST('/api/edits/{edit_id}/cuts/{cut_id}/step', {
				params: { path: { edit_id, cut_id: id }, query: { version: edit_version } },
				body: { outgoing: 0, incoming: 0, ...step }
			})
		)
	);
}

/** Apply a recipe from a file to the cut, in the window that it suggests. */
export function applyDropped(transition: TransitionDocument, recipe: DroppedRecipe): Promise<void> {
	return changeClips(transition, ({ id, edit_id, version }) =>
		request(
			api.POST('/api/edits/{edit_id}/apply', {
				params: { path: { edit_id } },
				body: { cuts: [{ cut: id, version }], recipe: recipe as never, window: recipe.window }
			})
		)
	);
}

/** Change the clips of a cut in its edit, and show what became of it. */
function changeClips(
	transition: TransitionDocument,
	ask: (cut: Cut) => Promise<unknown>
): Promise<void> {
	return transition.loadFrom(async () => {
		await ask(transition.cut);
		return transition.newest();
	});
}
