// Which cuts of an edit are selected.
export class CutSelection {
	#chosen = $state.raw<string[]>([]);
	readonly #all: () => string[];
	/** The cut that was chosen last: a range begins at it. */
	#anchor = '';

	constructor(all: () => string[]) {
		this.#all = all;
	}

	/** Ids of the selected cuts, as far as they are still there. */
	get ids(): string[] {
		const here = new Set(this.#all());
		return this.#chosen.filter((id) => here.has(id));
	}

	/** Choose a cut, or no longer; with `range` everything from the one that was chosen last. */
	toggle(cutId: string, range = false) {
		const { ids } = this;
		const all = this.#all();
		const [from, to] = [all.indexOf(this.#anchor), all.indexOf(cutId)].sort((a, b) => a - b);
		if (range && from !== undefined && from >= 0 && to !== undefined) {
			this.#chosen = [...new Set([...ids, ...all.slice(from, to + 1)])];
			return;
		}
		this.#anchor = cutId;
		this.#chosen = ids.includes(cutId) ? ids.filter((id) => id !== cutId) : [...ids, cutId];
	}

	toggleAll() {
		const all = this.#all();
		this.#chosen = this.ids.length === all.length ? [] : all;
	}
}
