// The strokes that undo and redo bring back, kept in the browser across reloads as long as they fit what is stored.
import type { Strokes } from '$lib/api/client';

export type StrokeHistory = { done: Strokes[][]; undone: Strokes[][] };

/** So many steps are kept on either side. */
const MOST_STEPS = 60;

function keyOf(placedId: string): string {
	return `idle-shimmer-strokes-${placedId}`;
}

/** Keep the history that leads to the stored strokes of a `version`. */
export function keepHistory(placedId: string, version: string, { done, undone }: StrokeHistory) {
	const kept = { version, done: done.slice(-MOST_STEPS), undone: undone.slice(-MOST_STEPS) };
	try {
		localStorage.setItem(keyOf(placedId), JSON.stringify(kept));
	} catch {
		// Storage is full or blocked: undo reaches as far as this page.
	}
}

/** The history that leads to the strokes of a `version`; empty where others are stored by now. */
export function keptHistory(placedId: string, version: string): StrokeHistory {
	try {
		const kept = JSON.parse(localStorage.getItem(keyOf(placedId)) ?? 'null') as
			(StrokeHistory & { version: string }) | null;
		if (kept?.version === version) return { done: kept.done, undone: kept.undone };
	} catch {
		// Storage is blocked, or holds something else.
	}
	return { done: [], undone: [] };
}
