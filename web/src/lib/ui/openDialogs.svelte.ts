// The dialogs that are open, the topmost last: what lies outside of it can be neither read nor reached.
class OpenDialogs {
	#ids = $state.raw<string[]>([]);

	get top(): string | undefined {
		return this.#ids.at(-1);
	}

	/** Count a dialog as open; returns what ends that. */
	add(id: string): () => void {
		this.#ids = [...this.#ids, id];
		return () => (this.#ids = this.#ids.filter((each) => each !== id));
	}
}

export const openDialogs = new OpenDialogs();
