// The framing of both clips of a cut: set on all their frames in the edit, matched, and saved by itself.
import { api, request, Refusal, type Cut, type Framing } from '$lib/api/client';
import type { Saver, SendOptions } from '$lib/saving/saver.svelte';
import { toast } from '$lib/ui/toast.svelte';
import { CLIP_SIDES, type Changed, type ClipSide } from './cutTypes';

export type Framings = Record<ClipSide, Framing>;

const SAVE_AFTER_MS = 350;

/** The cut whose clips are framed, as far as framing asks for it. */
export type FramedCut = {
	cut: Cut;
	readonly saver: Saver;
	onchange: (what: Changed) => void;
	/** The cut as it is stored now. */
	newest: () => Promise<Cut>;
	/** Take what surrounds the transition; whether its clips were trimmed. */
	takeFacts: (cut: Cut) => boolean;
};

export class ClipFraming {
	now = $state.raw() as Framings;
	readonly #transition: FramedCut;
	#saved = {} as Framings;

	constructor(transition: FramedCut) {
		this.#transition = transition;
	}

	/** Take what is stored, but for what is not saved yet; return whether another framing is shown now. */
	take(cut: Cut): boolean {
		const stored = framingsOf(cut);
		const shown = { ...stored };
		for (const side of CLIP_SIDES) if (this.#isUnsaved(side)) shown[side] = this.now[side];
		const differs = !same(shown, this.now);
		this.now = shown;
		this.#saved = stored;
		return differs;
	}

	/** Take what another window stored over what is not saved here, which can be brought back. */
	drop(theirs: Cut) {
		const mine = this.now;
		const dropped = CLIP_SIDES.filter((side) => this.#isUnsaved(side));
		this.now = this.#saved = framingsOf(theirs);
		for (const side of dropped.filter((each) => !same(mine[each], this.now[each])))
			toast.info(`The ${side} clip has the framing of the other window.`, {
				label: 'Use mine',
				run: () => this.set(side, mine[side])
			});
	}

	#isUnsaved(side: ClipSide): boolean {
		return this.#transition.saver.holds(`framing ${side}`);
	}

	/** Keep what is shown, to be saved over what another window stored. */
	keepOver(theirs: Cut) {
		this.#saved = framingsOf(theirs);
	}

	/** Set the framing of a clip, on all its frames in the edit. */
	set(side: ClipSide, framing: Framing) {
		this.now = { ...this.now, [side]: framing };
		this.#transition.onchange('framing');
		const send = (options: SendOptions) => this.#send(side, options);
		const takeBack = () => {
			this.now = { ...this.now, [side]: this.#saved[side] };
			this.#transition.onchange('framing');
		};
		this.#transition.saver.put({ key: `framing ${side}`, send, takeBack }, SAVE_AFTER_MS);
	}

	/** Match the incoming clip to the outgoing one, and offer to undo it. */
	async match(what: 'placement' | 'colours') {
		const was = this.now.incoming;
		try {
			const { framing, agreeing } = await request(
				api.POST('/api/cuts/{cut_id}/match', {
					params: { path: { cut_id: this.#transition.cut.id } },
					body: { what, outgoing: this.now.outgoing, incoming: was }
				})
			);
			this.set('incoming', framing);
			const message =
				what === 'colours'
					? 'Matched the colours of the incoming clip to the outgoing clip.'
					: `Matched the position and scale of the incoming clip: ${agreeing} details agree.`;
			toast.info(message, { label: 'Undo', run: () => this.set('incoming', was) });
		} catch (error) {
			toast.error(error);
		}
	}

	/** Save a framing. An edit that was changed elsewhere is no conflict where this framing was not. */
	async #send(side: ClipSide, { keepalive }: SendOptions) {
		const framing = this.now[side];
		const put = () =>
			request(
				api.PATCH('/api/edits/{edit_id}/placed/{placed_id}', {
					params: {
						path: {
							edit_id: this.#transition.cut.edit_id,
							placed_id: this.#transition.cut[side].id
						},
						query: { version: this.#transition.cut.edit_version }
					},
					body: { framing },
					keepalive
				})
			);
		let saved;
		try {
			saved = await put();
		} catch (error) {
			if (!(error instanceof Refusal && error.status === 409)) throw error;
			const theirs = await this.#transition.newest();
			if (!same(theirs[side].framing, this.#saved[side])) throw error;
			if (this.#transition.takeFacts(theirs)) this.#transition.onchange('clips');
			saved = await put();
		}
		this.#saved = { ...this.#saved, [side]: framing };
		this.#transition.cut = { ...this.#transition.cut, edit_version: saved.version };
	}
}

function framingsOf(cut: Cut): Framings {
	return { outgoing: cut.outgoing.framing, incoming: cut.incoming.framing };
}

function same(one: unknown, other: unknown): boolean {
	return JSON.stringify(one) === JSON.stringify(other);
}
