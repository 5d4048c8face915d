// The clipboard: a filter, a whole transition or a curve. Stored by the browser, so that it can be
// pasted on another cut, in another edit or another window.
import { browser } from '$app/environment';
import { counted } from '$lib/ui/numbers';
import type { CopiedKeyframe } from '$lib/recipe/keyframeGroup';
import type { Envelope, Filter, Recipe } from '$lib/recipe/recipe';

export type Copied =
	| { kind: 'filter'; title: string; filter: Filter }
	| { kind: 'transition'; before: number; after: number; recipe: Recipe }
	| { kind: 'curve'; title: string; envelope: Envelope }
	| { kind: 'keyframes'; title: string; keyframes: CopiedKeyframe[] };

const STORED_AS = 'idle-shimmer-copied';

class Clipboard {
	copied = $state.raw<Copied | null>(null);

	constructor() {
		if (!browser) return;
		this.#read();
		addEventListener('storage', ({ key }) => key === STORED_AS && this.#read());
	}

	put(copied: Copied) {
		this.copied = copied;
		try {
			localStorage.setItem(STORED_AS, JSON.stringify(copied));
		} catch {
			// Storage is full or blocked: it can still be pasted in this window.
		}
	}

	#read() {
		try {
			this.copied = JSON.parse(localStorage.getItem(STORED_AS) ?? 'null') as Copied | null;
		} catch {
			this.copied = null;
		}
	}
}

export const clipboard = new Clipboard();

/** The name of what was copied. */
export function copiedName(copied: Copied): string {
	if (copied.kind === 'transition') return `transition “${copied.recipe.name}”`;
	if (copied.kind === 'keyframes')
		return `${counted(copied.keyframes.length, 'keyframe')} of ${copied.title}`;
	return copied.kind === 'filter' ? copied.title : `curve of ${copied.title}`;
}
