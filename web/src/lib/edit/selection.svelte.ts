// Which cuts of an edit are selected.
export class CutSelection {
	#chosen = $state.raw<string[]>([]);
	readonly #all: () => string[];

	constructor(all: () => string[]) {
		this.#all = all;
	}

	/** Ids of the selected cuts, as far as they are still there. */
	get ids(): string[] {
		const here = new Set(this.#all());
		return this.#chosen.filter((id) => here.has(id));
	}

	toggle(cutId: string) {
		const { ids } = this;
		this.#chosen = ids.includes(cutId) ? ids.filter((id) => id !== cutId) : [...ids, cutId];
	}

	toggleAll() {
		const all = this.#all();
		this.#chosen = this.ids.length === all.length ? [] : all;
	}
}
