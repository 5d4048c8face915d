// The dials over the selected cuts: what is turned on further goes into one step of the history.
import { api, request, type CutSummary } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import type { EditDocument } from './editDocument.svelte';

export type Dialled = {
	strength?: number;
	snap?: number;
	shutter?: number;
	duration?: number;
	flip?: 'horizontal' | 'vertical';
	turn?: 90 | 270;
	hold_frames?: boolean;
};
type Dial = keyof Dialled;
type Wanted = { dialled: Dialled; of?: CutSummary[] };

export class CutDials {
	/** What was dialled last, as long as nothing else was done and the same cuts are selected. */
	#last = $state.raw<{ dial: Dial; value: number; of: string; version: number } | null>(null);
	#wanted: Wanted | null = null;
	#busy = false;
	everySecond = $state(false);

	constructor(readonly editDocument: EditDocument) {}

	get strength(): number {
		return this.#shown('strength') ?? 1;
	}

	/** What a dial was turned to; null where the selected cuts may differ. */
	get snap(): number | null {
		return this.#shown('snap');
	}

	get shutter(): number | null {
		return this.#shown('shutter');
	}

	/** The selected cuts that lack spare frames, for which their end frames can be held. */
	get lacking(): CutSummary[] {
		return this.#chosen.filter(
			({ worst }) => worst?.id === 'spare_frames' && worst.status !== 'ok'
		);
	}

	/** Hold the end frames of the cuts that lack spare frames. */
	holdFrames() {
		return this.dial({ hold_frames: true }, this.lacking);
	}

	/** The duration of the selected windows; null where they differ. */
	get duration(): number | null {
		const lengths = new Set(this.#chosen.map(({ before, after }) => before + after));
		const [only = null] = lengths;
		return lengths.size === 1 ? only : null;
	}

	/** One request is on its way at a time; the newest position of the dial waits for it. */
	async dial(dialled: Dialled, of?: CutSummary[]) {
		this.#wanted = { dialled, of };
		if (this.#busy) return;
		this.#busy = true;
		try {
			while (this.#wanted) {
				const { dialled, of }: Wanted = this.#wanted;
				this.#wanted = null;
				await this.editDocument.saved(() => this.#send(dialled, of ?? this.#chosen));
			}
		} finally {
			this.#busy = false;
		}
	}

	async #send(wanted: Dialled, of: CutSummary[]) {
		const { editDocument } = this;
		const cuts = of.map(({ id, version }) => ({ cut: id, version }));
		if (!cuts.length) return;
		const dial = Object.keys(wanted)[0] as Dial;
		const value = wanted[dial];
		const turnsOn = typeof value === 'number' && dial !== 'turn';
		const body = {
			cuts,
			strength: 1,
			turn: 0 as const,
			...wanted,
			every_second: this.everySecond && wanted.hold_frames === undefined,
			again: turnsOn && this.#isLast(dial)
		};
		const params = editDocument.path({ version: editDocument.base.version });
		const asked = api.POST('/api/edits/{edit_id}/adjust', { params, body });
		const { edit, notes } = await request(asked);
		editDocument.take(edit);
		this.#last = turnsOn ? { dial, value, of: this.#of, version: edit.version } : null;
		if (notes.length) toast.info(notes.join(' '));
	}

	get #chosen(): CutSummary[] {
		const { edit, selection } = this.editDocument;
		const ids = new Set(selection.ids);
		return edit.cuts.filter(({ id }) => ids.has(id));
	}

	/** Names the cuts that change, as they are now, and so the step that another position of the dial takes the place of. */
	get #of(): string {
		return `${this.#chosen.map(({ id, version }) => `${id} ${version}`).join()} ${this.everySecond}`;
	}

	#isLast(dial: Dial): boolean {
		const last = this.#last;
		return (
			last?.dial === dial && last.of === this.#of && last.version === this.editDocument.base.version
		);
	}

	#shown(dial: Dial): number | null {
		return this.#isLast(dial) ? (this.#last?.value ?? null) : null;
	}
}
