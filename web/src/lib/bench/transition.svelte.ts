// The transition of a cut as it is edited: recipe, window and framing, and how they are saved.
import { goto } from '$app/navigation';
import { api, request, Refusal, type Catalogue, type Cut, type Framing } from '$lib/api/client';
import type { Filter, Recipe } from '$lib/recipe/recipe';
import { Saver, type SendOptions } from '$lib/saving/saver.svelte';
import { rateNumber } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';

export type ClipSide = 'outgoing' | 'incoming';
/** What a change means for the preview: another state, other source pictures, other clips. */
export type Changed = 'state' | 'framing' | 'clips';
type Framings = Record<ClipSide, Framing>;

const SAVE_AFTER_MS = 350;
const TRANSITION = 'transition';

export class TransitionDocument {
	cut = $state.raw() as Cut;
	recipe = $state.raw() as Recipe;
	before = $state(1);
	after = $state(1);
	framing = $state.raw() as Framings;
	/** The last saved recipe, for the old value in the labels of the history. */
	asSaved = $state.raw() as Recipe;
	readonly saver = new Saver();
	/** Called after every change, before it is saved. */
	onchange: (what: Changed) => void = () => {};

	/** Called when a change of the transition has been saved. */
	onsaved: () => void = () => {};

	#version = 0;
	#label = '';
	#savedFraming = {} as Framings;
	/** Changes made while a reshape is on its way: they are repeated on its result. */
	#meanwhile: ((recipe: Recipe) => Recipe)[] | null = null;
	#reshaping: Promise<unknown> = Promise.resolve();
	/** Grows when another state is loaded: reshapes of the former one are dropped. */
	#loaded = 0;

	constructor(
		cut: Cut,
		readonly catalogue: Catalogue
	) {
		this.#load(cut);
	}

	get rate(): number {
		return rateNumber(this.cut.rate);
	}

	/** Change the recipe; `label` names the step in the history. */
	change(label: string, change: (recipe: Recipe) => Recipe) {
		this.recipe = change(this.recipe);
		this.#meanwhile?.push(change);
		this.#changed(label);
	}

	changeFilter(id: string, label: string, change: (filter: Filter) => Filter) {
		this.change(label, (recipe) => ({
			...recipe,
			filters: recipe.filters.map((filter) => (filter.id === id ? change(filter) : filter))
		}));
	}

	/**
	 * Change the recipe to what `make` answers for it. Reshapes wait for one another; changes made
	 * meanwhile are repeated on the result. Returns the answer where it is now the recipe.
	 */
	reshape(label: string, make: (recipe: Recipe) => Promise<Recipe>): Promise<Recipe | null> {
		const done = this.#reshaping.then(async () => {
			const loaded = this.#loaded;
			const meanwhile: ((recipe: Recipe) => Recipe)[] = (this.#meanwhile = []);
			try {
				const made = await make(this.recipe);
				if (loaded !== this.#loaded) return null;
				this.recipe = meanwhile.reduce((recipe, change) => change(recipe), made);
				this.#changed(meanwhile.length ? this.#label : label);
				return meanwhile.length ? null : made;
			} catch (error) {
				toast.error(error);
				return null;
			} finally {
				this.#meanwhile = null;
			}
		});
		this.#reshaping = done;
		return done;
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
		this.#changed(label);
	}

