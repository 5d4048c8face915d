// The state of the bench: one cut's transition, how it is looked at, and how it is saved.
import { api, need, Refusal, type Catalogue, type Cut, type Framing } from '$lib/api/client';
import { LoopSound } from './loopSound.svelte';
import { rateNumber } from '$lib/ui/numbers';
import { notices } from '$lib/ui/notices.svelte';
import { goto } from '$app/navigation';
import type { Preview } from './preview.svelte';
import type { Pass, Recipe } from './recipe';
import { Variants } from './variants.svelte';

export const COMPARES = [
	'rendered',
	'untreated',
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
	/** How the two clips stand in the frame. */
	framing = $state.raw() as Record<ClipSide, Framing>;
	selected = $state('');
	shown = $state(0);
	compare = $state<Compare>('rendered');
	/** While H is held, whatever is compared. */
	held = $state(false);
	/** Where the line of the split stands, as a share of the picture's width. */
	splitAt = $state(0.5);
	/** Whether the open lane draws how fast its curve moves. */
	showSpeed = $state(false);
	playing = $state(false);
	speed = $state(1);
	saved = $state<SavedState>('saved');
	readonly variants: Variants;
	readonly sound: LoopSound;
	/** The recipe as it was saved last, to tell from what to what a value was changed. */
	asSaved = $state.raw() as Recipe;

	#version = 0;
	#label = '';
	/** What was changed since it was saved: the transition, and the sides that stand differently. */
	#transition = false;
	readonly #framed = new Set<ClipSide>();
	#timer: ReturnType<typeof setTimeout> | undefined;
	#turn: Promise<void> = Promise.resolve();

	constructor(
		cut: Cut,
		readonly catalogue: Catalogue,
		/** The cut's preview; whoever opened it closes it. */
		readonly preview: Preview
	) {
		this.variants = new Variants(this, cut.id);
		this.sound = new LoopSound(cut.id);
		this.#take(cut);
		this.selected = this.recipe.passes[0]?.id ?? 'mix';
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

	/** Change the recipe; `label` tells the history what was done. */
	change(label: string, change: (recipe: Recipe) => Recipe) {
		this.recipe = change(this.recipe);
		this.#changed(label);
	}

	changePass(id: string, label: string, change: (pass: Pass) => Pass) {
		this.change(label, (recipe) => ({
			...recipe,
			passes: recipe.passes.map((pass) => (pass.id === id ? change(pass) : pass))
		}));
	}

	/** Set the window, held inside what the clips and the neighbours leave; where it is held, told. */
	setWindow(before: number, after: number) {
		if (before > this.cut.most_before) this.#tellHeld('outgoing', this.cut.previous_id, -1);
		if (after > this.cut.most_after) this.#tellHeld('incoming', this.cut.next_id, 1);
		const next = {
			before: Math.min(Math.max(1, Math.round(before)), this.cut.most_before),
			after: Math.min(Math.max(1, Math.round(after)), this.cut.most_after)
		};
		if (next.before === this.before && next.after === this.after) return;
		const label = `window ${this.before} | ${this.after} → ${next.before} | ${next.after}`;
		this.before = next.before;
		this.after = next.after;
		this.show(this.shown);
		this.#changed(label);
	}

	#tellHeld(side: ClipSide, neighbour: string | null, step: number) {
		const number = this.cut.number + step;
		if (!neighbour) notices.tell(`The ${side} clip has no more frames for the window.`);
		else
			notices.tell(`The window of cut ${number} meets this one there: shorten it to go further.`, {
				label: `Open cut ${number}`,
				run: () => void goto(`/cuts/${neighbour}`)
			});
	}

	/** Look at a frame, held inside the window and its run-up. */
	show(offset: number) {
		this.shown = Math.min(Math.max(offset, this.firstShown), this.lastShown);
		this.preview.look(this.shown, this.#sources());
		this.variants.look(this.shown);
	}

	/** What the picture shows now. */
	get comparing(): Compare {
		return this.held ? 'untreated' : this.compare;
	}

	setCompare(compare: Compare) {
		this.compare = compare;
		this.preview.look(this.shown, this.#sources());
	}

	hold(held: boolean) {
		this.held = held;
		this.preview.look(this.shown, this.#sources());
	}

	/** The frames that are wanted untreated for what is compared. */
	#sources(): number[] {
		if (this.comparing === 'rendered') return [];
		return this.comparing.startsWith('cut') ? [-1, 0] : [this.shown];
	}

	/** Let the cut come later by frames; its clips are trimmed against each other. */
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

	/** Let a clip stand differently in the frame; this holds for the whole placed clip. */
	setFraming(side: ClipSide, framing: Framing) {
		this.framing = { ...this.framing, [side]: framing };
		this.#framed.add(side);
		this.preview.forgetSources();
		this.#later();
	}

	/** Save the framing of the sides where it changed. */
	async #saveFraming() {
		for (const side of [...this.#framed]) {
			this.#framed.delete(side);
			await need(
				api.PATCH('/api/edits/{edit_id}/placed/{placed_id}', {
					params: { path: { edit_id: this.cut.edit_id, placed_id: this.cut[side].id } },
					body: { framing: this.framing[side] }
				})
			);
		}
	}

	/** Lay the incoming clip over the outgoing one, or give it its colours; told, with a way back. */
	async match(what: 'placement' | 'colours') {
		const was = this.framing.incoming;
		try {
			const { framing, agreeing } = await need(
				api.POST('/api/cuts/{cut_id}/match', {
					params: { path: { cut_id: this.cut.id } },
					body: { what, outgoing: this.framing.outgoing, incoming: was }
				})
			);
			this.setFraming('incoming', framing);
			const told =
				what === 'colours'
					? 'The incoming clip has the brightness and contrast of the outgoing one.'
					: `The incoming clip lies over the outgoing one: ${agreeing} details agree.`;
			notices.tell(told, { label: 'Undo', run: () => this.setFraming('incoming', was) });
		} catch (error) {
			notices.wrong(error);
		}
	}

	select(id: string) {
		this.selected = id;
	}

	/** Save now what is not saved yet. */
	flush(): Promise<void> {
		clearTimeout(this.#timer);
		return this.#inTurn(async () => {
			if (this.saved === 'unsaved') await this.#save();
		});
	}

	/** What is asked of the server waits for what was asked before: each needs the version then. */
	#inTurn(work: () => Promise<void>): Promise<void> {
		this.#turn = this.#turn.then(work);
		return this.#turn;
	}

	async step(way: 'undo' | 'redo') {
		void this.flush();
		await this.#inTurn(() => {
			const path = { params: { path: { cut_id: this.cut.id } }, body: { version: this.#version } };
			return this.#takeAnswer(
				way === 'undo'
					? api.POST('/api/cuts/{cut_id}/undo', path)
					: api.POST('/api/cuts/{cut_id}/redo', path)
			);
		});
	}

	/** Go to a step of the history. */
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

	async #takeAnswer(asked: Parameters<typeof need<Cut>>[0]) {
		try {
			this.#take(await need(asked));
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

	/** Show the change now, and save it once no other follows. */
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
				// The server validates the recipe; its type there is a union of every pass.
				body: { version: this.#version, before, after, recipe: recipe as never, label: this.#label }
			});
			this.#takeFacts(await need(asked));
			this.asSaved = recipe;
		} catch (error) {
			this.#transition = true;
			throw error;
		}
	}

	#refused(error: unknown) {
		const conflict = error instanceof Refusal && error.status === 409;
		this.saved = conflict ? 'conflict' : 'unsaved';
		if (!conflict) notices.wrong(error);
	}

	/** After another window saved first: take its state, or put this one over it. */
	async resolve(keep: 'theirs' | 'mine') {
		try {
			const asked = api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: this.cut.id } } });
			const theirs = await need(asked);
			if (keep === 'theirs') {
				// Nothing is lost: what was made here stays at hand as a variant.
				if (!(await this.variants.pin())) return;
				this.#take(theirs);
				return;
			}
			this.#takeFacts(theirs);
			this.saved = 'unsaved';
			this.#transition = true;
			await this.flush();
		} catch (error) {
			notices.wrong(error);
		}
	}
}
