// The state of the bench: one cut's transition, how it is viewed, and how it is saved.
import { api, request, Refusal, type Catalogue, type Cut, type Framing } from '$lib/api/client';
import { LoopSound } from './loopSound.svelte';
import { rateNumber } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';
import { goto } from '$app/navigation';
import type { Preview } from './preview.svelte';
import type { Filter, Recipe } from './recipe';
import { Variants } from './variants.svelte';

export const COMPARES = [
	'result',
	'original',
	'split',
	'difference',
	'cut frames',
	'cut difference'
] as const;
export type Compare = (typeof COMPARES)[number];
export type ClipSide = 'outgoing' | 'incoming';
export type SavedState = 'saved' | 'saving' | 'unsaved' | 'conflict';

const SAVE_AFTER_MS = 350;
const RUN_UP_FRAMES = 12;

export class Bench {
	cut = $state.raw() as Cut;
	recipe = $state.raw() as Recipe;
	before = $state(1);
	after = $state(1);
	/** The framing of both clips. */
	framing = $state.raw() as Record<ClipSide, Framing>;
	selected = $state('');
	shown = $state(0);
	compare = $state<Compare>('result');
	/** Whether H is held: the original is shown, whatever the view. */
	held = $state(false);
	/** Position of the split line, as a share of the picture's width. */
	splitAt = $state(0.5);
	/** Whether the open lane draws the speed of its curve. */
	showSpeed = $state(false);
	playing = $state(false);
	speed = $state(1);
	saved = $state<SavedState>('saved');
	readonly variants: Variants;
	readonly sound: LoopSound;
	/** The last saved recipe, for the old value in the labels of the history. */
	asSaved = $state.raw() as Recipe;

	#version = 0;
	#label = '';
	/** Unsaved changes: the transition, and the sides with a new framing. */
	#transition = false;
	readonly #framed = new Set<ClipSide>();
	#timer: ReturnType<typeof setTimeout> | undefined;
	#turn: Promise<void> = Promise.resolve();

	constructor(
		cut: Cut,
		readonly catalogue: Catalogue,
		/** The cut's preview; its owner closes it. */
		readonly preview: Preview
	) {
		this.variants = new Variants(this, cut.id);
		this.sound = new LoopSound(cut.id);
		this.#take(cut);
		this.selected = this.recipe.filters[0]?.id ?? 'mix';
	}

	get rate(): number {
		return rateNumber(this.cut.rate);
	}

	get runUp(): number {
		const { outgoing, incoming } = this.cut;
		return Math.min(
			RUN_UP_FRAMES,
			outgoing.out_frame - outgoing.in_frame - this.before,
			incoming.out_frame - incoming.in_frame - this.after
		);
	}

	get firstShown(): number {
		return -this.before - this.runUp;
	}

	get lastShown(): number {
		return this.after + this.runUp - 1;
	}

	/** Change the recipe; `label` names the step in the history. */
	change(label: string, change: (recipe: Recipe) => Recipe) {
		this.recipe = change(this.recipe);
		this.#changed(label);
	}

	changeFilter(id: string, label: string, change: (filter: Filter) => Filter) {
		this.change(label, (recipe) => ({
			...recipe,
			filters: recipe.filters.map((filter) => (filter.id === id ? change(filter) : filter))
		}));
	}

	/** Set the window, limited by the clips and the neighbouring windows; say so where it is limited. */
	setWindow(before: number, after: number) {
		if (before > this.cut.most_before) this.#sayLimited('outgoing', this.cut.previous_id, -1);
		if (after > this.cut.most_after) this.#sayLimited('incoming', this.cut.next_id, 1);
		const next = {
			before: Math.min(Math.max(1, Math.round(before)), this.cut.most_before),
			after: Math.min(Math.max(1, Math.round(after)), this.cut.most_after)
		};
		if (next.before === this.before && next.after === this.after) return;
		const label = `Window ${this.before} | ${this.after} → ${next.before} | ${next.after}`;
		this.before = next.before;
		this.after = next.after;
		this.show(this.shown);
		this.#changed(label);
	}