	#sayLimited(side: ClipSide, neighbour: string | null, step: number) {
		const number = this.cut.number + step;
		if (!neighbour) toast.info(`The window cannot be longer: the ${side} clip has no more frames.`);
		else
			toast.info(
				`The window cannot be longer: it meets the window of cut ${number}. Shorten that one first.`,
				{ label: `Open cut ${number}`, run: () => void goto(`/cuts/${neighbour}`) }
			);
	}

	/** Set the framing of a clip, on all its frames in the edit. */
	setFraming(side: ClipSide, framing: Framing) {
		this.framing = { ...this.framing, [side]: framing };
		this.onchange('framing');
		const send = (options: SendOptions) => this.#sendFraming(side, options);
		this.saver.put({ key: `framing ${side}`, send }, SAVE_AFTER_MS);
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

	/** Undo or redo a step of the history, once everything is saved. */
	step(direction: 'undo' | 'redo'): Promise<void> {
		return this.#loadFrom(() => {
			const path = { params: { path: { cut_id: this.cut.id } }, body: { version: this.#version } };
			return direction === 'undo'
				? api.POST('/api/cuts/{cut_id}/undo', path)
				: api.POST('/api/cuts/{cut_id}/redo', path);
		});
	}

	/** Return to a step of the history. */
	goTo(number: number): Promise<void> {
		return this.#loadFrom(() =>
			api.POST('/api/cuts/{cut_id}/history/{number}', {
				params: { path: { cut_id: this.cut.id, number } },
				body: { version: this.#version }
			})
		);
	}

	/** Move the cut later by frames: a rolling trim of its clips. */
	async moveCut(by: number): Promise<void> {
		await this.#loadFrom(async () => {
			await request(
				api.POST('/api/edits/{edit_id}/cuts/move', {
					params: {
						path: { edit_id: this.cut.edit_id },
						query: { version: this.cut.edit_version }
					},
					body: { moves: [{ cut: this.cut.id, by }] }
				})
			);
			return this.#get();
		});
	}

	/** Step the frames that meet at the cut; a clip that slips keeps its length. */
	async stepCut(step: { outgoing?: number; incoming?: number; slip: boolean }): Promise<void> {
		await this.#loadFrom(async () => {
			await request(
				api.POST('/api/edits/{edit_id}/cuts/{cut_id}/step', {
					params: {
						path: { edit_id: this.cut.edit_id, cut_id: this.cut.id },
						query: { version: this.cut.edit_version }
					},
					body: { outgoing: 0, incoming: 0, ...step }
				})
			);
			return this.#get();
		});
	}

	/** After a conflict: load the other window's version, or save this one over it. */
	async resolve(keep: 'theirs' | 'mine', pin: () => Promise<boolean>) {
		try {
			const theirs = await request(this.#get());
			// The changes made here are kept as a variant.
			if (keep === 'theirs' && !(await pin())) return;
			if (keep === 'theirs') {
				this.#savedFraming = {} as Framings;
				this.#load(theirs);
			} else {
				this.#takeFacts(theirs);
				this.#savedFraming = framingsOf(theirs);
				this.#version = theirs.version;
			}
			this.saver.resolved(keep === 'mine');
		} catch (error) {
			toast.error(error);
		}
	}

	close() {
		void this.saver.flush();
	}

	#get() {
		return api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: this.cut.id } } });
	}

	async #loadFrom(ask: () => Parameters<typeof request<Cut>>[0]): Promise<void> {
		await this.#reshaping;
		try {
			const cut = await this.saver.afterSaving(() => request(ask()));
			if (cut) this.#load(cut);
			else toast.error(`Not done: there are unsaved changes. ${this.saver.problem}`);
		} catch (error) {
			if (!(error instanceof Refusal && error.status === 409)) toast.error(error);
			// Nothing is unsaved here: what the other window made of it is shown.
			else await this.#loadTheirs();
		}
	}

	async #loadTheirs() {
		toast.info('This cut was changed in another window. Its newest state is shown.');
		try {
			this.#load(await request(this.#get()));
		} catch (error) {
			toast.error(error);
		}
	}

	#load(cut: Cut) {
		this.#loaded += 1;
		const moved = this.#takeFacts(cut);
		this.before = cut.before;
		this.after = cut.after;
		const framings = framingsOf(cut);
		const reframed = !same(framings, this.framing);
		this.framing = this.#savedFraming = framings;
		this.recipe = this.asSaved = cut.recipe as Recipe;
		this.#version = cut.version;
		this.onchange(moved ? 'clips' : reframed ? 'framing' : 'state');
	}

	/** Take what surrounds the transition; return whether its clips were trimmed. */
	#takeFacts(cut: Cut): boolean {
		const was = this.cut as Cut | undefined;
		this.cut = cut;
		const ends = (of: Cut) => [of.outgoing.id, of.outgoing.end_shown, of.incoming.first_shown];
		return was !== undefined && !same(ends(was), ends(cut));
	}

	#changed(label: string) {
		this.#label = label;
		this.onchange('state');
		const send = (options: SendOptions) => this.#sendTransition(options);
		this.saver.put({ key: TRANSITION, send }, SAVE_AFTER_MS);
	}

	async #sendTransition({ keepalive }: SendOptions) {
		const { recipe, before, after } = this;
		const asked = api.PUT('/api/cuts/{cut_id}', {
			params: { path: { cut_id: this.cut.id } },
			// The server validates the recipe; its type there is a union of every filter.
			body: { version: this.#version, before, after, recipe: recipe as never, label: this.#label },
			keepalive
		});
		const cut = await request(asked);
		this.#version = cut.version;
		this.onsaved();
		this.asSaved = recipe;
		if (this.#takeFacts(cut)) this.onchange('clips');
	}

	/** Save a framing. An edit that was changed elsewhere is no conflict where this framing was not. */
	async #sendFraming(side: ClipSide, { keepalive }: SendOptions) {
		const framing = this.framing[side];
		const put = () =>
			request(
				api.PATCH('/api/edits/{edit_id}/placed/{placed_id}', {
					params: {
						path: { edit_id: this.cut.edit_id, placed_id: this.cut[side].id },
						query: { version: this.cut.edit_version }
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
			const theirs = await request(this.#get());
			if (!same(theirs[side].framing, this.#savedFraming[side])) throw error;
			if (this.#takeFacts(theirs)) this.onchange('clips');
			saved = await put();
		}
		this.#savedFraming = { ...this.#savedFraming, [side]: framing };
		this.cut = { ...this.cut, edit_version: saved.version };
	}
}

function framingsOf(cut: Cut): Framings {
	return { outgoing: cut.outgoing.framing, incoming: cut.incoming.framing };
}

function same(one: unknown, other: unknown): boolean {
	return JSON.stringify(one) === JSON.stringify(other);
}
