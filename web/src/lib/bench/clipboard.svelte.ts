// What was copied: a pass, a whole transition or a curve. Kept by the browser, so that it can be
// pasted on another cut, in another edit, in another window.
import { browser } from '$app/environment';
import type { Envelope, Pass, Recipe } from './recipe';

export type Held =
	| { kind: 'pass'; title: string; pass: Pass }
	| { kind: 'transition'; before: number; after: number; recipe: Recipe }
	| { kind: 'curve'; title: string; envelope: Envelope };

const STORED_AS = 'idle-shimmer-copied';

class Clipboard {
	held = $state.raw<Held | null>(null);

	constructor() {
		if (!browser) return;
		this.#read();
		addEventListener('storage', ({ key }) => key === STORED_AS && this.#read());
	}

	put(held: Held) {
		this.held = held;
		try {
			localStorage.setItem(STORED_AS, JSON.stringify(held));
		} catch {
			// Full or forbidden: it can still be pasted in this window.
		}
	}

	#read() {
		try {
			this.held = JSON.parse(localStorage.getItem(STORED_AS) ?? 'null') as Held | null;
		} catch {
			this.held = null;
		}
	}
}

export const clipboard = new Clipboard();

/** What is held, in words. */
export function heldName(held: Held): string {
	if (held.kind === 'transition') return `transition “${held.recipe.name}”`;
	return held.kind === 'pass' ? held.title : `curve of ${held.title}`;
}
