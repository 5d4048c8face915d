// The changes of an edit that the server does not know yet: shown at once, sent in order.
import { Refusal, type Edit } from '$lib/api/client';
import { Saver, type SendOptions } from '$lib/saving/saver.svelte';
import { toast } from '$lib/ui/toast.svelte';
import type { PlacedChange } from './editChanges';

/** The version of the edit that a request saw, as its query. */
export type Seen = { version: number };
export type Pending = {
	key: string;
	/** What it makes of the edit, until the server has answered. */
	show: (edit: Edit) => Edit;
	ask: (seen: Seen, options: SendOptions) => Promise<Edit>;
	/** What it is about: where that was changed elsewhere, it is not made. */
	about: (edit: Edit) => unknown;
	name: string;
	/** What a later change of the same key adds to. */
	body?: PlacedChange;
	/** Frames by which cuts move, by their ids. */
	moves?: Map<string, number>;
};

export class PendingChanges {
	readonly saver = new Saver();
	/** The edit as the server knows it. */
	base = $state.raw() as Edit;
	#pending = $state.raw<Pending[]>([]);
	#sending: Pending | null = null;
	readonly edit: Edit = $derived(this.#pending.reduce((edit, each) => each.show(edit), this.base));

	constructor(
		edit: Edit,
		readonly newest: () => Promise<Edit>
	) {
		this.base = edit;
	}

	/** The change of a key that has not been sent. */
	waiting(key: string): Pending | undefined {
		return this.#pending.find((each) => each.key === key && each !== this.#sending);
	}

	/** Show a change and send it; it replaces a waiting one of its key. */
	put(change: Pending) {
		const waiting = this.waiting(change.key);
		this.#pending = waiting
			? this.#pending.map((each) => (each === waiting ? change : each))
			: [...this.#pending, change];
		this.saver.put({
			key: change.key,
			send: (options) => this.#send(change.key, options),
			refused: (error) => {
				this.#drop(this.#sending);
				toast.error(error);
			}
		});
	}

	async #send(key: string, options: SendOptions) {
		const change = this.waiting(key);
		if (!change) return;
		this.#sending = change;
		try {
			this.base = await this.#ask(change, options);
			this.#drop(change);
		} catch (error) {
			// It waits to be sent again, or is dropped by `refused`.
			const status = error instanceof Refusal ? error.status : 0;
			if (status < 400 || status >= 500 || status === 429) this.#sending = null;
			throw error;
		}
	}

	/** An edit that was changed elsewhere is no conflict where what the change is about was not. */
	async #ask(change: Pending, options: SendOptions): Promise<Edit> {
		const seen = this.base;
		try {
			return await change.ask({ version: seen.version }, options);
		} catch (error) {
			if (!(error instanceof Refusal && error.status === 409)) throw error;
			const newest = await this.newest();
			const same = JSON.stringify(change.about(newest)) === JSON.stringify(change.about(seen));
			if (same) return this.#askAgain(change, newest, options);
			toast.error(
				`${change.name} was changed in another window, so your change was not made. The newest state is shown.`,
				{ label: 'Make my change', run: () => this.put(change) }
			);
			return newest;
		}
	}

	/** Changed once more meanwhile: it is tried again after a pause. */
	async #askAgain(change: Pending, newest: Edit, options: SendOptions): Promise<Edit> {
		try {
			return await change.ask({ version: newest.version }, options);
		} catch (error) {
			if (!(error instanceof Refusal && error.status === 409)) throw error;
			throw new Refusal('The edit is being changed in another window.', 503);
		}
	}

	#drop(change: Pending | null) {
		this.#pending = this.#pending.filter((each) => each !== change);
		this.#sending = null;
	}
}