	#sayLimited(side: ClipSide, neighbour: string | null, step: number) {
		const number = this.cut.number + step;
		if (!neighbour) toast.info(`The window cannot be longer: the ${side} clip has no more frames.`);
		else
			toast.info(
				`The window cannot be longer: it meets the window of cut ${number}. Shorten that one first.`,
				{
					label: `Open cut ${number}`,
					run: () => void goto(`/cuts/${neighbour}`)
				}
			);
	}

	/** Show a frame, limited to the window and its run-up. */
	show(offset: number) {
		this.shown = Math.min(Math.max(offset, this.firstShown), this.lastShown);
		this.preview.showFrame(this.shown, this.#sources());
		this.variants.showFrame(this.shown);
	}

	/** The current view. */
	get comparing(): Compare {
		return this.held ? 'original' : this.compare;
	}

	setCompare(compare: Compare) {
		this.compare = compare;
		this.preview.showFrame(this.shown, this.#sources());
	}

	hold(held: boolean) {
		this.held = held;
		this.preview.showFrame(this.shown, this.#sources());
	}

	/** The original frames that the view needs. */
	#sources(): number[] {
		if (this.comparing === 'result') return [];
		return this.comparing.startsWith('cut') ? [-1, 0] : [this.shown];
	}

	/** Move the cut later by frames: a rolling trim of its clips. */
	async moveCut(by: number) {
		void this.flush();
		await this.#inTurn(async () => {
			await this.#takeAnswer(
				api.POST('/api/cuts/{cut_id}/move', {
					params: { path: { cut_id: this.cut.id } },
					body: { by }
				})
			);
			this.preview.reopen();
		});
	}

	/** Set the framing of a clip, on all its frames in the edit. */
	setFraming(side: ClipSide, framing: Framing) {
		this.framing = { ...this.framing, [side]: framing };
		this.#framed.add(side);
		this.preview.forgetSources();
		this.#later();
	}

	/** Save the changed framings. */
	async #saveFraming() {
		for (const side of [...this.#framed]) {
			this.#framed.delete(side);
			await request(
				api.PATCH('/api/edits/{edit_id}/placed/{placed_id}', {
					params: { path: { edit_id: this.cut.edit_id, placed_id: this.cut[side].id } },
					body: { framing: this.framing[side] }
				})
			);
		}
	}

	/** Match the incoming clip to the outgoing one, and offer to undo it. */
	async match(what: 'placement' | 'colours') {
		const was = this.framing.incoming;
		try {
			const { framing, agreeing } = await request(
				api.POST('/api/cuts/{cut_id}/match', {
					params: { path: { cut_id: this.cut.id } },
					body: { what, outgoing: this.framing.outgoing, incoming: was }
				})
			);
			this.setFraming('incoming', framing);
			const message =
				what === 'colours'
					? 'Matched the colours of the incoming clip to the outgoing clip.'
					: `Matched the position and scale of the incoming clip: ${agreeing} details agree.`;
			toast.info(message, { label: 'Undo', run: () => this.setFraming('incoming', was) });
		} catch (error) {
			toast.error(error);
		}
	}

	select(id: string) {
		this.selected = id;
	}

	/** Save unsaved changes now. */
	flush(): Promise<void> {
		clearTimeout(this.#timer);
		return this.#inTurn(async () => {
			if (this.saved === 'unsaved') await this.#save();
		});
	}

	/** Requests run one after another: each needs the version that the one before returned. */
	#inTurn(work: () => Promise<void>): Promise<void> {
		this.#turn = this.#turn.then(work);
		return this.#turn;
	}

	async step(direction: 'undo' | 'redo') {
		void this.flush();
		await this.#inTurn(() => {
			const path = { params: { path: { cut_id: this.cut.id } }, body: { version: this.#version } };
			return this.#takeAnswer(
				direction === 'undo'
					? api.POST('/api/cuts/{cut_id}/undo', path)
					: api.POST('/api/cuts/{cut_id}/redo', path)
			);
		});
	}

	/** Return to a step of the history. */
	async goTo(number: number) {
		void this.flush();
		await this.#inTurn(() =>
			this.#takeAnswer(
				api.POST('/api/cuts/{cut_id}/history/{number}', {
					params: { path: { cut_id: this.cut.id, number } },
					body: { version: this.#version }
				})
			)
		);
	}

	async #takeAnswer(asked: Parameters<typeof request<Cut>>[0]) {
		try {
			this.#take(await request(asked));
		} catch (error) {
			this.#refused(error);
		}
	}

	close() {
		void this.flush();
		this.variants.close();
		this.sound.stop();
	}

	#take(cut: Cut) {
		this.#takeFacts(cut);
		this.before = cut.before;
		this.after = cut.after;
		this.framing ??= { outgoing: cut.outgoing.framing, incoming: cut.incoming.framing };
		this.recipe = this.asSaved = cut.recipe as Recipe;
		this.shown = Math.min(Math.max(this.shown, this.firstShown), this.lastShown);
		this.saved = 'saved';
		this.#transition = false;
		this.#refresh();
	}

	#takeFacts(cut: Cut) {
		this.cut = cut;
		this.#version = cut.version;
	}

	#refresh() {
		const { before, after, recipe, framing } = this;
		const state = { before, after, recipe, run_up: this.runUp, framing };
		this.preview.show(state, this.shown, this.#sources());
	}

	#changed(label: string) {
		this.#label = label;
		this.#transition = true;
		this.#later();
	}

	/** Show the change now, and save it when no other follows soon. */
	#later() {
		this.saved = 'unsaved';
		this.#refresh();
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.flush(), SAVE_AFTER_MS);
	}

	async #save() {
		this.saved = 'saving';
		try {
			await this.#saveFraming();
			if (this.#transition) await this.#saveTransition();
			this.saved = this.#transition || this.#framed.size ? 'unsaved' : 'saved';
		} catch (error) {
			this.#refused(error);
		}
	}

	async #saveTransition() {
		const { recipe, before, after } = this;
		this.#transition = false;
		try {
			const asked = api.PUT('/api/cuts/{cut_id}', {
				params: { path: { cut_id: this.cut.id } },
				// The server validates the recipe; its type there is a union of every filter.
				body: { version: this.#version, before, after, recipe: recipe as never, label: this.#label }
			});
			this.#takeFacts(await request(asked));
			this.asSaved = recipe;
		} catch (error) {
			this.#transition = true;
			throw error;
		}
	}

	#refused(error: unknown) {
		const conflict = error instanceof Refusal && error.status === 409;
		this.saved = conflict ? 'conflict' : 'unsaved';
		if (!conflict) toast.error(error);
	}

	/** After a conflict: load the other window's version, or save this one over it. */
	async resolve(keep: 'theirs' | 'mine') {
		try {
			const asked = api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: this.cut.id } } });
			const theirs = await request(asked);
			if (keep === 'theirs') {
				// The changes made here are kept as a variant.
				if (!(await this.variants.pin())) return;
				this.#take(theirs);
				return;
			}
			this.#takeFacts(theirs);
			this.saved = 'unsaved';
			this.#transition = true;
			await this.flush();
		} catch (error) {
			toast.error(error);
		}
	}
}
